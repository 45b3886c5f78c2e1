"""A pair survey: one pass over both files feeds every measure."""

import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ..colour.coding import Coding
from .bars import find_bars, light_inside
from .chosen import Wanted
from .comparing import compare_pairs
from .fine import depth_use, detail_transfer
from .frames import count_pictures, undecodable
from .laying import lay
from .model import (
    DEFAULT_FRAMES,
    FileSurvey,
    PairSurvey,
    Progress,
    Registration,
    Source,
    coding_of,
)
from .pairing import frame_ratio, plan_pairs
from .registration import merged
from .scout import Met, meet, meet_spread
from .together.engine import Means, measure_together
from .together.model import FileFindings, SpanFindings
from .together.plan import FrameMap, timeline
from .together.worker import Task
from .whole.engine import told

REGISTERED_PAIRS = 7
FULL_SIZE_PAIRS = 4
"""Detail is measured on this many pairs: the band's energy settles long before."""
SAME_PLACE_SAMPLES = 0.15
"""Registration within this counts as sample on sample."""


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

    frames: how many pairs to compare in depth, spread over the whole; light, gamut, range, depth
    and likeness are measured in every frame. goal: the coding that the promise wants, where that
    is a conversion of the master's. workers: processes to measure in. folder: keeps what is done
    until all is, so that a survey that was killed goes on. progress is called with (done, total),
    and may raise to stop the survey. Raises UnreadableFileError where a file cannot be decoded,
    UsageError where the two have no picture in common.
    """
    started = time.monotonic()
    master, export = counted(master), counted(export)
    own = coding_of(master.reading)
    means = Means(workers, folder, progress)
    met = meet(master, export)
    task = _task(master, export, met, frames=frames, codings=(own, goal or own))
    found = measure_together(task, means=means)
    place, held = _place(found, met)
    if not held:  # the opening was not like the rest
        met = meet_spread(master, export, met.offset)
        task = _task(master, export, met, frames=frames, codings=(own, goal or own))
        found = measure_together(task, means=means)
        place = _place(found, met)[0] or met.place
    sides = _sides(found, master, export)
    compared = compare_pairs(found.chosen, goal or own)
    bars = [find_bars(side.lines) for side in sides]
    wholes = [
        _inside_bars(told(side.tally, source), side)
        for side, source in zip(sides, (master, export), strict=True)
    ]
    rasters = [side.tally.raster for side in sides]
    # A conversion moves every code: detail and levels then cannot be held against the master's.
    fine = found.chosen if goal is None and _is_same_place(place, rasters) else ()
    return PairSurvey(
        pairs=compared.pairs,
        offset=met.offset,
        decoded=met.decoded + sum(len(side.numbers) for side in sides),
        master_raster=rasters[0],
        export_raster=rasters[1],
        master_whole=wholes[0],
        export_whole=wholes[1],
        master_bars=bars[0],
        export_bars=bars[1],
        registration=place,
        tone=compared.tone,
        depth=depth_use([one.depth for one in fine if one.depth]),
        difference=compared.difference,
        detail_transfer=detail_transfer([one.detail for one in fine if one.detail]),
        seconds=round(time.monotonic() - started, 2),
        master_frames=master.reading.frame_count,
        export_frames=export.reading.frame_count,
        acts=compared.acts,
        misplaced=compared.misplaced,
        wave=compared.wave,
        series=found.series,
    )


def counted(source: Source) -> Source:
    """Return the source with its pictures counted, where no header of the file counts them."""
    if source.reading.frame_count is not None:
        return source
    return replace(source, reading=replace(source.reading, frame_count=count_pictures(source.path)))


def _task(
    master: Source, export: Source, met: Met, *, frames: int, codings: tuple[Coding, Coding]
) -> Task:
    plan = plan_pairs(master.reading, export.reading, offset=met.offset, frames=frames)
    numbers = [pair[1] for pair in plan]
    registered, full_size = _spread(numbers, REGISTERED_PAIRS), _spread(numbers, FULL_SIZE_PAIRS)
    return Task(
        master,
        export,
        (timeline(master), timeline(export)),
        FrameMap(frame_ratio(master.reading, export.reading), met.offset),
        lay(met.place, met.raster, own=codings[0], goal=codings[1]),
        met.inside,
        {n: Wanted(place=n in registered, fine=n in full_size) for n in numbers},
    )


def _spread(items: Sequence[int], count: int) -> set[int]:
    step = max(len(items) / count, 1)
    return {
        items[int(step * (i + 0.5))] for i in range(count) if int(step * (i + 0.5)) < len(items)
    }


def _place(found: SpanFindings, met: Met) -> tuple[Registration | None, bool]:
    """Return where the master lies by the frames of the whole, and whether that was known."""
    textured = [one.place for one in found.chosen if one.textured]
    place = merged(textured, met.raster, met.inside)
    if place is None or met.place is None:
        return place, place is None and not textured
    moved = _moved(place, (met.place.left, met.place.top, met.place.width, met.place.height))
    return place, moved < SAME_PLACE_SAMPLES


def _moved(place: Registration, goal: tuple[float, float, float, float]) -> float:
    here = (place.left, place.top, place.width, place.height)
    return max(abs(one - other) for one, other in zip(here, goal, strict=True))


def _is_same_place(place: Registration | None, rasters: Sequence[tuple[int, int]]) -> bool:
    if place is None or place.turn or place.mirrored or rasters[0] != rasters[1]:
        return False
    return _moved(place, (0, 0, *rasters[1])) < SAME_PLACE_SAMPLES


def _sides(
    found: SpanFindings, master: Source, export: Source
) -> tuple[FileFindings, FileFindings]:
    if found.master is None or found.export is None:
        silent = master if found.master is None else export
        raise undecodable("no frame came out", silent.path)
    return found.master, found.export


def _inside_bars(whole: FileSurvey, side: FileFindings) -> FileSurvey:
    return replace(whole, light=light_inside(whole.light, find_bars(side.lines), whole.raster))
