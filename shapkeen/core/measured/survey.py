"""A pair survey: one pass over the chosen frames feeds every measure."""

import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path

from ..colour.coding import Coding
from ..errors import UsageError
from .bars import BarFinder, active_rect, light_inside
from .comparing import compare_pairs
from .detail import DepthMeter, DetailMeter
from .frames import Frame, FrameReader, count_pictures
from .grid import Real, Reduced, reduce_frame
from .model import (
    DEFAULT_FRAMES,
    Bars,
    FileSurvey,
    FramePair,
    PairSurvey,
    Progress,
    Reading,
    Registration,
    Source,
    coding_of,
)
from .pairing import find_offset, plan_pairs
from .registration import is_textured, register
from .whole.survey import survey_files

REGISTERED_FRAMES = 7
CONFIRMING_FRAMES = 4
SPREAD_SAMPLES = 0.25
"""Registrations of one true offset agree within this."""
FULL_SIZE_FRAMES = 4
"""Detail is measured on this many pairs: the band's energy settles long before."""
SAME_PLACE_SAMPLES = 0.15
"""Registration within this counts as sample on sample."""


@dataclass(slots=True)
class _FileMeters:
    """What is measured from the chosen frames of one file alone, at full size."""

    reading: Reading
    depth: int
    raster: tuple[int, int]
    bars: BarFinder

    def add(self, frame: Frame) -> None:
        if frame.raster != self.raster or frame.depth != self.depth:
            return  # a picture that changes its raster on the way is measured by its first
        self.bars.add(frame)


@dataclass(slots=True)
class _Gathered:
    """What one pass leaves behind, before the pictures are registered."""

    master: _FileMeters
    export: _FileMeters
    reduced: list[tuple[FramePair, Reduced, Reduced]] = field(default_factory=list)
    detail: DetailMeter = field(default_factory=DetailMeter)
    depth: DepthMeter = field(default_factory=DepthMeter)
    decoded: int = 0


def _meters(frame: Frame, reading: Reading) -> _FileMeters:
    return _FileMeters(
        reading=reading,
        depth=frame.depth,
        raster=frame.raster,
        bars=BarFinder(),
    )


PAIR_WEIGHT = 4
"""Finding a pair by a seek and comparing it costs as much as counting this many frames."""


@dataclass(frozen=True, slots=True)
class _Shares:
    """Both parts of the work as one progress, in frames."""

    progress: Progress | None
    planned: int
    counted: int

    def _say(self, done: int) -> None:
        if self.progress:
            self.progress(done, self.planned * PAIR_WEIGHT + self.counted)

    def pairs(self, done: int, _total: int) -> None:
        self._say(done * PAIR_WEIGHT)

    def frames(self, done: int, _total: int) -> None:
        self._say(self.planned * PAIR_WEIGHT + done)


def survey_pair(
    master: Source,
    export: Source,
    *,
    frames: int = DEFAULT_FRAMES,
    goal: Coding | None = None,
    workers: int = 1,
    folder: Path | None = None,
    progress: Progress | None = None,
) -> PairSurvey:
    """Return all that is measured from a master–export pair.

    frames: how many pairs to compare, spread over the whole; light, gamut, range and depth are
    counted in every frame. goal: the coding that the promise wants, where that is a conversion of
    the master's. workers: processes to count in. folder: keeps what is counted until all is, so
    that a survey that was killed goes on. progress is called with (done, total), and may raise to
    stop the survey. Raises UnreadableFileError where a file cannot be decoded, UsageError where
    the two have no picture in common.
    """
    started = time.monotonic()
    master, export = counted(master), counted(export)
    offset, decoded = find_offset(master, export)
    offset = _confirmed(offset, master, export)
    plan = plan_pairs(master.reading, export.reading, offset=offset, frames=frames)
    report = _Shares(progress, len(plan), sum(s.reading.frame_count or 1 for s in (master, export)))
    gathered = _gather(master, export, plan, report.pairs)
    place = _register(gathered)
    own = coding_of(master.reading)
    compared = compare_pairs(
        gathered.reduced, place, gathered.export.raster, own=own, goal=goal or own
    )
    whole = survey_files((master, export), workers=workers, folder=folder, progress=report.frames)
    # A conversion moves every code: detail and levels then cannot be held against the master's.
    same_place = goal is None and place is not None and _is_same_place(place, gathered)
    return PairSurvey(
        pairs=compared.pairs,
        offset=offset,
        decoded=gathered.decoded + decoded,
        master_raster=gathered.master.raster,
        export_raster=gathered.export.raster,
        master_whole=_inside_bars(whole[0], gathered.master.bars.result()),
        export_whole=_inside_bars(whole[1], gathered.export.bars.result()),
        master_bars=gathered.master.bars.result(),
        export_bars=gathered.export.bars.result(),
        registration=place,
        tone=compared.tone,
        depth=gathered.depth.result() if same_place else None,
        difference=compared.difference,
        detail_transfer=gathered.detail.result() if same_place else None,
        seconds=round(time.monotonic() - started, 2),
        master_frames=master.reading.frame_count,
        export_frames=export.reading.frame_count,
        acts=compared.acts,
        misplaced=compared.misplaced,
        wave=compared.wave,
    )


def _inside_bars(whole: FileSurvey, bars: Bars | None) -> FileSurvey:
    return replace(whole, light=light_inside(whole.light, bars, whole.raster))


def counted(source: Source) -> Source:
    """Return the source with its pictures counted, where no header of the file counts them."""
    if source.reading.frame_count is not None:
        return source
    return replace(source, reading=replace(source.reading, frame_count=count_pictures(source.path)))


def _gather(
    master: Source, export: Source, plan: Sequence[tuple[int, int]], progress: Progress
) -> _Gathered:
    gathered: _Gathered | None = None
    by_export = {export_number: master_number for master_number, export_number in plan}
    full_size = {pair[1] for pair in _spread(plan, FULL_SIZE_FRAMES)}
    with (
        FrameReader(master.path, master.reading.rate) as masters,
        FrameReader(export.path, export.reading.rate) as exports,
        # Decoder, NumPy and OpenCV let go of the interpreter: two files, two threads.
        ThreadPoolExecutor(2) as pool,
    ):
        both = zip(
            masters.read([pair[0] for pair in plan]),
            exports.read([pair[1] for pair in plan]),
            strict=False,
        )
        for done, (one, other) in enumerate(both, start=1):
            if gathered is None:
                gathered = _Gathered(_meters(one, master.reading), _meters(other, export.reading))
            if by_export.get(other.number) != one.number:
                break  # a file ended sooner than its header says
            list(pool.map(_FileMeters.add, (gathered.master, gathered.export), (one, other)))
            _take_pair(gathered, one, other, at_full_size=other.number in full_size)
            progress(done, len(by_export))
        if gathered is not None:
            gathered.decoded = masters.decoded + exports.decoded
    if gathered is None:
        raise UsageError(
            "The two files have no moment in common: one ends before the other begins. "
            "Choose the export that belongs to this master.",
            code="no-common-frame",
            where=export.path.name,
        )
    return gathered


def _take_pair(gathered: _Gathered, one: Frame, other: Frame, *, at_full_size: bool) -> None:
    full_range = gathered.master.reading.full_range
    pair = FramePair(
        master_frame=one.number,
        export_frame=other.number,
        time_s=float(other.number / gathered.export.reading.rate),
        ssim=None,
    )
    gathered.reduced.append(
        (
            pair,
            reduce_frame(one, full_range=full_range),
            reduce_frame(other, full_range=full_range),
        )
    )
    if at_full_size and one.raster == other.raster:
        scales = (2.0 ** (10 - one.depth), 2.0 ** (10 - other.depth))
        gathered.detail.add(one.luma, other.luma, scales=scales)
        if one.depth == other.depth == 10:
            gathered.depth.add(one.luma, other.luma)


def _spread(items: Sequence[tuple[int, int]], count: int) -> list[tuple[int, int]]:
    if len(items) <= count:
        return list(items)
    step = len(items) / count
    return [items[int(step * (i + 0.5))] for i in range(count)]


def _confirmed(offset: int, master: Source, export: Source) -> int:
    """Return the offset if registered pictures agree better with it than without.

    A cut or a zoom can look like another moment to signatures, never to registration.
    """
    if offset == 0:
        return 0
    found: dict[int, Registration | None] = {}
    for candidate in (offset, 0):
        plan = plan_pairs(
            master.reading, export.reading, offset=candidate, frames=CONFIRMING_FRAMES
        )
        gathered = _gather(master, export, plan, lambda _done, _total: None) if plan else None
        found[candidate] = _place(gathered) if gathered else None
    there, here = found[offset], found[0]
    if there is None or here is None:
        return offset if there is not None else 0
    # A window that wanders over a still picture fits other moments too, at ever other places.
    steadier = there.spread <= here.spread + SPREAD_SAMPLES
    return offset if there.likeness > here.likeness and steadier else 0


def _place(gathered: _Gathered) -> Registration | None:
    return register(
        _lumas(gathered),
        master_active=active_rect(gathered.master.bars.result(), gathered.master.raster),
        export_active=active_rect(gathered.export.bars.result(), gathered.export.raster),
        export_raster=gathered.export.raster,
    )


def _lumas(gathered: _Gathered) -> list[tuple[Real, Real]]:
    step = max(len(gathered.reduced) // REGISTERED_FRAMES, 1)
    return [(one.luma, other.luma) for _, one, other in gathered.reduced[::step]]


def _register(gathered: _Gathered) -> Registration | None:
    """Return the registration; raises UsageError where no picture is like its counterpart."""
    place, lumas = _place(gathered), _lumas(gathered)
    textured = [pair for pair in lumas if is_textured(pair[0]) and is_textured(pair[1])]
    if place is None and textured:
        raise UsageError(
            "The two files have no frame in common: no picture of the export resembles the "
            "master's at that time. Choose the export that belongs to this master.",
            code="no-common-frame",
            where="picture",
        )
    return place


def _is_same_place(place: Registration, gathered: _Gathered) -> bool:
    width, height = gathered.export.raster
    moved = max(
        abs(place.left),
        abs(place.top),
        abs(place.width - width),
        abs(place.height - height),
    )
    upright = place.turn == 0 and not place.mirrored
    return upright and moved < SAME_PLACE_SAMPLES and gathered.master.raster == (width, height)
