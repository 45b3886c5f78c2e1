"""What the Bench shows of a comparison in pictures: a pair a cause, and the film as two bands."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...core.judged import Cause, Comparison, Verdict
from ...core.judged.model import BENT, LOST
from ...core.promised import CARRIAGE, SOUND, trait_by_name
from ...core.promised.traits import EYES, SHAPE, SPHERE
from ...core.reported.slip import slip_of
from .played import pairs_of

COLUMNS = 240
"""Of a band at most; a longer film is shown by so many of its frames."""
SHORT_FRAMES = 2000
"""A band of a film no longer than that is drawn while somebody waits."""
UNSEEN = frozenset({"content_light", "mastering_display", "alternative_transfer"})
"""Traits that a still on a simulated display shows nothing of."""
UNFLAGGED = frozenset({SPHERE, EYES})
"""Families whose flags alone change no flat picture."""
SHAPED = frozenset({SHAPE, SPHERE, EYES})
"""Families whose pictures are shown whole."""


@dataclass(frozen=True, slots=True)
class CausePair:
    """The pair of pictures of one cause: its first trait, and the frames of master and export."""

    trait: str
    frames: tuple[int, int]
    whole: bool


def cause_pair(comparison: Comparison, cause: Cause) -> CausePair | None:
    """Return what shows a cause best; None where a picture shows nothing of it."""
    verdicts = {one.trait: one for one in comparison.survival.verdicts}
    for name in cause.traits:
        trait = trait_by_name(name)
        if trait is None or name in UNSEEN or trait.family in (CARRIAGE, SOUND):
            continue
        if trait.family in UNFLAGGED and not _is_seen(verdicts[name]):
            continue
        frames = frames_at(comparison, slip_of(comparison, verdicts[name]).frame)
        if frames is not None:
            return CausePair(name, frames, trait.family in SHAPED)
    return None


def _is_seen(verdict: Verdict) -> bool:
    """Return whether the pixels themselves show that a trait did not come through."""
    return verdict.states.picture in (BENT, LOST)


def cause_pairs(comparison: Comparison) -> Iterator[CausePair]:
    """Yield the pairs of all causes that a picture shows."""
    for cause in comparison.survival.causes:
        found = cause_pair(comparison, cause)
        if found is not None:
            yield found


def frames_at(comparison: Comparison, frame: int) -> tuple[int, int] | None:
    """Return the compared frames of master and export nearest to one of the export."""
    pairs = pairs_of(comparison.survey)
    return min(pairs, key=lambda pair: abs(pair[1] - frame)) if pairs else None


def band_frames(comparison: Comparison) -> tuple[list[int], list[int]]:
    """Return the frames of master and export that bands are drawn of, spread evenly."""
    pairs = pairs_of(comparison.survey)
    step = max(len(pairs) / COLUMNS, 1.0)
    chosen = [pairs[int(number * step)] for number in range(min(len(pairs), COLUMNS))]
    return [one[0] for one in chosen], [one[1] for one in chosen]


@dataclass(frozen=True, slots=True)
class Mark:
    """A finding at its time on the band. share: of the width. titles: of the traits found there."""

    frame: int
    share: float
    verdict: str
    titles: tuple[str, ...]


def marks_of(comparison: Comparison) -> list[Mark]:
    """Return where findings show most, by frame; several at one frame are one mark."""
    pairs = pairs_of(comparison.survey)
    if not pairs:
        return []
    first, last = pairs[0][1], pairs[-1][1]
    found: dict[int, list[tuple[str, str]]] = {}
    for verdict in comparison.survival.verdicts:
        trait = trait_by_name(verdict.trait)
        if trait is not None and trait.family != CARRIAGE and _is_seen(verdict):
            frame = slip_of(comparison, verdict).frame
            found.setdefault(frame, []).append((verdict.verdict, trait.title))
    return [
        Mark(
            frame,
            (frame - first + 0.5) / (last - first + 1),
            LOST if any(one[0] == LOST for one in rows) else BENT,
            tuple(one[1] for one in rows),
        )
        for frame, rows in sorted(found.items())
    ]
