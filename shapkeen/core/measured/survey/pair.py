"""A pair survey: one pass over both files feeds every measure."""

import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ...colour.coding import Coding
from ...geometry.packing import parts_of
from ..alignment.layout.repacking import repacked_raster
from ..alignment.layout.stereo_layout import StereoLayout
from ..alignment.place.bars import find_bars, light_inside
from ..alignment.time.pairing import frame_ratio
from ..decoded.damage import damage_of
from ..decoded.frames import count_pictures, undecodable
from ..detail.combing import woven_beyond
from ..detail.levels import depth_use
from ..detail.sharpness import find_sharpness
from ..frame_statistics.engine import told
from ..model import (
    DEFAULT_FRAMES,
    FIRST_LOOK,
    Astray,
    Bars,
    FileSurvey,
    PairSurvey,
    Progress,
    Registration,
    Repacking,
    Source,
    Worst,
    coding_of,
)
from ..pair_pass.engine import Means
from ..pair_pass.model import PassFindings, SideFindings
from ..pair_pass.passes import (
    SAME_PLACE_SAMPLES,
    Pair,
    Passed,
    look_first_at,
    moved_by,
    read_both,
)
from ..spans.run import Pool
from .sampled_pairs import compare_pairs
from .sampled_views import find_sphere, find_stereo
from .series import summary_of
from .sounds import sound_of

CLEAR_LIKENESS = 0.85
"""A frame that is less like its counterpart may only be hard to place."""
SAME_SIZE_SAMPLES, ASTRAY_SAMPLES = 1.5, 1.5
"""Registration of single frames is within a few tenths of a sample; a place found by mistake hardly
ever has the others' size."""


def _away(here: float, most: float, move: int, span: float, side: int) -> float:
    """Return how far a picture lies from its place, whose master was rolled round for its shot.

    here, most: where this frame's master and most frames' begin, in export samples; there it spans
    so many for its side.
    """
    if not move:
        return here - most
    window, promised = -here * side / span, -most * side / span  # in the rolled master
    # A place that was found a hair before the edge lies at it, not a whole picture further on.
    hair = ASTRAY_SAMPLES * side / span
    return (promised + move - ((window + move + hair) % side - hair)) * span / side


def survey_pair(
    master: Source,
    export: Source,
    *,
    frames: int = DEFAULT_FRAMES,
    goal: Coding | None = None,
    pool: Pool | None = None,
    threads: int = 1,
    folder: Path | None = None,
    progress: Progress | None = None,
    worst: Worst | None = None,
) -> PairSurvey:
    """Return all that is measured from a master–export pair.

    frames: how many pairs to compare closely, spread over the whole; light, gamut, range, depth
    and likeness are measured in every frame. goal: the coding that the promise wants, where that
    is a conversion of the master's. pool: an executor from outside to measure in. folder: keeps
    what is done until all is, so that a survey that was killed goes on. progress is called with
    (done, total), and may raise to stop the survey; worst, with the frame that is least like what
    was expected so far. Raises UnreadableFileError where a file cannot
    be decoded, UsageError where the two have no picture in common.
    """
    started = time.monotonic()
    master, export = counted(master), counted(export)
    own = coding_of(master.reading)
    passed = read_both(
        Pair(master, export, own, goal or own, frames),
        Means(pool, threads, folder, progress, worst),
    )
    survey = _survey_of(passed, master, export, goal, started)
    return _with_sound(survey, master, export, started)


def look_at_pair(
    master: Source, export: Source, *, goal: Coding | None = None
) -> PairSurvey | None:
    """Return what some tens of pairs show, reached by seeking: a first look, of stage FIRST_LOOK.

    goal: as in survey_pair. None where a few pairs do not show how the two lie over each other.
    Raises UnreadableFileError where a file cannot be decoded.
    """
    started = time.monotonic()
    if master.reading.frame_count is None or export.reading.frame_count is None:
        return None  # to count them, all of the file would have to be read
    own = coding_of(master.reading)
    passed = look_first_at(Pair(master, export, own, goal or own, 0))
    if passed is None:
        return None
    survey = replace(_survey_of(passed, master, export, goal, started), stage=FIRST_LOOK)
    return _with_sound(survey, master, export, started)


def _with_sound(survey: PairSurvey, master: Source, export: Source, started: float) -> PairSurvey:
    """Return a survey with what the sound shows, which when the picture is shown decides."""
    ratio = float(frame_ratio(master.reading, export.reading))
    sound = sound_of(survey, master, export, ratio, quick=survey.stage == FIRST_LOOK)
    return replace(survey, sound=sound, seconds=round(time.monotonic() - started, 2))


def _survey_of(
    passed: Passed, master: Source, export: Source, goal: Coding | None, started: float
) -> PairSurvey:
    """Return all that a pass shows as one survey."""
    own = coding_of(master.reading)
    found, alignment, place = passed.found, passed.alignment, passed.place
    layout = alignment.layout or StereoLayout(Repacking())
    readings = master.reading, export.reading
    sides = _sides(found, master, export)
    broken = [damage_of(side.broken) for side in sides]
    if not found.chosen and any(one.count for one in broken):
        place = None  # found in broken pictures
    compared = compare_pairs(
        found.chosen,
        own,
        goal or own,
        alignment.raster,
        parts_of(layout.repacking.ways[1]),
        is_timed=passed.timing is not None,
    )
    bars = [
        find_bars(side.lines) if place or not any(b.count for b in broken) else None
        for side in sides
    ]
    drawn_over = _with_painted(bars[1], compared.painted, alignment.raster)
    rasters = [side.tally.raster for side in sides]
    bars = [bars[0], _without_sky(drawn_over, bars[0], compared.bared, place, rasters)]
    wholes = [
        _inside_bars(told(side.tally, source), drawn)
        for side, source, drawn in zip(sides, (master, export), bars, strict=True)
    ]
    sphere = find_sphere(found, layout, readings)
    eyes = find_stereo(found, layout, readings, passed.frames)
    wholes = [
        replace(
            whole,
            projection=sphere.kinds[side] if sphere else None,
            stereo=eyes.packings[side] if eyes else None,
            damage=broken[side],
        )
        for side, whole in enumerate(wholes)
    ]
    # A conversion moves every code: levels then cannot be held against the master's.
    fine = found.chosen if goal is None and _is_same_place(place, rasters) else ()
    return PairSurvey(
        pairs=compared.pairs,
        offset=alignment.offset,
        decoded=alignment.decoded + sum(len(side.signatures) for side in sides),
        master_raster=repacked_raster(rasters[0], layout.repacking),
        export_raster=rasters[1],
        master_statistics=wholes[0],
        export_statistics=wholes[1],
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
        overlays=compared.overlays,
        sheared=compared.sheared,
        wave=compared.wave,
        colours=compared.colours,
        fold=compared.fold,
        highlights=compared.highlights,
        even_highlights=compared.even_highlights,
        calm_highlights=compared.calm_highlights,
        gamut_edges=compared.gamut_edges,
        series=found.series,
        likeness=summary_of(found.series),
        timing=passed.timing,
        combed=_combed(found),
        astray=_astray(found, place, master),
        repacking=None if layout.repacking.is_plain else layout.repacking,
        sphere=sphere,
        eyes=eyes,
    )


def _with_painted(
    bars: Bars | None, painted: Sequence[float], raster: tuple[int, int]
) -> Bars | None:
    """Return the export's bars with those that coding has made uneven, over a picture in place."""
    if not any(painted):
        return bars
    width, height = raster
    sides = dict(zip(("top", "bottom", "left", "right"), painted, strict=True))
    counts = {
        side: round(share * (height if side in ("top", "bottom") else width))
        for side, share in sides.items()
    }
    own = bars or Bars()
    return Bars(**{side: max(getattr(own, side), count) for side, count in counts.items()})


def _without_sky(
    bars: Bars | None,
    of_master: Bars | None,
    bared: Sequence[float],
    place: Registration | None,
    rasters: Sequence[tuple[int, int]],
) -> Bars | None:
    """Return the export's bars without those that hide nothing: of a sky that coding made even,
    all of the master's picture is there. Bars of the master's own stay, at their size there.

    rasters: of master and export.
    """
    if bars is None or place is None:
        return bars
    scales = place.width / rasters[0][0], place.height / rasters[0][1]
    counts = {}
    for side, seen in zip(("top", "bottom", "left", "right"), bared, strict=True):
        axis = 1 if side in ("top", "bottom") else 0
        found, own = getattr(bars, side), getattr(of_master or Bars(), side) * scales[axis]
        hides = found > seen * rasters[1][axis] + 1
        counts[side] = found if hides else min(found, round(own))
    return Bars(**counts)


def _astray(found: PassFindings, place: Registration | None, master: Source) -> tuple[Astray, ...]:
    """Return the registered frames whose picture lies elsewhere, at the size of the others."""
    if place is None or found.master is None:
        return ()
    raster_of_master = found.master.tally.raster
    raster = (found.export.tally.raster if found.export else (1, 1)) * 2
    table = []
    for one in found.chosen:
        if one.place is None or one.place.likeness < CLEAR_LIKENESS:
            continue
        rect = one.place.rect
        sides = (rect.left, rect.top, rect.width, rect.height)
        left, top, wide, high = (a * b for a, b in zip(sides, raster, strict=True))
        if max(abs(wide - place.width), abs(high - place.height)) > SAME_SIZE_SAMPLES:
            continue
        moves = master.reading.moved(one.pair.master_frame)
        by = tuple(
            map(
                _away,
                (left, top),
                (place.left, place.top),
                moves,
                (place.width, place.height),
                raster_of_master,
            )
        )
        if max(map(abs, by)) > ASTRAY_SAMPLES:
            numbers = one.pair.master_frame, one.pair.export_frame
            table.append(
                Astray(
                    master_frame=numbers[0],
                    export_frame=numbers[1],
                    dx=round(by[0], 2),
                    dy=round(by[1], 2),
                )
            )
    return tuple(table)


def _combed(found: PassFindings) -> float | None:
    """Return by how much more of the export is woven than of the master, where that is whole."""
    return woven_beyond([one.combed for one in found.chosen if one.combed is not None])


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
    found: PassFindings, master: Source, export: Source
) -> tuple[SideFindings, SideFindings]:
    if found.master is None or found.export is None:
        silent = master if found.master is None else export
        raise undecodable("no frame came out", silent.path)
    return found.master, found.export


def _inside_bars(whole: FileSurvey, bars: Bars | None) -> FileSurvey:
    return replace(whole, light=light_inside(whole.light, bars, whole.raster))
