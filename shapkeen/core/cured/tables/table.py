"""A look-up table that takes a measured drift back, or why there is none."""

import numpy as np
import numpy.typing as npt

from ...colour.coding import Coding, Triples, codes_from_signal, light_from_signal
from ...colour.difference import difference_name
from ...colour.lookup import LookUpTable, lattice
from ...judged import Cause, Comparison
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
from .refusing import FOLDED, HALVED, nothing_came_back, nothing_to_undo, why_gone

SEEN = 3.0
"""ΔE from which a colour that stays off is counted as one that does not come back."""
NOISY = 4.0
SURE_COUNT = 3
ONE_STEPS = 256
"""Steps of signal: colours in one of them came as one."""


def table_for(found: Comparison, *, use: str = SOURCE, size: int = 33) -> DriftTable | NoTable:
    """Return the table that takes back what became of light and colour.

    use: SOURCE or EXPORT. size: of a lattice, 17, 33 or 65. Raises ValueError for others.
    """
    if use not in USES or size not in SIZES:
        raise ValueError(f"No table for {use!r} of size {size}.")
    nothing = nothing_to_undo(found)
    if nothing is not None:
        return NoTable(use, nothing)
    pairs = paired_colours(found)
    if isinstance(pairs, str):
        return NoTable(use, pairs)
    if folds(pairs.own, pairs.goal):
        return NoTable(use, FOLDED)
    fitted = fit_colours(pairs.fitted)
    back = fitted.table(size)
    shown = _shown(pairs, back, use)
    before = _error(pairs.aside.delivered, pairs.aside, pairs.goal)
    after = _error(shown, pairs.aside, pairs.goal)
    undoes = tuple(cause.id for cause in found.survival.causes if cause.id in UNDONE)
    why = nothing_came_back(found, before, after)
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
    return Beyond(round(share, 4), why_gone(causes) or f"some colours cannot come back: {kept_in}")


def _became_one(colours: Colours, coding: Coding) -> npt.NDArray[np.bool_]:
    """Return which colours (n,) came as others did that should look clearly otherwise."""
    keys = np.floor(colours.delivered * ONE_STEPS).astype(np.int64)
    _, group, sizes = np.unique(keys, axis=0, return_inverse=True, return_counts=True)
    group = group.ravel()
    middles = [np.bincount(group, colours.expected[:, i]) / sizes for i in range(3)]
    apart = _differences(np.stack(middles, axis=1)[group], colours, coding)
    return np.asarray(np.bincount(group, apart)[group] / sizes[group] > SEEN)
