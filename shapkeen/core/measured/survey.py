"""A pair survey: one pass over both files feeds every measure."""

import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ..colour.coding import Coding
from .bars import find_bars, light_inside
from .comparing import compare_pairs
from .frames import count_pictures, undecodable
from .levels import depth_use
from .model import (
    DEFAULT_FRAMES,
    Bars,
    FileSurvey,
    PairSurvey,
    Progress,
    Registration,
    Source,
    coding_of,
)
from .passes import SAME_PLACE_SAMPLES, Pair, moved_by, read_both
from .sharpness import find_sharpness
from .together.engine import Means
from .together.model import FileFindings, SpanFindings
from .whole.engine import told


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
    passed = read_both(
        Pair(master, export, own, goal or own, frames), Means(workers, folder, progress)
    )
    found, met, place = passed.found, passed.met, passed.place
    sides = _sides(found, master, export)
    compared = compare_pairs(found.chosen, goal or own)
    bars = [find_bars(side.lines) for side in sides]
    wholes = [
        _inside_bars(told(side.tally, source), drawn)
        for side, source, drawn in zip(sides, (master, export), bars, strict=True)
    ]
    rasters = [side.tally.raster for side in sides]
    # A conversion moves every code: levels then cannot be held against the master's.
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
        detail=find_sharpness([one.crop for one in found.chosen if one.crop]),
        seconds=round(time.monotonic() - started, 2),
        master_frames=master.reading.frame_count,
        export_frames=export.reading.frame_count,
        acts=compared.acts,
        misplaced=compared.misplaced,
        wave=compared.wave,
        series=found.series,
        timing=passed.timing,
        combed=_combed(found),
    )


def _combed(found: SpanFindings) -> float | None:
    """Return by how much more of the export is woven than of the master, where that is whole."""
    shares = [one.combed for one in found.chosen if one.combed is not None]
    return max((export - master for master, export in shares), default=None)


def counted(source: Source) -> Source:
    """Return the source with its pictures counted, where no header of the file counts them."""
    if source.reading.frame_count is not None:
        return source
    return replace(source, reading=replace(source.reading, frame_count=count_pictures(source.path)))


def _is_same_place(place: Registration | None, rasters: Sequence[tuple[int, int]]) -> bool:
    if place is None or place.turn or place.mirrored or rasters[0] != rasters[1]:
        return False
    return moved_by(place, (0, 0, *rasters[1])) < SAME_PLACE_SAMPLES


def _sides(
    found: SpanFindings, master: Source, export: Source
) -> tuple[FileFindings, FileFindings]:
    if found.master is None or found.export is None:
        silent = master if found.master is None else export
        raise undecodable("no frame came out", silent.path)
    return found.master, found.export


def _inside_bars(whole: FileSurvey, bars: Bars | None) -> FileSurvey:
    return replace(whole, light=light_inside(whole.light, bars, whole.raster))
