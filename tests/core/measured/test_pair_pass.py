"""The pass over both files of a pair: the same however it is cut, killed or guessed.

Means and extremes against OpenCV and NumPy; frames against plain decoding of the whole files.
"""

import tempfile
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache, partial
from pathlib import Path
from unittest import mock

import cv2
import numpy as np

from shapkeen.core.declared import read_declaration
from shapkeen.core.judged.readings import plan_reading
from shapkeen.core.measured import PairSurvey, Reading, Source
from shapkeen.core.measured.alignment.initial import find_initial_alignment
from shapkeen.core.measured.alignment.picture_map import PictureMap
from shapkeen.core.measured.alignment.place.bars import LineFinder
from shapkeen.core.measured.alignment.place.registration import Inside
from shapkeen.core.measured.alignment.signature import small_picture
from shapkeen.core.measured.alignment.time.frame_map import FrameMap, timeline
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.grid import Rect
from shapkeen.core.measured.model import coding_of
from shapkeen.core.measured.pair_pass import engine
from shapkeen.core.measured.pair_pass.engine import Means, elsewhere, run_pair_pass
from shapkeen.core.measured.pair_pass.merging import merge_spans
from shapkeen.core.measured.pair_pass.model import PassFindings, SpanFindings
from shapkeen.core.measured.pair_pass.sampled_pair import Wanted
from shapkeen.core.measured.pair_pass.spans import PairSpan, plan_pair_spans
from shapkeen.core.measured.pair_pass.worker import Task, measure_span
from shapkeen.core.measured.spans.cutting import Span, read_span
from shapkeen.core.measured.spans.store import PartStore
from shapkeen.core.measured.survey.pair import survey_pair
from tests.builders.media import Coding, coded, photo_frames, write

READING = Reading(
    full_range=False, transfer=1, matrix=1, rate=Fraction(24), frame_count=None, primaries=1
)
COUNT = 300
MASTERS = {
    "intra": ("prores_ks", ".mov", {}),
    "long": ("libx264", ".mp4", {"x264-params": "open-gop=1:keyint=40:bframes=3", "crf": "12"}),
}
EXPORTS = {
    "open": (".mp4", {"x264-params": "open-gop=1:keyint=24:bframes=3"}),
    "other": (".mkv", {"x264-params": "keyint=31:scenecut=0"}),
    "closed": (".mp4", {"x264-params": "keyint=24:scenecut=0:bframes=3"}),
    "closed too": (".mkv", {"x264-params": "keyint=24:scenecut=0:bframes=2"}),
}


@lru_cache
def planes(count: int, size=(320, 180), *, depth: int = 8, chroma: str = "4:2:0"):
    frames = photo_frames("coffee", size, count)
    return [coded(one, matrix=1, depth=depth, chroma=chroma) for one in frames]


def source(path: Path, count: int | None = COUNT, rate: Fraction = Fraction(24)) -> Source:
    return Source(path, replace(READING, frame_count=count, rate=rate))


def master(kind: str) -> Source:
    codec, ending, options = MASTERS[kind]
    deep = {"depth": 10, "chroma": "4:2:2"} if codec == "prores_ks" else {}
    coding = Coding(
        codec=codec,
        options=tuple(options.items()),
        pix_fmt="yuv422p10le" if deep else "yuv420p",
        ending=ending,
        flags=(),
    )
    return source(write(f"together-{kind}", planes(COUNT, **deep), coding))


def export(kind: str, *, first: int = 0, count: int = COUNT) -> Source:
    ending, options = EXPORTS[kind]
    coding = Coding(options=tuple(options.items()), ending=ending, flags=())
    drawn = planes(COUNT)[first : first + count]
    return source(write(f"together-{kind}-{first}-{count}", drawn, coding), len(drawn))


def task(one: Source, other: Source, offset: int = 0) -> Task:
    coding = coding_of(READING)
    return Task(
        one,
        other,
        (timeline(one), timeline(other)),
        FrameMap(Fraction(1), offset),
        PictureMap(Rect(), 0, False, coding, coding),
        Inside(Rect(), Rect()),
        {n: Wanted(place=n % 2 == 0, fine=n % 3 == 0) for n in (3, 50, 121, 200, 260)},
    )


def told(findings: PassFindings) -> list[object]:
    """Return what findings hold, as plain values."""
    files = [findings.master, findings.export]
    series = [(f.signatures.numbers, f.signatures) for f in files if f]
    return [
        [[n.tolist(), s.rows(np.arange(len(s))).tolist()] for n, s in series],
        [f.tally.codes.tolist() for f in files if f],
        [[f.lines.low_rows.tolist(), f.lines.high_columns.tolist()] for f in files if f],
        [f.tally.frames.tolist() for f in files if f],
        findings.series,
        [
            [
                one.pair,
                one.place,
                one.textured,
                one.crop and one.crop.export.tolist(),
                one.sampled and one.sampled.blocks.means.tolist(),
            ]
            for one in findings.chosen
        ],
    ]


class Reducing(unittest.TestCase):
    def frame(self, size, depth: int = 10) -> Frame:
        chance = np.random.default_rng(5)
        kind = np.uint8 if depth == 8 else np.uint16
        luma = chance.integers(0, 1 << depth, (size[1], size[0])).astype(kind)
        chroma = [np.ascontiguousarray(luma[::2, ::2]), np.ascontiguousarray(luma[1::2, ::2])]
        return Frame(number=0, depth=depth, luma=luma, cb=chroma[0], cr=chroma[1])

    def test_small_pictures_are_means_of_squares(self) -> None:
        for size, depth, side in (((3840, 48), 10, 6), ((1920, 60), 8, 3), ((720, 40), 10, 1)):
            frame = self.frame(size, depth)
            small = small_picture(frame, full_range=False)
            goal = cv2.resize(
                frame.luma.astype(np.float32) * 2.0 ** (10 - depth),
                (size[0] // side, size[1] // side),
                interpolation=cv2.INTER_AREA,
            )
            np.testing.assert_allclose(small.luma, goal, atol=0.01)
            self.assertEqual(small.cb.shape, (size[1] // side // 2, size[0] // side // 2))

    def test_extremes_of_lines(self) -> None:
        frames = [self.frame((64, 32)), self.frame((64, 32))]
        finder = LineFinder()
        for frame in frames:
            finder.add(frame)
        finder.add(self.frame((32, 32)))  # another raster is passed over
        lines = finder.result()
        assert lines is not None
        all_of = np.stack([frame.luma for frame in frames])
        np.testing.assert_array_equal(lines.low_rows, all_of.min(axis=(0, 2)))
        np.testing.assert_array_equal(lines.high_rows, all_of.max(axis=(0, 2)))
        np.testing.assert_array_equal(lines.low_columns, all_of.min(axis=(0, 1)))
        np.testing.assert_array_equal(lines.high_columns, all_of.max(axis=(0, 1)))


class PairSpans(unittest.TestCase):
    def test_every_frame_of_both_once(self) -> None:
        for one, other, offset in (
            (master("intra"), export("open"), 0),
            (master("long"), export("other"), 0),
            (master("long"), export("open", first=30, count=200), 30),
            (export("other", first=20, count=150), master("long"), -20),
        ):
            spans = plan_pair_spans(one, other, FrameMap(Fraction(1), offset))
            with self.subTest(one=one.path.name, other=other.path.name):
                self.assertGreater(len(spans), 1)
                for side, parts in (
                    (one, [span.master for span in spans]),
                    (other, [span.export for span in spans if span.export]),
                ):
                    times = [t for part in parts for t, _ in read_span(side.path, part)]
                    whole = [t for t, _ in read_span(side.path, Span(None, None))]
                    self.assertEqual(times, whole)

    def test_nothing_is_decoded_for_nothing_where_key_frames_meet(self) -> None:
        for one, other in (("closed", "closed too"), ("closed too", "closed")):
            pair = export(one), export(other)
            spans = plan_pair_spans(*pair, FrameMap(Fraction(1), 0))
            for side, begins in (
                (pair[0], [span.master.first for span in spans[1:]]),
                (pair[1], [span.export.first for span in spans[1:] if span.export]),
            ):
                whole = read_span(side.path, Span(None, None))
                keys = [ticks for ticks, picture in whole if picture.key_frame]
                with self.subTest(one=one, side=side.path.name):
                    # of the least length each, five seconds of 24 frames
                    self.assertEqual(begins, keys[5::5][: len(begins)])
                    self.assertEqual(len(begins), 2)

    def test_a_long_rest_of_the_master_is_cut_too(self) -> None:
        spans = plan_pair_spans(master("long"), export("open", count=48), FrameMap(Fraction(1), 0))
        self.assertEqual([span.export is None for span in spans], [False, True])

    def test_the_same_however_it_is_cut(self) -> None:
        for kinds in (("intra", "open"), ("long", "other")):
            one, other = master(kinds[0]), export(kinds[1])
            work = partial(measure_span, task(one, other))
            whole = merge_spans([work(PairSpan(Span(None, None), Span(None, None)))])
            spans = plan_pair_spans(one, other, FrameMap(Fraction(1), 0))
            self.assertGreater(len(spans), 1)
            parts = merge_spans([work(span) for span in reversed(spans)])
            with self.subTest(kinds):
                self.assertEqual(len(whole.series), COUNT)
                self.assertEqual(len(whole.chosen), 5)
                self.assertEqual(told(parts), told(whole))


class GoingOn(unittest.TestCase):
    def test_a_killed_survey_goes_on_where_it_was(self) -> None:
        class KilledError(Exception):
            pass

        asked = task(master("long"), export("open"))

        def kill(done: int, total: int) -> None:
            if done > total * 0.6:
                raise KilledError

        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            with self.assertRaises(KilledError):
                run_pair_pass(asked, means=Means(folder=folder, progress=kill))
            store = PartStore(folder, SpanFindings, [asked.master, asked.export], repr(asked))
            kept = list(store.folder.glob("*.npz"))
            self.assertEqual(len(kept), 1)
            before = kept[0].stat().st_mtime_ns
            reports: list[int] = []
            again = run_pair_pass(
                asked,
                means=Means(folder=folder, progress=lambda done, _: reports.append(done)),
            )
            self.assertGreaterEqual(reports[0], 200)  # of 600 frames, those of the first span
            self.assertEqual(kept[0].stat().st_mtime_ns, before)
        self.assertEqual(told(again), told(run_pair_pass(asked, means=Means())))


def whose(_source: Source) -> int:
    return threading.get_ident()


class Meanwhile(unittest.TestCase):
    def test_pictures_of_long_films_are_looked_at_in_a_process_that_ends(self) -> None:
        # Threads stand in for processes, which a process of a parallel run may not start.
        means = Means(pool=partial(ThreadPoolExecutor, 1))
        source, own = task(master("intra"), export("open")).master, threading.get_ident()
        self.assertEqual(elsewhere(means, whose, source), own)
        with mock.patch.object(engine, "LONG_FRAMES", 1):
            self.assertNotEqual(elsewhere(means, whose, source), own)
            self.assertEqual(elsewhere(Means(), whose, source), own)

    def test_the_worst_place_so_far_is_told_while_it_runs(self) -> None:
        asked, seen = task(master("intra"), export("open")), []
        found = run_pair_pass(asked, means=Means(worst=seen.append))
        likeness = [row.ssim for row in seen]
        self.assertEqual(likeness, sorted(likeness, reverse=True))
        self.assertEqual(seen[-1], min(found.series, key=lambda row: row.ssim))


class Meeting(unittest.TestCase):
    """The opening is a guess; what it got wrong is found by the rest."""

    def survey(self, drawn, name: str, **options) -> PairSurvey:
        paths = (
            write(f"meet-{name}-m", planes(96), Coding()),
            write(f"meet-{name}-e", drawn, Coding()),
        )
        sources = [Source(path, plan_reading(read_declaration(path))) for path in paths]
        return survey_pair(*sources, **options)

    def moved(self, picture, by: int):
        y, cb, cr = picture
        return np.roll(y, by, axis=1), np.roll(cb, by // 2, axis=1), np.roll(cr, by // 2, axis=1)

    def test_a_like_copy_is_met_by_its_opening(self) -> None:
        found = self.survey(planes(96), "copy")
        self.assertEqual((found.offset, found.registration and found.registration.left), (0, 0))
        self.assertEqual([one.export_frame for one in found.series], list(range(96)))
        self.assertTrue(all(one.psnr > 35 for one in found.series))
        self.assertLess(found.decoded, 96 * 2 + 80)

    def test_a_later_beginning(self) -> None:
        found = self.survey(planes(96)[9:], "later")
        self.assertEqual(found.offset, 9)
        self.assertEqual({one.master_frame - one.export_frame for one in found.series}, {9})
        self.assertEqual(len(found.series), 87)
        self.assertGreater(min(one.ssim for one in found.series), 0.95)

    def test_an_opening_unlike_the_rest(self) -> None:
        drawn = planes(96)
        shifted = drawn[:18] + [self.moved(picture, 8) for picture in drawn[18:]]
        found = self.survey(shifted, "shifted")
        assert found.registration is not None
        self.assertAlmostEqual(found.registration.left, 8, delta=0.3)
        later = [one.ssim for one in found.series if one.export_frame > 20]
        self.assertGreater(float(np.median(later)), 0.95)

    def test_a_black_opening_says_nothing_of_the_place(self) -> None:
        drawn = planes(96)
        dark = [tuple(np.full_like(p, 16 if i == 0 else 128) for i, p in enumerate(drawn[0]))] * 20
        found = self.survey(dark + drawn[20:], "black")
        assert found.registration is not None
        self.assertLess(abs(found.registration.left), 0.1)
        self.assertLess(min(one.ssim for one in found.series), 0.5)

    def test_one_moment_is_enough(self) -> None:
        path = write("meet-one", planes(1), Coding())
        met = find_initial_alignment(source(path, 1), source(path, 1))
        self.assertEqual(met.offset, 0)
        self.assertIsNotNone(met.place)
