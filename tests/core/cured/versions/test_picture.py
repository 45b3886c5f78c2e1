"""The picture of a version against Pillow, OpenCV, colour-science and the FFmpeg libraries."""

import unittest
import warnings

import av
import cv2
import numpy as np
from PIL import Image

from shapkeen.core.colour.coding import Coding
from shapkeen.core.colour.lookup import LookUpTable
from shapkeen.core.colour.matrix import rgb_from_ycbcr
from shapkeen.core.colour.tone_maps import TONE_MAPS
from shapkeen.core.cured.versions.picture.conversion import Fold, conversion_between
from shapkeen.core.cured.versions.picture.grids import LUMA, chroma_lattice, resampler_between
from shapkeen.core.cured.versions.picture.maker import Piece, Samples, Way, make_planes
from shapkeen.core.cured.versions.picture.resampling import Resampler
from shapkeen.core.cured.versions.picture.sampling import Grid, lanczos, weights_between
from shapkeen.core.cured.versions.picture.through_table import through_table
from shapkeen.core.geometry.framing import Area
from shapkeen.core.measured.alignment.expected import converted
from shapkeen.core.measured.decoded.frames import Frame
from tests.builders.media import coded, photo_frames

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

SDR = Coding(transfer=1, primaries=1, matrix=1, full_range=False)
WIDE_SDR = Coding(transfer=1, primaries=9, matrix=9, full_range=False)
FULL = Coding(transfer=1, primaries=1, matrix=1, full_range=True)
PQ = Coding(transfer=16, primaries=9, matrix=9, full_range=False)
HLG = Coding(transfer=18, primaries=9, matrix=9, full_range=False)
SIZE = (320, 180)


def scaled(plane: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    height, width = plane.shape
    sides = ((width, size[0]), (height, size[1]))
    return Resampler(
        0, 0, *(weights_between(Grid(n), Grid(m), start=0, scale=n / m) for n, m in sides)
    ).apply(plane)


def samples(coding: Coding, raster=SIZE, depth=8, chroma="4:2:0", location=0) -> Samples:
    return Samples(raster=raster, depth=depth, chroma=chroma, location=location, coding=coding)


def frame_of(planes: tuple, depth: int) -> Frame:
    kind = np.uint8 if depth == 8 else np.uint16
    luma, cb, cr = (np.ascontiguousarray(plane, kind) for plane in planes)
    return Frame(number=0, depth=depth, luma=luma, cb=cb, cr=cr)


def whole(own: tuple[int, int], goal: tuple[int, int]) -> tuple[Piece, ...]:
    return (Piece(Area(0, 0, *own), Area(0, 0, *goal)),)


def photograph(depth: int = 8, chroma: str = "4:2:0") -> Frame:
    return frame_of(
        coded(photo_frames("coffee", SIZE)[0], matrix=1, depth=depth, chroma=chroma), depth
    )


class Kernel(unittest.TestCase):
    plane = np.random.default_rng(4).random((90, 160)).astype(np.float32)

    def test_lanczos_is_pillows_larger_smaller_and_in_odd_ratios(self) -> None:
        for size in ((320, 180), (111, 37), (160, 300), (161, 91)):
            wanted = Image.fromarray(self.plane).resize(size, Image.Resampling.LANCZOS)
            with self.subTest(size):
                self.assertLess(np.abs(scaled(self.plane, size) - np.asarray(wanted)).max(), 1e-5)

    def test_same_size_is_the_same(self) -> None:
        np.testing.assert_array_equal(scaled(self.plane, (160, 90)), self.plane)

    def test_it_is_closer_to_the_scene_than_opencvs_cubic(self) -> None:
        x = np.linspace(0, 1, 161)[:-1] + 1 / 320
        y = np.linspace(0, 1, 91)[:-1] + 1 / 180
        fine_x, fine_y = (np.linspace(0, 1, n + 1)[:-1] + 1 / (2 * n) for n in (320, 180))

        def scene(a: np.ndarray, b: np.ndarray) -> np.ndarray:
            return (np.sin(260 * a) + np.cos(150 * b[:, None])).astype(np.float32)

        wanted, given = scene(fine_x, fine_y), scene(x, y)
        inner = (slice(12, -12), slice(12, -12))
        ours = np.abs(scaled(given, (320, 180)) - wanted)[inner].mean()
        cubic = cv2.resize(given, (320, 180), interpolation=cv2.INTER_CUBIC)
        self.assertLess(ours, 0.7 * np.abs(cubic - wanted)[inner].mean())

    def test_values_of_the_kernel(self) -> None:
        # Duchon 1979: sinc times a sinc three times as wide; ½ and 3/2 by hand
        wanted = [
            1,
            6 / np.pi**2 * 2 * np.sin(np.pi / 6),
            0,
            -2 * np.sin(np.pi / 2) * 2 / (3 * np.pi**2),
        ]
        np.testing.assert_allclose(lanczos(np.array([0, 0.5, 1, 1.5])), wanted, atol=1e-12)


class Tables(unittest.TestCase):
    def test_compiled_loops_read_a_table_as_the_expected_picture_does(self) -> None:
        random = np.random.default_rng(8)
        zero = np.array([0, 0.5, 0.5], np.float32)[:, None, None]
        signals = random.random((3, 20, 30)).astype(np.float32) - zero
        matrix = rgb_from_ycbcr(1).astype(np.float32)
        rgb = np.clip(np.einsum("ij,jyx->yxi", matrix, signals), 0, 1).astype(np.float64)
        for shape in ((17, 17, 17, 3), (33, 3)):
            table = LookUpTable(random.random(shape))
            made = through_table(signals, matrix, table)
            with self.subTest(table.kind):
                np.testing.assert_allclose(made.transpose(1, 2, 0), table.apply(rgb), atol=2e-5)


class Siting(unittest.TestCase):
    def test_a_ramp_of_colour_stays_where_it_is_at_every_location(self) -> None:
        # H.273 figure 1: a plane that rises along the picture has at each place that place's value.
        down, across = np.mgrid[0:36, 0:64] + 0.5
        for location in range(6):
            lattice = chroma_lattice("4:2:0", location)
            picture = Area(0, 0, 64, 36)
            made = resampler_between(LUMA, picture, lattice, picture).apply(
                (across + 3 * down).astype(np.float32)
            )
            x = lattice.first[0] + 2 * np.arange(32)
            y = lattice.first[1] + 2 * np.arange(18)
            wanted = x[None, :] + 3 * y[:, None]
            inner = (slice(4, -4), slice(4, -4))
            with self.subTest(location):
                np.testing.assert_allclose(made[inner], wanted[inner], atol=0.02)

    def test_there_and_back_moves_no_colour(self) -> None:
        frame = photograph()
        way = Way(own=samples(SDR), goal=samples(SDR, chroma="4:4:4", depth=10))
        up = make_planes(frame, way, whole(SIZE, SIZE))
        back = make_planes(
            frame_of(up, 10), Way(own=way.goal, goal=samples(SDR)), whole(SIZE, SIZE)
        )
        for before, after in zip((frame.cb, frame.cr), back[1:], strict=True):
            self.assertLess(np.abs(before.astype(int) - after).mean(), 0.4)


class Codes(unittest.TestCase):
    def test_more_bits_are_the_same_codes(self) -> None:
        frame = photograph()
        made = make_planes(
            frame, Way(own=samples(SDR), goal=samples(SDR, depth=10)), whole(SIZE, SIZE)
        )
        for before, after in zip((frame.luma, frame.cb, frame.cr), made, strict=True):
            np.testing.assert_array_equal(after, before.astype(np.uint16) * 4)

    def test_fewer_bits_keep_a_slope_that_they_cannot_write(self) -> None:
        # a slope of 1 code in 10 bits over 320 samples: rounded, it would be one flat area
        ramp = np.broadcast_to(np.linspace(400, 402, SIZE[0]), (SIZE[1], SIZE[0]))
        grey = np.full((90, 160), 512)
        made, *_ = make_planes(
            frame_of((np.round(ramp), grey, grey), 10),
            Way(own=samples(SDR, depth=10), goal=samples(SDR)),
            whole(SIZE, SIZE),
        )
        third = SIZE[0] // 5
        means = [
            float(part.mean())
            for part in (made[:, :third], made[:, 2 * third : 3 * third], made[:, -third:])
        ]
        np.testing.assert_allclose(means, [100, 100.25, 100.5], atol=0.02)
        self.assertLessEqual(int(made.max()) - int(made.min()), 1)

    def test_range_by_its_factors(self) -> None:
        # BT.2100-2 table 9: 16 to 235 becomes 0 to 255
        frame = photograph()
        made, cb, _ = make_planes(
            frame, Way(own=samples(SDR), goal=samples(FULL)), whole(SIZE, SIZE)
        )
        wanted = np.clip((frame.luma.astype(float) - 16) * 255 / 219, 0, 255)
        self.assertLess(np.abs(made - wanted).max(), 1.0)
        self.assertLess(np.abs(cb - (128 + (frame.cb.astype(float) - 128) * 255 / 224)).max(), 1.0)

    def test_outside_the_picture_it_is_black(self) -> None:
        way = Way(own=samples(SDR), goal=samples(SDR, raster=(320, 240), depth=10))
        made = make_planes(photograph(), way, (Piece(Area(0, 0, *SIZE), Area(0, 30, *SIZE)),))
        self.assertEqual(set(made[0][:30].ravel()) | set(made[0][-30:].ravel()), {64})
        self.assertEqual(set(made[1][:15].ravel()), {512})

    def test_a_piece_that_leaves_its_picture_is_refused(self) -> None:
        way = Way(own=samples(SDR), goal=samples(SDR))
        with self.assertRaises(ValueError):
            make_planes(photograph(), way, (Piece(Area(10, 0, *SIZE), Area(0, 0, *SIZE)),))

    def test_scaled_as_the_ffmpeg_libraries_scale(self) -> None:
        frame = photograph()
        way = Way(own=samples(SDR), goal=samples(SDR, raster=(640, 360)))
        made, *_ = make_planes(frame, way, whole(SIZE, (640, 360)))
        stacked = np.concatenate([p.ravel() for p in (frame.luma, frame.cb, frame.cr)])
        given = av.VideoFrame.from_ndarray(stacked.reshape(-1, SIZE[0]), format="yuv420p")
        theirs = given.reformat(640, 360, interpolation="LANCZOS").to_ndarray()[:360]
        off = np.abs(made.astype(int) - theirs)[4:-4, 4:-4]
        self.assertLess(off.mean(), 0.5)
        self.assertLessEqual(np.percentile(off, 99.9), 2)


class Light(unittest.TestCase):
    signal = np.random.default_rng(6).random((60, 80, 3)) ** 1.5

    def made(
        self, own: Coding, goal: Coding, signal: np.ndarray, fold: Fold | None = None
    ) -> np.ndarray:
        """Return R'G'B' of a goal for R'G'B' of a master, through the tabulated conversion."""
        way = conversion_between(own, goal, fold or Fold())
        matrix = np.linalg.inv(way.rgb.astype(float))
        planes = np.ascontiguousarray(np.moveaxis(signal @ matrix.T, -1, 0), np.float32)
        return np.moveaxis(way.close(way.light(planes)), 0, -1)

    def test_it_is_the_expected_picture(self) -> None:
        codings = {"SDR": SDR, "wide SDR": WIDE_SDR, "PQ": PQ, "HLG": HLG}
        for (one, own), (other, goal) in ((a, b) for a in codings.items() for b in codings.items()):
            if one == other:
                continue
            from shapkeen.core.colour.coding import codes_from_signal, signal_from_codes

            codes = converted(codes_from_signal(self.signal, own), own, goal)
            wanted = np.clip(signal_from_codes(codes, goal), 0, 1)
            with self.subTest(f"{one} to {other}"):
                off = np.abs(self.made(own, goal, self.signal) - wanted) * 876
                self.assertLess(off.max(), 0.6)
                self.assertLess(off.mean(), 0.02)

    def test_hlg_to_pq_and_back_as_colour_science_has_it(self) -> None:
        # ITU-R BT.2100-2: HLG on a display of 1000 cd/m², black 0, system gamma 1.2
        with colour.utilities.suppress_warnings(colour_usage_warnings=True):
            light = colour.models.eotf_BT2100_HLG(self.signal, L_B=0, L_W=1000, gamma=1.2)
            pq = colour.models.eotf_inverse_ST2084(light, 10000)
        np.testing.assert_allclose(self.made(HLG, PQ, self.signal), pq, atol=4e-4)
        np.testing.assert_allclose(self.made(PQ, HLG, pq), self.signal, atol=2e-3)

    def test_bt709_to_bt2020_as_colour_science_has_it(self) -> None:
        one, other = (colour.RGB_COLOURSPACES[n] for n in ("ITU-R BT.709", "ITU-R BT.2020"))
        step = colour.matrix_RGB_to_RGB(one, other, None)
        wanted = np.clip(self.signal**2.4 @ step.T, 0, 1) ** (1 / 2.4)
        np.testing.assert_allclose(self.made(SDR, WIDE_SDR, self.signal), wanted, atol=2e-4)

    def test_every_tone_map_is_its_curve_and_ends_at_white(self) -> None:
        grey = np.repeat(np.linspace(0, 1, 200)[None, :, None], 3, axis=2)
        light = colour.models.eotf_ST2084(grey, 10000)
        for name in TONE_MAPS:
            fold = Fold(method=name, peak_nits=1000, white_nits=203)
            made = self.made(PQ, SDR, grey, fold)[0, :, 1]
            with self.subTest(name):
                self.assertTrue(np.all(np.diff(made) > -1e-5))
                self.assertAlmostEqual(float(made[-1]), 1.0, delta=0.02)
                np.testing.assert_allclose(made**2.4 * 100, fold.apply(light[0, :, 1]), atol=0.15)

    def test_scaled_in_light_fine_lines_keep_their_light(self) -> None:
        # lines of black and white, halved: half the light, which is a signal of ½ to the 1/2.4th
        lines = np.tile(np.array([16, 235], np.uint8), (180, 160))
        grey = np.full((90, 160), 128, np.uint8)
        means = {}
        for linear in (False, True):
            way = Way(own=samples(SDR), goal=samples(SDR, raster=(160, 90)), linear=linear)
            made, *_ = make_planes(frame_of((lines, grey, grey), 8), way, whole(SIZE, (160, 90)))
            means[linear] = float(made[8:-8, 8:-8].mean())
        self.assertAlmostEqual(means[False], 16 + 219 * 0.5, delta=1.5)
        self.assertAlmostEqual(means[True], 16 + 219 * 0.5 ** (1 / 2.4), delta=1.5)
