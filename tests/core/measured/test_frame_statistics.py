"""Every sample of every frame, against slow plain NumPy, and however a file is cut.

Sources: CTA-861.3-A (light levels); the worked frames of the reference's arithmetic; ITU-R
BT.2100-2 tables 4, 5, 9; ITU-R BT.2408 table 1; colour-science for chromaticities.
"""

import gc
import subprocess
import sys
import tempfile
import unittest
import weakref
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

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
from shapkeen.core.measured import Bars, FileSurvey, Reading, Source
from shapkeen.core.measured.alignment.place.bars import light_inside
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.frame_statistics.counter import Counter
from shapkeen.core.measured.frame_statistics.engine import count_file, count_span
from shapkeen.core.measured.frame_statistics.findings import survey_from_tally
from shapkeen.core.measured.frame_statistics.model import Tally, joined
from shapkeen.core.measured.spans.cutting import Span, plan_spans, read_span
from shapkeen.core.measured.spans.store import PartStore
from tests.builders.media import Coding, coded, photo_frames, write

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


CLIPS = {
    "open.mp4": {"x264-params": "open-gop=1:keyint=12:bframes=3"},
    "closed.mkv": {"x264-params": "keyint=12:bframes=3:scenecut=0"},
    "open265.mp4": {"codec": "libx265", "x265-params": "open-gop=1:keyint=12:log-level=error"},
    "intra.mov": {"codec": "prores_ks", "pix_fmt": "yuv422p10le"},
    "transport.ts": {"x264-params": "keyint=12"},
}


def clip(name: str, count: int, *, codec="libx264", pix_fmt="yuv420p", **options: str) -> Path:
    """Return a small moving clip."""
    stem, _, ending = name.partition(".")
    deep = "10" in pix_fmt
    planes = [
        coded(one, matrix=9, depth=10 if deep else 8, chroma="4:2:2" if deep else "4:2:0")
        for one in photo_frames("coffee", (160, 96), count)
    ]
    coding = Coding(
        codec=codec,
        options=tuple(options.items()),
        pix_fmt=pix_fmt,
        ending=f".{ending}",
        flags=(),
    )
    return write(f"whole-{stem}", planes, coding)


class Spans(unittest.TestCase):
    """However a file is cut, the whole is the same to the last bit."""

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.files = {name: clip(name, 60, **kind) for name, kind in CLIPS.items()}

    def cuts(self, path: Path) -> list[Span]:
        keys = [t for t, picture in read_span(path, Span(None, None)) if picture.key_frame]
        edges = [None, *keys[1:], None]
        return [Span(a, b) for a, b in pairwise(edges)]

    def test_the_same_however_it_is_cut(self) -> None:
        for name, path in self.files.items():
            with self.subTest(name):
                source = Source(path, READING)
                whole = count_file(source, spans=[Span(None, None)])
                cuts = self.cuts(path)
                self.assertGreater(len(cuts), 3)
                parts = [count_span(source, span) for span in cuts]
                self.assertEqual(len(whole.frames), 60)
                # merged in another order, and in two steps
                halves = [joined(p for p in half if p) for half in (parts[::2], parts[1::2])]
                merged = joined(part for part in reversed(halves) if part)
                assert merged is not None
                self.assertEqual(merged.frames.tolist(), whole.frames.tolist())
                for field in ("codes", "brightest", "cells", "steps"):
                    np.testing.assert_array_equal(getattr(merged, field), getattr(whole, field))

    def test_any_moment_can_begin_a_span(self) -> None:
        for name in ("open.mp4", "open265.mp4", "closed.mkv"):
            times = [t for t, _ in read_span(self.files[name], Span(None, None))]
            for i in range(1, 60, 7):
                span = Span(times[i], times[i + 3] if i + 3 < 60 else None)
                found = [t for t, _ in read_span(self.files[name], span)]
                with self.subTest(name, start=i):
                    self.assertEqual(found, times[i : i + 3])

    def test_planned_spans_hold_every_frame_once(self) -> None:
        path = clip("long.mp4", 300, **{"x264-params": "open-gop=1:keyint=24"})
        spans = plan_spans(path)
        self.assertEqual(len(spans), 3)
        times = [t for span in spans for t, _ in read_span(path, span)]
        self.assertEqual(times, [t for t, _ in read_span(path, Span(None, None))])
        self.assertEqual(len(plan_spans(self.files["transport.ts"])), 1)

    def test_a_killed_survey_goes_on_where_it_was(self) -> None:
        path = self.files["open.mp4"]
        source, spans, folder = Source(path, READING), self.cuts(path), self.folder / "kept"

        class KilledError(Exception):
            pass

        def kill(done: int, _total: int) -> None:
            if done == 2:
                raise KilledError

        with self.assertRaises(KilledError):
            count_file(source, spans=spans, folder=folder, progress=kill)
        store = PartStore(folder, Tally, [source], "")
        self.assertEqual(sum(store.load(span) is not None for span in spans), 2)
        # a stored span that the disk has damaged is counted again
        next(store.folder.glob("*.npz")).write_bytes(b"no archive")
        reports: list[int] = []
        again = count_file(
            source, spans=spans, folder=folder, progress=lambda done, _: reports.append(done)
        )
        self.assertEqual(reports, list(range(1, len(spans) + 1)))
        self.assertEqual(again.frames.tolist(), count_file(source).frames.tolist())
        # another reading of the same file does not take those spans
        other = Source(path, replace(READING, transfer=18))
        self.assertIsNone(PartStore(folder, Tally, [other], "").load(spans[0]))

    def test_what_was_stored_or_loaded_is_let_go_at_once(self) -> None:
        # A film has hundreds of parts of ten megabytes: none may wait for the collector of cycles.
        source = Source(self.files["open.mp4"], READING)
        store = PartStore(self.folder / "let-go", Tally, [source], "")
        gc.disable()
        try:
            tally = count_span(source, Span(None, None))
            assert tally is not None
            held = [weakref.ref(tally.cells)]
            store.save("a part", tally)
            loaded = store.load("a part")
            assert loaded is not None
            self.assertEqual(loaded.cells.tobytes(), tally.cells.tobytes())
            held.append(weakref.ref(loaded.cells))
            del tally, loaded
            self.assertEqual([one() for one in held], [None, None])
        finally:
            gc.enable()

    def test_a_disk_that_takes_nothing_stops_no_survey(self) -> None:
        blocked = self.folder / "full"
        blocked.write_bytes(b"a file where the folder should be")
        source = Source(self.files["open.mp4"], READING)
        self.assertEqual(len(count_file(source, folder=blocked).frames), 60)

    def test_processes_give_the_same(self) -> None:
        path = self.files["closed.mkv"]
        source = Source(path, READING)
        # In a process of its own: those of a parallel test run may have no children.
        code = (
            "import sys; from pathlib import Path\n"
            "from tests.core.measured.test_frame_statistics import *\n"
            "from shapkeen.core.measured.spans.run import processes\n"
            "source = Source(Path(sys.argv[1]), READING)\n"
            "found = count_file(source, pool=processes(2))\n"
            "print(len(found.frames), found.codes.sum(), found.brightest.sum())"
        )
        said = subprocess.run(
            [sys.executable, "-W", "ignore", "-c", code, str(path)],
            capture_output=True,
            text=True,
            check=True,
        ).stdout
        whole = count_file(source)
        sums = (len(whole.frames), whole.codes.sum(), whole.brightest.sum())
        self.assertEqual(said.split(), [str(value) for value in sums])
