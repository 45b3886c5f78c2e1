"""However a file is cut into spans, the whole is the same; nothing is decoded in vain."""

import gc
import subprocess
import sys
import tempfile
import unittest
import weakref
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import av
import numpy as np

from shapkeen.core.measured import Source
from shapkeen.core.measured.decoded.damage import DamageFinder
from shapkeen.core.measured.decoded.frames import FrameReader, Opened, open_picture
from shapkeen.core.measured.decoded.packets import needed
from shapkeen.core.measured.frame_statistics.engine import count_file, count_span
from shapkeen.core.measured.frame_statistics.model import Tally, joined
from shapkeen.core.measured.spans.ahead import decoded_ahead
from shapkeen.core.measured.spans.cutting import Span, plan_spans, read_span, shown_key_times
from shapkeen.core.measured.spans.store import PartStore
from tests.builders.media import Coding, coded, photo_frames, write
from tests.core.measured.test_frame_statistics import READING

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

    def test_nothing_is_decoded_in_vain_behind_a_span(self) -> None:
        for name in ("open.mp4", "open265.mp4", "closed.mkv", "intra.mov"):
            path = self.files[name]
            with av.open(str(path)) as container:
                packets = [p for p in container.demux(container.streams.video[0]) if p.size]
            for span in self.cuts(path):
                end = span.end
                taken = [p.pts for p in needed(iter(packets), end)]
                shown = [p.pts for p in packets if end is None or p.pts < end]
                with self.subTest(name, end=end):
                    # of an open group only the key picture that those before it lean on
                    behind = sorted(set(taken) - set(shown))
                    self.assertLessEqual(set(shown), set(taken))
                    self.assertIn(behind, [[], [end]] if "open" in name else [[]])

    def test_files_whose_times_of_decoding_tell_nothing_are_read_on(self) -> None:
        # coded 0 3 1 2: by times of decoding that run ahead nothing would follow the second
        class Packet(NamedTuple):
            pts: int | None
            dts: int | None

        ahead = [Packet(pts, at + 9) for at, pts in enumerate((0, 3, 1, 2, 4))]
        self.assertEqual([p.pts for p in needed(iter(ahead), 3)], [0, 3, 1, 2])
        later = iter([Packet(9, 10)] * 99)  # the rest of a long film: not held in memory
        self.assertEqual(list(needed(later, 3)), [])
        self.assertEqual(len(list(later)), 66)
        timeless = [Packet(pts, None) for pts in (0, 3, 1, 2, 4)]
        self.assertEqual([p.pts for p in needed(iter(timeless), 3)], [0, 3, 1, 2])

    def test_key_frames_are_told_by_when_they_are_shown(self) -> None:
        for name in ("open.mp4", "open265.mp4", "closed.mkv"):
            path = self.files[name]
            keys = [t for t, picture in read_span(path, Span(None, None)) if picture.key_frame]
            with open_picture(path).container as container:
                opened = Opened(container, container.streams.video[0])
                told = shown_key_times(opened)
                frame = 1 / READING.rate / opened.tick
            with self.subTest(name):
                self.assertEqual(len(told), len(keys))
                # never before one: the group before would be decoded for it
                off = [float((at - key) / frame) for key, at in zip(keys, told, strict=True)]
                self.assertGreaterEqual(min(off), -0.5)
                self.assertLess(max(off), 0.5 if "closed" in name else 4)

    def test_only_what_single_frames_need_is_decoded(self) -> None:
        for name in ("closed.mkv", "open265.mp4"):
            path = self.files[name]
            with FrameReader(path, READING.rate) as reader:
                whole = {one.number: one.luma.copy() for one in reader.read(range(60))}
            numbers = [0, 24, 25, 39, 48, 59]
            with FrameReader(path, READING.rate, keys=[0, 12, 24, 36, 48]) as reader:
                found = {one.number: one.luma.copy() for one in reader.read(numbers)}
                with self.subTest(name):
                    self.assertEqual(list(found), numbers)
                    for number, luma in found.items():
                        np.testing.assert_array_equal(luma, whole[number])
                    self.assertLessEqual(reader.decoded, 30)
        lone = [0, 12, 24, 36, 48]
        with FrameReader(self.files["closed.mkv"], READING.rate, keys=lone) as reader:
            self.assertEqual([one.number for one in reader.read(lone)], lone)
            self.assertEqual(reader.decoded, len(lone))

    def test_where_times_have_a_gap_the_nearest_frame_is_read(self) -> None:
        path = self.folder / "gap.mov"
        with av.open(str(self.files["intra.mov"])) as read, av.open(str(path), "w") as made:
            source = read.streams.video[0]
            stream = made.add_stream_from_template(source)
            for number, packet in enumerate(read.demux(source)):
                if packet.size and number not in (20, 30):
                    packet.stream = stream
                    made.mux(packet)
        # sought, and read from the beginning
        for keys, asked in ((range(60), [10, 30, 40]), ([0, 40], [20, 45, 50])):
            with FrameReader(path, READING.rate, keys=keys) as reader:
                numbers = [one.number for one in reader.read(asked)]
            self.assertEqual(numbers, asked)

    def test_some_are_decoded_ahead_as_memory_allows(self) -> None:
        found = DamageFinder()
        decoded: list[int] = []

        def pictures(side: int) -> Iterator[tuple[int, av.VideoFrame]]:
            for number in range(30):
                if number == 7:
                    found.see(7, is_key=True, is_broken=True)
                decoded.append(number)
                yield number, av.VideoFrame(side, side, "yuv420p10le")

        for side, most in ((64, 12), (1500, 6), (3000, 1)):
            decoded.clear()
            found.forget()
            ahead = []
            for one in decoded_ahead(pictures(side), found):
                self.assertLess(len(decoded) - one.ticks, most + 1)
                ahead.append((one.ticks, one.is_reliable))
            with self.subTest(side):
                self.assertEqual(ahead, [(n, n < 7) for n in range(30)])

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
            "from tests.core.measured.test_cutting import *\n"
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
