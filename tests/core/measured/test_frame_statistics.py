"""Every sample of every frame, against slow plain NumPy, and however a file is cut.

Sources: CTA-861.3-A (light levels); the worked frames of the reference's arithmetic; ITU-R
BT.2100-2 tables 4, 5, 9; ITU-R BT.2408 table 1; colour-science for chromaticities.
"""

import unittest
from dataclasses import replace
from fractions import Fraction

import colour
import numpy as np
from skimage import data

from shapkeen.core.colour import hlg, pq
from shapkeen.core.colour.matrix import rgb_from_ycbcr, ycbcr_from_rgb
from shapkeen.core.colour.quantisation import (
    chroma_code_from_signal,
    chroma_zero_span,
    luma_code_from_signal,
    luma_offset_span,
)
from shapkeen.core.measured import Bars, FileSurvey, Reading
from shapkeen.core.measured.alignment.place.bars import light_inside
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.frame_statistics.counter import Counter
from shapkeen.core.measured.frame_statistics.findings import survey_from_tally

READING = Reading(
    full_range=False, transfer=16, matrix=9, rate=Fraction(24), frame_count=48, primaries=9
)


def frame(luma: np.ndarray, *, cb=None, cr=None, depth: int = 10) -> Frame:
    """Return a frame of these codes; grey where no chroma is given."""
    kind = np.uint8 if depth == 8 else np.uint16
    grey = np.full(luma.shape, 128 << (depth - 8))
    planes = (luma, grey if cb is None else cb, grey if cr is None else cr)
    y, b, r = (np.ascontiguousarray(plane).astype(kind) for plane in planes)
    return Frame(number=0, depth=depth, luma=y, cb=b, cr=r)


def pq_frame(light: np.ndarray) -> Frame:
    """Return the 12-bit 4:4:4 PQ frame of linear BT.2020 light (row, column, channel)."""
    ycc = pq.signal_from_light(light) @ ycbcr_from_rgb(9).T
    luma = luma_code_from_signal(ycc[..., 0], depth=12, full_range=False)
    cb, cr = (chroma_code_from_signal(ycc[..., i], depth=12, full_range=False) for i in (1, 2))
    return frame(luma, cb=cb, cr=cr, depth=12)


def surveyed(*frames: Frame, reading: Reading = READING) -> FileSurvey:
    """Return the survey of frames a second apart."""
    counter = Counter(reading, frames[0].raster, frames[0].depth)
    for ticks, one in enumerate(frames):
        counter.add(one, ticks)
    return survey_from_tally(counter.result(), reading, tick_s=1.0, start=0)


def rgb_of(one: Frame, *, full_range: bool = False) -> np.ndarray:
    """Return R'G'B' of a frame by plain formulas, chroma repeated."""
    black, span = luma_offset_span(depth=one.depth, full_range=full_range)
    zero, chroma = chroma_zero_span(depth=one.depth, full_range=full_range)
    height, width = one.luma.shape
    planes = [(one.luma.astype(float) - black) / span]
    for plane in (one.cb, one.cr):
        rows = np.arange(height) * plane.shape[0] // height
        columns = np.arange(width) * plane.shape[1] // width
        planes.append((plane.astype(float)[rows][:, columns] - zero) / chroma)
    return np.stack(planes, axis=-1) @ rgb_from_ycbcr(9).T


def some_frame(depth: int, chroma: tuple[int, int], size=(64, 48), saturation=1.0) -> Frame:
    """Return a photograph's frame at a depth and chroma reduction (across, down)."""
    width, height = size
    photo = data.astronaut()[::7, ::7][:height, :width] / 255.0 * 0.75
    ycc = photo @ ycbcr_from_rgb(9).T * (1, saturation, saturation)
    luma = luma_code_from_signal(ycc[..., 0], depth=depth, full_range=False)
    small = ycc[:: chroma[1], :: chroma[0]]
    cb, cr = (chroma_code_from_signal(small[..., i], depth=depth, full_range=False) for i in (1, 2))
    return frame(luma, cb=cb, cr=cr, depth=depth)


KINDS = [(depth, chroma) for depth in (8, 10, 12) for chroma in ((2, 2), (2, 1), (1, 1))]


class Light(unittest.TestCase):
    # The worked frames of the reference's arithmetic, in linear BT.2020 light.
    A = np.array([[[1000.0, 200, 50], [100, 100, 100]], [[0, 0, 203], [0, 0, 0]]])
    B = np.full((2, 2, 3), (500.0, 300.0, 200.0))

    def test_worked_example(self) -> None:
        found = surveyed(pq_frame(self.A), pq_frame(self.B)).light
        assert found is not None
        # MaxCLL 1000, MaxFALL 500; a 12-bit PQ step is 0.2 % here, chroma adds another
        self.assertAlmostEqual(found.max_cll, 1000, delta=8)
        self.assertAlmostEqual(found.max_fall, 500, delta=4)
        self.assertAlmostEqual(found.series[0][2], 325.75, delta=3)
        self.assertEqual([time for time, _, _ in found.series], [0.0, 1.0])

    def test_percentile_ignores_a_stray_sample(self) -> None:
        luma = np.full((200, 200), 400)
        luma[7, 9] = 900
        found = surveyed(frame(luma)).light
        assert found is not None
        self.assertGreater(found.max_cll, 10 * found.p999)

    def test_share_above_the_mastering_peak(self) -> None:
        luma = np.full((100, 100), 300)
        luma[:10] = 64 + round(876 * float(pq.signal_from_light(2000.0)))
        found = surveyed(frame(luma), reading=replace(READING, peak_nits=1000.0)).light
        assert found is not None and found.above_peak is not None
        self.assertAlmostEqual(found.above_peak, 0.1, places=6)

    def test_black_bars_take_no_part_in_averages(self) -> None:
        # CTA-861.3-A: the levels are of the active picture
        luma = np.full((100, 200), 64)
        luma[20:80] = 500
        whole = surveyed(frame(luma)).light
        inner = surveyed(frame(luma[20:80])).light
        found = light_inside(whole, Bars(top=20, bottom=20), (200, 100))
        assert whole is not None and inner is not None and found is not None
        self.assertAlmostEqual(found.max_fall, inner.max_fall, places=6)
        self.assertAlmostEqual(whole.max_fall, inner.max_fall * 0.6, places=6)
        self.assertEqual(found.max_cll, inner.max_cll)

    def test_hlg_through_its_ootf(self) -> None:
        # ITU-R BT.2408: 75 % HLG is 203 cd/m² on a 1000 cd/m² display
        code = round(64 + 876 * 0.75)
        found = surveyed(frame(np.full((32, 32), code)), reading=replace(READING, transfer=18))
        assert found.light is not None
        self.assertAlmostEqual(found.light.max_cll, 203, delta=2)
        self.assertAlmostEqual(float(hlg.scene_from_signal(0.75)), 0.26496256, delta=1e-7)

    def test_sdr_has_no_light_levels(self) -> None:
        self.assertIsNone(
            surveyed(frame(np.full((8, 8), 500)), reading=replace(READING, transfer=1)).light
        )

    def test_equals_plain_numpy_at_every_depth_and_chroma_format(self) -> None:
        for transfer, sizes in ((16, ((64, 48), (62, 46))), (18, ((64, 48),))):
            for depth, chroma in KINDS:
                for size in sizes:
                    with self.subTest(transfer=transfer, depth=depth, chroma=chroma, size=size):
                        one = some_frame(depth, chroma, size)
                        found = surveyed(one, reading=replace(READING, transfer=transfer)).light
                        assert found is not None
                        signal = np.clip(rgb_of(one), 0, 1)
                        light = (
                            pq.light_from_signal(signal)
                            if transfer == 16
                            else hlg.display_from_scene(hlg.scene_from_signal(signal))
                        ).max(axis=-1)
                        # a bin is one code of 12 bits: 0.3 % of light
                        self.assertAlmostEqual(found.max_cll / light.max(), 1, delta=0.006)
                        self.assertAlmostEqual(found.max_fall / light.mean(), 1, delta=0.006)


class Gamut(unittest.TestCase):
    def test_equals_plain_numpy_at_every_depth_and_chroma_format(self) -> None:
        step = colour.RGB_COLOURSPACES["ITU-R BT.2020"].matrix_RGB_to_XYZ
        goals = ["P3-D65", "ITU-R BT.709"]
        for depth, chroma in KINDS:
            with self.subTest(depth=depth, chroma=chroma):
                one = some_frame(depth, chroma, saturation=1.4)
                found = surveyed(one).gamut
                assert found is not None
                light = pq.light_from_signal(np.clip(rgb_of(one), 0, 1))
                for name, share in zip(goals, (found.outside_p3, found.outside_bt709), strict=True):
                    back = colour.RGB_COLOURSPACES[name].matrix_XYZ_to_RGB
                    there = light @ (back @ step).T
                    least, most = there.min(axis=-1), light.max(axis=-1)
                    # the table's places are two chroma codes wide, so its edge is that blurred
                    lit = most > pq.light_from_signal(0.1)
                    strict = (lit & (least < -0.035 * most)).mean()
                    loose = (lit & (least < -0.008 * most)).mean()
                    self.assertLessEqual(strict, share + 1e-9)
                    self.assertLessEqual(share, loose + 1e-9)
                    self.assertGreater(loose, 0)

    def test_no_gamut_where_primaries_are_no_wider_than_bt709(self) -> None:
        self.assertIsNone(
            surveyed(some_frame(10, (2, 2)), reading=replace(READING, primaries=1)).gamut
        )

    def test_chromaticity_of_one_colour_lies_where_colour_science_says(self) -> None:
        light = np.full((32, 32, 3), (120.0, 60.0, 20.0))
        found = surveyed(pq_frame(light)).colours
        assert found is not None
        counts = np.array(found.chromaticity)
        places = (np.argwhere(counts) + 0.5) * 0.9 / counts.shape[0]
        weights = counts[counts > 0]
        y, x = (places * weights[:, None]).sum(axis=0) / weights.sum()
        space = colour.RGB_COLOURSPACES["ITU-R BT.2020"]
        expected = colour.XYZ_to_xy(space.matrix_RGB_to_XYZ @ np.array([120.0, 60.0, 20.0]))
        self.assertAlmostEqual(x, expected[0], delta=0.02)
        self.assertAlmostEqual(y, expected[1], delta=0.02)


def steps_of(luma: np.ndarray) -> list[int]:
    """Return how many neighbouring even runs differ by each step, of every sixteenth row."""
    found = [0] * 16
    for row in luma[::16].astype(int):
        starts = np.flatnonzero(np.diff(row, prepend=row[0] - 1))
        lengths = np.diff(starts, append=len(row))
        for at in range(1, len(starts)):
            step = abs(row[starts[at]] - row[starts[at - 1]])
            if min(lengths[at - 1 : at + 1]) >= 6 and step < 16:
                found[step] += 1
    return found


class Codes(unittest.TestCase):
    def test_range_and_levels(self) -> None:
        found = surveyed(frame(np.arange(256).reshape(16, 16), depth=8)).codes
        self.assertEqual((found.lowest, found.highest, found.levels), (0, 255, 256))
        # 0 to 14 stand below black by more than a step of rounding, 237 to 255 above white
        self.assertAlmostEqual(found.below_black, 15 / 256)
        self.assertAlmostEqual(found.above_white, 19 / 256)

    def test_comb(self) -> None:
        full = np.random.default_rng(1).integers(100, 900, (64, 64))
        for codes, expected in ((full, 0.25), (full // 4 * 4, 1.0)):
            self.assertAlmostEqual(surveyed(frame(codes)).codes.comb, expected, delta=0.03)

    def test_banding_of_a_gradient_that_passed_eight_bits(self) -> None:
        ramp = np.tile(np.linspace(200, 300, 4000), (256, 1)).astype(int)
        smooth, banded = (surveyed(frame(codes)).banding for codes in (ramp, ramp // 4 * 4))
        self.assertEqual(smooth, 0.0)
        self.assertEqual(banded, 1.0)
        self.assertIsNone(surveyed(frame(ramp // 4, depth=8)).banding)

    def test_steps_between_even_runs_by_their_definition(self) -> None:
        # runs of random length, of codes that wander; eight and ten bits, any width
        chance = np.random.default_rng(4)
        for depth, width in ((8, 640), (10, 331), (10, 12), (8, 5)):
            codes = np.cumsum(chance.integers(-9, 10, (64, width)), axis=1) + 120
            rows = np.take_along_axis(
                codes, np.sort(chance.integers(0, width // 4 + 1, codes.shape)), 1
            )
            planes = frame(np.clip(rows, 0, 255), depth=depth)
            counter = Counter(READING, planes.raster, depth)
            counter.add(planes, 0)
            with self.subTest(depth=depth, width=width):
                self.assertEqual(counter.result().steps.tolist(), steps_of(planes.luma))
                self.assertEqual(counter.result().steps.any(), width > 300)
