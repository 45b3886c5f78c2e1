"""Reads one span of both files in step and takes all measures from it. Runs in any process."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from ..alignment.layout.repacking import repack_frame
from ..alignment.picture_map import PictureMap
from ..alignment.place.bars import LineFinder
from ..alignment.place.registration import Inside
from ..alignment.signature import Part, Signature, kept, signature_of, small_picture
from ..alignment.time.frame_map import FrameMap, Timeline
from ..decoded.damage import DamageFinder
from ..decoded.frames import Frame, planes_from
from ..decoded.grid import Reduced
from ..frame_statistics.counter import Counter
from ..model import FrameLikeness, FramePair, Source
from ..model.likeness import table_of
from ..spans.ahead import decoded_ahead
from ..spans.cutting import Span, read_span
from .likeness import likeness
from .model import FileFindings, SpanFindings
from .sampled_pair import SampledPair, Wanted, compare_frames
from .spans import PairSpan
from .views import ViewSampler, ViewSampling

Step = Callable[[int], None]
"""Called with the number of frames read since the last call."""


@dataclass(frozen=True, slots=True)
class Task:
    """All that a worker must know of the pair.

    picture_map: None where the pictures cannot be held against each other. wanted: by the export's
    frame number, the pairs to compare closely. parts: of master and export, that both show. watch:
    of spheres and of two eyes, what to look at each second.
    """

    master: Source
    export: Source
    lines: tuple[Timeline, Timeline]
    frames: FrameMap
    picture_map: PictureMap | None
    inside: Inside
    wanted: Mapping[int, Wanted]
    parts: tuple[Part, Part] = (Part(), Part())
    view_sampling: ViewSampling | None = None


@dataclass(slots=True)
class Side:
    """One file of the two, as its frames go by."""

    source: Source
    line: Timeline
    part: Part
    full_range: bool
    """The master's range, for both: codes are brought to the 10-bit scale by it."""
    counter: Counter | None = None
    bars: LineFinder = field(default_factory=LineFinder)
    numbers: list[int] = field(default_factory=list)
    signatures: list[Signature] = field(default_factory=list)
    damage: DamageFinder = field(default_factory=DamageFinder)
    is_counted: bool = False
    """Whether a whole picture was."""
    is_reliable: bool = True
    """Whether the newest picture is whole, and all that it was coded from."""

    def frames(self, span: Span | None, threads: int) -> Iterator[tuple[Frame, Reduced]]:
        """Yield every frame of a span, counted, with its small picture."""
        if span is None:
            return
        self.damage = DamageFinder(*span)
        read = read_span(self.source.path, span, threads=threads, damage=self.damage)
        for ticks, picture, is_reliable in decoded_ahead(read, self.damage):
            self.is_reliable = is_reliable
            yield self.see(planes_from(picture, self.line.number(ticks)), ticks)

    def see(self, frame: Frame, ticks: int) -> tuple[Frame, Reduced]:
        """Return a frame, counted and repacked, with its small picture."""
        if self.counter is None:
            self.counter = Counter(self.source.reading, frame.raster, frame.depth)
        if self.is_reliable or not self.is_counted:
            # Where nothing is whole, what is broken must do.
            self.is_counted = self.is_counted or self.is_reliable
            self.counter.add(frame, ticks)
            self.bars.add(frame)
        frame = repack_frame(frame, self.source.reading)
        small = small_picture(frame, full_range=self.full_range)
        self.numbers.append(frame.number)
        self.signatures.append(signature_of(small, self.part))
        return frame, small

    def result(self) -> FileFindings | None:
        """Return what went by; None where nothing did."""
        lines = self.bars.result()
        if self.counter is None or lines is None:
            return None
        numbers = np.array(self.numbers, np.int64)
        broken = self.damage.result(self.line.number)
        return FileFindings(self.counter.result(), lines, numbers, kept(self.signatures), broken)


def measure_span(
    task: Task, span: PairSpan, threads: int = 1, step: Step | None = None
) -> SpanFindings:
    """Return all that a span of both files shows. threads: of each decoder; 0 = any.

    step may raise, to stop. Raises UnreadableFileError where a file cannot be opened.
    """
    full_range = task.master.reading.full_range
    master_side, export_side = (
        Side(source, line, part, full_range)
        for source, line, part in zip(
            (task.master, task.export), task.lines, task.parts, strict=True
        )
    )
    report = step or _nothing
    masters, exports = (
        master_side.frames(span.master, threads),
        export_side.frames(span.export, threads),
    )
    series: list[FrameLikeness] = []
    chosen: list[SampledPair] = []
    awaited: list[int] | None = None
    held: tuple[Frame, Reduced] | None = None
    rate = float(task.export.reading.rate)
    sampler = ViewSampler(task.view_sampling, task.picture_map, full_range, rate)
    for frame, small in exports:
        number, read = task.frames.master(frame.number), 1
        while held is None or held[0].number < number:
            following = next(masters, None)
            if following is None:
                break
            held, read = following, read + 1
        report(read)
        sampler.see(export_side.signatures[-1])
        if held is None or held[0].number != number:
            continue
        sampler.add((held[0], frame), (held[1], small))
        if task.picture_map is not None:
            series.append(likeness((number, frame.number), held[1], small, task.picture_map))
        if awaited is None:
            awaited = sorted(n for n in task.wanted if n >= frame.number)
        if not (master_side.is_reliable and export_side.is_reliable):
            continue
        if awaited and awaited[0] <= frame.number:  # or the next, where numbers have gaps
            chosen.append(look_closely(task, held[0], frame, task.wanted[awaited[0]]))
            awaited = [n for n in awaited if n > frame.number]
    for _ in masters:
        report(1)
    sampled_views = tuple(sampler.sampled_views)
    return SpanFindings(
        master_side.result(), export_side.result(), table_of(series), tuple(chosen), sampled_views
    )


def look_closely(task: Task, master: Frame, export: Frame, wanted: Wanted) -> SampledPair:
    """Return what comparing one pair of frames closely tells."""
    pair = FramePair(
        master_frame=master.number,
        export_frame=export.number,
        time_s=float(export.number / task.export.reading.rate),
        ssim=None,
    )
    return compare_frames(
        pair,
        master,
        export,
        full_range=task.master.reading.full_range,
        picture_map=task.picture_map,
        inside=task.inside,
        wanted=wanted,
    )


def _nothing(_frames: int) -> None:
    pass
