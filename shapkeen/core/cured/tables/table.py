"""A look-up table that takes a measured drift back, or why there is none."""

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding, Triples, codes_from_signal, light_from_signal
from ...colour.difference import difference_name
from ...colour.lookup import LookUpTable, lattice
from ...judged import Cause, Comparison
from ...judged.model import BENT, LOST
from ...measured.alignment.expected import converted, folds
from ...measured.decoded.metrics import light_difference
from .colours import PairedColours, paired_colours, signal_of
from .fitting import Fitted, fit_colours
from .lattice import share_without
from .model import (
    SIZES,
    SOURCE,
    UNDONE,
    USES,
    Beyond,
    ColourError,
    Colours,
    DriftTable,
    NoTable,
)

HALVED = 0.5
"""What is left of the difference may be so much of it: else nothing has come back."""
SEEN = 3.0
"""ΔE from which a colour that stays off is counted as one that does not come back."""
LEAST_DRIFT = 0.5
"""ΔE: less is coding."""
NOISY = 4.0
SURE_COUNT = 3
DRIFTING = frozenset({"tone", "gamut"})
"""Traits of the picture's own light and colours."""
ONE_STEPS = 256
"""Steps of signal: colours in one of them came as one."""


def table_for(found: Comparison, *, use: str = SOURCE, size: int = 33) -> DriftTable | NoTable:
    """Return the table that takes back what became of light and colour.

    use: SOURCE or EXPORT. size: of a lattice, 17, 33 or 65. Raises ValueError for others.
    """
    if use not in USES or size not in SIZES:
        raise ValueError(f"No table for {use!r} of size {size}.")
    pairs = paired_colours(found)
    if isinstance(pairs, str):
        return NoTable(use, pairs)
    if use == SOURCE and folds(pairs.own, pairs.goal):
        return NoTable(use, FOLDED)
    fitted = fit_colours(pairs.fitted)
    back = fitted.table(size)
    shown = _shown(pairs, back, use)
    before = _error(pairs.aside.delivered, pairs.aside, pairs.goal)
    after = _error(shown, pairs.aside, pairs.goal)
    undoes = tuple(cause.id for cause in found.survival.causes if cause.id in UNDONE)
    why = _refusal(found, before, after, undoes)
    if why is not None:
        return NoTable(use, why, before, after)
    return DriftTable(
        table=back if use != SOURCE else _on_the_way_out(fitted, pairs, size),
        use=use,
        undoes=undoes,
        before=before,
        after=after,
        beyond=_beyond(found.survival.causes, shown, pairs, use),
        extrapolated=round(share_without(pairs.seen, back.kind), 3),
    )


def has_drifted(found: Comparison) -> bool:
    """Return whether light or colours came otherwise by an act that a table may take back."""
    causes = found.survival.causes
    if any(cause.id in UNDONE for cause in causes):
        return True
    if found.survey.misplaced:
        return False  # parts of the picture, which a table cannot tell from others
    explained = {trait for cause in causes for trait in cause.traits}
    return any(
        verdict.trait in DRIFTING
        and verdict.verdict in (BENT, LOST)
        and verdict.trait not in explained
        for verdict in found.survival.verdicts
    )


FOLDED = (
    "HDR is folded to SDR on the way: many colours become one, and how is a matter of taste. "
    "Change the fold itself."
)


def _shown(pairs: PairedColours, back: LookUpTable, use: str) -> Triples:
    """Return what the colours kept aside will be with the table in use."""
    if use != SOURCE:
        return back.apply(pairs.aside.delivered)
    # What drifts otherwise than the whole does goes on doing so.
    stray = pairs.aside.delivered - _drifted(pairs, pairs.aside.expected)
    return np.clip(_drifted(pairs, back.apply(pairs.aside.expected)) + stray, 0.0, 1.0)


def _drifted(pairs: PairedColours, signal: Triples) -> Triples:
    """Return what the program will make of signals: by its act, or as it did with the picture."""
    made = pairs.known.done_to(signal) if pairs.known else None
    if made is not None:
        return np.clip(made, 0.0, 1.0)
    # Nobody knows what it makes of light that the picture does not have: no more, then.
    given = pairs.seen.expected
    inside = np.clip(signal, given.min(axis=0), given.max(axis=0))
    return fit_colours(pairs.seen.turned_round()).apply(inside)


def _on_the_way_out(back: Fitted, pairs: PairedColours, size: int) -> LookUpTable:
    """Return the table over the master's own signals: converted as promised, taken back, and back.

    The program that drifts converts once more, so its conversion must not be made twice.
    """
    if pairs.own == pairs.goal:
        return back.table(size)
    grid = lattice(size)
    there = signal_of(converted(codes_from_signal(grid, pairs.own), pairs.own, pairs.goal), pairs)
    codes = converted(codes_from_signal(back.apply(there), pairs.goal), pairs.goal, pairs.own)
    made = np.clip(signal_of(codes, pairs, own=True), 0.0, 1.0)
    return LookUpTable(made.reshape(size, size, size, 3))


def _differences(shown: Triples, colours: Colours, coding: Coding) -> Triples:
    sides = (np.clip(signal, 0.0, 1.0) for signal in (shown, colours.expected))
    one, other = (light_from_signal(signal, coding.transfer) for signal in sides)
    return np.asarray(light_difference(one, other, coding))


def _error(shown: Triples, colours: Colours, coding: Coding) -> ColourError:
    apart = _differences(shown, colours, coding)
    sure = colours.counts >= SURE_COUNT
    worst = apart[sure] if sure.any() else apart
    mean = float((apart * colours.counts).sum() / colours.counts.sum())
    unit = difference_name(coding.transfer)
    return ColourError(round(mean, 3), round(float(worst.max()), 3), unit)


def _refusal(
    found: Comparison, before: ColourError, after: ColourError, undoes: tuple[str, ...]
) -> str | None:
    """Return why nothing is written; None where something comes back."""
    if before.mean < LEAST_DRIFT and not undoes:
        return "Light and colours are where they should be: there is no drift to undo."
    gone = _why_gone(found.survival.causes)
    if gone and not undoes:
        return f"Only this happened: {gone}."
    if after.mean <= HALVED * before.mean:
        return None
    return gone or (
        "What happened to the colours is not the same everywhere in the picture, or different "
        "colours became one: no table brings them back."
    )


def _beyond(causes: tuple[Cause, ...], shown: Triples, pairs: PairedColours, use: str) -> Beyond:
    """Return what stays off although the table is in use."""
    left = _differences(shown, pairs.aside, pairs.goal)
    had = _differences(pairs.aside.delivered, pairs.aside, pairs.goal)
    counts = pairs.aside.counts
    gone = left > HALVED * had
    if use != SOURCE:
        gone |= _became_one(pairs.aside, pairs.goal)
    # Coding noise stays, whatever the table does.
    limit = max(SEEN, NOISY * float(np.median(left)))
    lost = (left > limit) & gone & (counts >= SURE_COUNT)
    share = float(counts[lost].sum() / counts.sum())
    if not share:
        return Beyond(0.0, None)
    kept_in = "the program's output ends before them" if use == SOURCE else "they became one"
    return Beyond(round(share, 4), _why_gone(causes) or f"some colours cannot come back: {kept_in}")


def _became_one(colours: Colours, coding: Coding) -> npt.NDArray[np.bool_]:
    """Return which colours (n,) came as others did that should look clearly otherwise."""
    keys = np.floor(colours.delivered * ONE_STEPS).astype(np.int64)
    _, group, sizes = np.unique(keys, axis=0, return_inverse=True, return_counts=True)
    group = group.ravel()
    middles = [np.bincount(group, colours.expected[:, i]) / sizes for i in range(3)]
    apart = _differences(np.stack(middles, axis=1)[group], colours, coding)
    return np.asarray(np.bincount(group, apart)[group] / sizes[group] > SEEN)


def _why_gone(causes: tuple[Cause, ...]) -> str | None:
    """Return which act made many colours one."""
    for cause in causes:
        if cause.id in WHY_GONE:
            return WHY_GONE[cause.id].format(_level(cause.values))
    return None


WHY_GONE = {
    "highlights-clipped": "highlights cut at {} cannot come back",
    "gamut-clipped": "colours cut at the edge of a smaller gamut cannot come back",
    "range-expanded": "tones that were crushed at both ends cannot come back",
    "range-compressed": "black and white lie outside what this program puts out",
    "tone-compressed": "tones that were folded together cannot come back",
    "depth-reduced": "levels that were merged cannot come back",
}


def _level(values: Mapping[str, object]) -> str:
    level = values.get("level")
    if not isinstance(level, int | float):
        return "one level"
    return f"{level:.0f} cd/m²" if level > 1 else f"a signal of {level:.3f}"
