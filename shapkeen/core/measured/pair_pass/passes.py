"""The passes over a pair: one, where the opening told all; another, where it did not.

How both are aligned is first taken from their opening (alignment/initial.py). The pass over both
shows whether that held. Only an export whose frames or place turn out otherwise is read again.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ...colour.coding import Coding
from ..alignment.initial import (
    InitialAlignment,
    align_by,
    align_spread,
    find_initial_alignment,
    repacked_source,
)
from ..alignment.picture_map import picture_map_of, picture_map_or_identity
from ..alignment.place.registration import merged
from ..alignment.signature import Part
from ..alignment.time.frame_map import FrameMap, timeline
from ..alignment.time.pairing import frame_ratio, plan_pairs
from ..model import Progress, Registration, Source, TimeFindings
from ..time.timing import Timed, find_timing
from ..tone.overlay import painted_bars
from .engine import Means, elsewhere, run_pair_pass
from .first_look import FirstPlan, look_first, plan_first_pairs
from .model import PassFindings
from .sampled_pair import Wanted
from .views import plan_view_sampling
from .worker import Task

REGISTERED_PAIRS = 7
FULL_SIZE_PAIRS = 4
"""Detail is measured on this many pairs: the band's energy settles long before."""
SAME_PLACE_SAMPLES = 0.15
"""Registration within this counts as sample on sample."""


@dataclass(frozen=True, slots=True)
class Pair:
    """What is to be compared, and how: the master's own coding and the promised one.

    count: how many pairs of frames to compare closely.
    """

    master: Source
    export: Source
    own: Coding
    goal: Coding
    count: int


@dataclass(frozen=True, slots=True)
class Passed:
    """What the passes found, and where and when both files meet after all."""

    found: PassFindings
    alignment: InitialAlignment
    place: Registration | None
    timing: TimeFindings | None
    frames: FrameMap


def read_both(pair: Pair, means: Means) -> Passed:
    """Return what reading both files shows.

    Raises UnreadableFileError where a file cannot be decoded, UsageError where the two have no
    picture in common, and whatever means.progress raises.
    """
    alignment = elsewhere(means, find_initial_alignment, pair.master, pair.export)
    told = _Passes(means.progress)
    means = replace(means, progress=told.progress)
    pair = replace(pair, master=repacked_source(pair.master, alignment.layout))
    frames = FrameMap(frame_ratio(pair.master.reading, pair.export.reading), alignment.offset)
    found = run_pair_pass(_task(pair, alignment, frames), means=means)
    place, held = _place(found, alignment)
    timed = _timed(found, alignment, frames)
    moved = timed is not None and frames.ratio == 1 and timed.frames != frames
    if held and not moved:
        return Passed(found, alignment, place, timed.findings if timed else None, frames)
    if timed is not None and moved:
        # Frames out of step seem to lie elsewhere: in step again, they show whether they do.
        frames, there = timed.frames, alignment
    else:
        spread = elsewhere(means, align_spread, pair.master, pair.export, alignment.offset)
        there = replace(spread, layout=alignment.layout)  # laid out as before
    told.begin()
    found = run_pair_pass(_task(pair, there, frames), means=means)
    place, held = _place(found, there)
    if moved and not held and place is not None:
        there = replace(there, place=place)
        told.begin()
        found = run_pair_pass(_task(pair, there, frames), means=means)
        place, _ = _place(found, there)
    # Signatures of a wrong part tell little: what the last pass saw is told.
    timed = _timed(found, there, frames)
    place = place or there.place
    return Passed(found, there, place, timed.findings if timed else None, frames)


NO_BARS = (0.0, 0.0, 0.0, 0.0)
FIRST_ALIGNED = 4
"""Pairs of a first look that show where the picture lies."""
STEADY_SAMPLES = 0.5
"""Places of frames in step stay within a quarter of a sample, however a healthy export is coded."""


def look_first_at(pair: Pair) -> Passed | None:
    """Return what a first look at both files shows; None where a few pairs do not agree on a place.

    Files of as many frames are taken to begin together; of others the openings are looked at first.
    Raises UnreadableFileError where a file cannot be decoded, UsageError where the two have no
    picture in common.
    """
    ratio = frame_ratio(pair.master.reading, pair.export.reading)
    opened = None
    if pair.master.reading.frame_count != pair.export.reading.frame_count and ratio == 1:
        opened = find_initial_alignment(pair.master, pair.export)
    frames = FrameMap(ratio, opened.offset if opened else 0)
    plan = plan_first_pairs(pair.master, pair.export, frames)
    alignment = opened or _aligned_by_few(pair, plan)
    if alignment is None:
        return None
    pair = replace(pair, master=repacked_source(pair.master, alignment.layout))
    found = look_first(_task(pair, alignment, frames, plan.pairs), plan)
    place, held = _place(found, alignment)
    if not held and place is not None:
        alignment = replace(alignment, place=place)
        found = look_first(_task(pair, alignment, frames, plan.pairs), plan)
    if place is not None and place.spread > STEADY_SAMPLES:
        return None  # frames may be held against others' than their own
    return Passed(found, alignment, place or alignment.place, None, frames)


def _aligned_by_few(pair: Pair, plan: FirstPlan) -> InitialAlignment | None:
    numbers = _spread([here for _, here in plan.pairs], FIRST_ALIGNED)
    chosen = [one for one in plan.pairs if one[1] in numbers]
    return align_by(pair.master, pair.export, chosen, plan.keys) if chosen else None


@dataclass(slots=True)
class _Passes:
    """Tells of all passes as of one piece of work, which grows where another one is needed."""

    told: Progress | None
    before: int = 0
    now: int = 0

    def begin(self) -> None:
        """Begin another pass: what was read so far is done."""
        self.before, self.now = self.before + self.now, 0

    def progress(self, done: int, total: int) -> None:
        self.now = total
        if self.told:
            self.told(self.before + done, self.before + total)


def _timed(found: PassFindings, alignment: InitialAlignment, frames: FrameMap) -> Timed | None:
    if found.master is None or found.export is None or alignment.place is None:
        return None
    covers = [one.sampled.covers for one in found.chosen if one.sampled is not None]
    signatures = found.master.signatures, found.export.signatures
    return find_timing(*signatures, frames, painted_bars(covers) if covers else NO_BARS)


def _task(
    pair: Pair,
    alignment: InitialAlignment,
    frames: FrameMap,
    plan: Sequence[tuple[int, int]] | None = None,
) -> Task:
    plan = plan or plan_pairs(
        pair.master.reading, pair.export.reading, offset=alignment.offset, frames=pair.count
    )
    numbers = [one[1] for one in plan]
    registered, full_size = _spread(numbers, REGISTERED_PAIRS), _spread(numbers, FULL_SIZE_PAIRS)
    return Task(
        pair.master,
        pair.export,
        (timeline(pair.master), timeline(pair.export)),
        frames,
        picture_map_of(alignment.place, alignment.raster, own=pair.own, goal=pair.goal),
        alignment.inside,
        {n: Wanted(place=n in registered, fine=n in full_size) for n in numbers},
        _parts(alignment, pair),
        plan_view_sampling(alignment.layout, pair.master.reading, pair.export.reading),
    )


def _parts(alignment: InitialAlignment, pair: Pair) -> tuple[Part, Part]:
    """Return the parts of master and export that both show; the whole where that is unknown."""
    picture_map = picture_map_or_identity(
        alignment.place, alignment.raster, own=pair.own, goal=pair.own
    )
    return Part(picture_map.in_master, picture_map.turn, picture_map.mirrored), Part(
        picture_map.shared
    )


def _spread(items: Sequence[int], count: int) -> set[int]:
    step = max(len(items) / count, 1)
    places = [int(step * (i + 0.5)) for i in range(count)]
    return {items[place] for place in places if place < len(items)}


def _place(found: PassFindings, alignment: InitialAlignment) -> tuple[Registration | None, bool]:
    """Return where the master lies by the frames of the whole, and whether that was known."""
    textured = [one.place for one in found.chosen if one.textured]
    place = merged(textured, alignment.raster, alignment.inside)
    if place is None or alignment.place is None:
        return place, place is None and not textured
    moved = moved_by(
        place,
        (alignment.place.left, alignment.place.top, alignment.place.width, alignment.place.height),
    )
    return place, moved < SAME_PLACE_SAMPLES


def moved_by(place: Registration, goal: tuple[float, float, float, float]) -> float:
    """Return the most that a side of the place is off a rectangle: left, top, width, height."""
    here = (place.left, place.top, place.width, place.height)
    return max(abs(one - other) for one, other in zip(here, goal, strict=True))
