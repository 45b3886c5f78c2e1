"""Reads one span of both files in step and takes all measures from it. Runs in any process."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from ..chosen import ChosenPair, Wanted, look_at
from ..decoded.frames import Frame, planes_from
from ..decoded.grid import Reduced
from ..model import FrameLikeness, FramePair, Source
from ..placed.arranged import laid_out
from ..placed.bars import LineFinder
from ..placed.laying import Laying
from ..placed.registration import Inside
from ..whole.counter import Counter
from ..whole.spans import Span, read_span
from .likeness import likeness
from .model import FileFindings, SpanFindings
from .plan import FrameMap, PairSpan, Timeline
from .small import Mark, Part, mark_of, small_picture
from .watch import Watch, Watcher

Step = Callable[[int], None]
"""Called with the number of frames read since the last call."""


@dataclass(frozen=True, slots=True)
class Task:
    """All that a worker must know of the pair.

    laying: None where the pictures cannot be held against each other. wanted: by the export's
    frame number, the pairs to compare in depth. parts: of master and export, that both show. watch:
    of spheres and of two eyes, what to look at each second.
    """

    master: Source
    export: Source
    lines: tuple[Timeline, Timeline]
    frames: FrameMap
    laying: Laying | None
    inside: Inside
    wanted: Mapping[int, Wanted]
    parts: tuple[Part, Part] = (Part(), Part())
    watch: Watch | None = None


@dataclass(slots=True)
class _Side:
    """One file of the two, as its frames go by."""

    source: Source
    line: Timeline
    part: Part
    full_range: bool
    """The master's range, for both: codes are brought to the 10-bit scale by it."""
    counter: Counter | None = None
    bars: LineFinder = field(default_factory=LineFinder)
    numbers: list[int] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)

    def frames(self, span: Span | None, threads: int) -> Iterator[tuple[Frame, Reduced]]:
        """Yield every frame of a span, counted, with its small picture."""
        if span is None:
            return
        for ticks, picture in read_span(self.source.path, span, threads=threads):
            frame = planes_from(picture, self.line.number(ticks))
            if self.counter is None:
                self.counter = Counter(self.source.reading, frame.raster, frame.depth)
            self.counter.add(frame, ticks)
            self.bars.add(frame)
            frame = laid_out(frame, self.source.reading)
            small = small_picture(frame, full_range=self.full_range)
            self.numbers.append(frame.number)
            self.marks.append(mark_of(small, self.part))
            yield frame, small

    def result(self) -> FileFindings | None:
        """Return what went by; None where nothing did."""
        lines = self.bars.result()
        if self.counter is None or lines is None:
            return None
        numbers = np.array(self.numbers, np.int64)
        return FileFindings(self.counter.result(), lines, numbers, np.stack(self.marks))


def measure_span(
    task: Task, span: PairSpan, threads: int = 1, step: Step | None = None
) -> SpanFindings:
    """Return all that a span of both files shows. threads: of each decoder; 0 = any.

    step may raise, to stop. Raises UnreadableFileError where a file cannot be opened.
    """
    full_range = task.master.reading.full_range
    one, other = (
        _Side(source, line, part, full_range)
        for source, line, part in zip(
            (task.master, task.export), task.lines, task.parts, strict=True
        )
    )
    report = step or _nothing
    masters, exports = one.frames(span.master, threads), other.frames(span.export, threads)
    series: list[FrameLikeness] = []
    chosen: list[ChosenPair] = []
    awaited: list[int] | None = None
    held: tuple[Frame, Reduced] | None = None
    rate = float(task.export.reading.rate)
    watcher = Watcher(task.watch, task.laying, full_range, rate)
    for frame, small in exports:
        number, read = task.frames.master(frame.number), 1
        while held is None or held[0].number < number:
            following = next(masters, None)
            if following is None:
                break
            held, read = following, read + 1
        report(read)
        watcher.see(other.marks[-1])
        if held is None or held[0].number != number:
            continue
        watcher.add((held[0], frame), (held[1], small))
        if task.laying is not None:
            series.append(likeness((number, frame.number), held[1], small, task.laying))
        if awaited is None:
            awaited = sorted(n for n in task.wanted if n >= frame.number)
        if awaited and awaited[0] <= frame.number:  # or the next, where numbers have gaps
            chosen.append(_look(task, held[0], frame, task.wanted[awaited[0]]))
            awaited = [n for n in awaited if n > frame.number]
    for _ in masters:
        report(1)
    looks = tuple(watcher.looks)
    return SpanFindings(one.result(), other.result(), tuple(series), tuple(chosen), looks)


def _look(task: Task, one: Frame, other: Frame, wanted: Wanted) -> ChosenPair:
    pair = FramePair(
        master_frame=one.number,
        export_frame=other.number,
        time_s=float(other.number / task.export.reading.rate),
        ssim=None,
    )
    return look_at(
        pair,
        one,
        other,
        full_range=task.master.reading.full_range,
        laying=task.laying,
        inside=task.inside,
        wanted=wanted,
    )


def _nothing(_frames: int) -> None:
    pass
