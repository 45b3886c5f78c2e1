"""Colours of a survey as signals: what was expected, and what came, as the export's tags say."""

from dataclasses import dataclass, replace

import numpy as np

from ...colour.coding import Coding, Triples, codes_from_signal, signal_from_codes
from ...colour.lookup import lattice
from ...judged import Comparison, plan_reading, read_pair_by
from ...measured import COLOUR_STEPS, ActFit, ColourPairs
from ...measured.model import coding_of
from ...measured.tone.conversions import Cells
from ...measured.tone.known_acts import done_to
from .model import UNDONE, Colours

Rows = tuple[tuple[int, ...], ...]
GUIDE_SIZE = 33
GUIDE_SHARE = 20.0
"""What all colours by formula weigh, of what the picture's own do: an act that explains them all is
believed more than single ones, which coding moved."""
EDGE = 1e-4
"""In signal: colours at the ends of the scale may have been cut there."""


@dataclass(frozen=True, slots=True, eq=False)
class PairedColours:
    """Colours to make a table from, and others to try it on. own, goal: the master's coding, and
    the promised one, in which all signals here are. seen: those of `fitted` that the picture has;
    others are by the formula of a known act."""

    fitted: Colours
    seen: Colours
    aside: Colours
    own: Coding
    goal: Coding
    known: "KnownDrift | None"


@dataclass(frozen=True, slots=True, eq=False)
class KnownDrift:
    """An act that has a formula, as it was found in some cells of the picture."""

    fit: ActFit
    cells: Cells
    goal: Coding
    read: Coding

    def done_to(self, signal: Triples) -> Triples | None:
        """Return what signals (n, 3) become; None where the act has no formula."""
        codes = codes_from_signal(signal, self.goal)
        made = done_to(codes, self.fit, self.cells, self.goal)
        return None if made is None else signal_from_codes(made, self.read)


def paired_colours(found: Comparison) -> PairedColours | str:
    """Return the colours of a survey; or, as a sentence, why there are none."""
    held = found.survey.colours
    if held is None:
        return "No places were found where the colours of both pictures can be compared."
    reading = read_pair_by(found.promise, found.master, found.export)
    own = coding_of(reading.master)
    goal = reading.goal or own
    if not goal.is_known or not own.is_known:
        return "Nobody says how the master's colours are coded: state its matrix and primaries."
    told = coding_of(plan_reading(found.export))
    # As a program will read the export: by its own tags, and by the promise where it has none.
    read = replace(goal, matrix=told.matrix or goal.matrix, full_range=told.full_range)
    read = read if read.is_known else goal
    seen, aside = (_colours(_codes(rows), goal, read) for rows in (held.fitted, held.aside))
    known = _known(found, held, goal, read)
    fitted = _with_guide(seen, known) if known is not None else seen
    return PairedColours(fitted, seen, aside, own, goal, known)


def _codes(rows: Rows) -> Triples:
    table = np.array(rows, np.float64)
    return np.column_stack([table[:, :6] / COLOUR_STEPS, table[:, 6]])


def _colours(table: Triples, goal: Coding, read: Coding) -> Colours:
    return Colours(
        np.clip(signal_from_codes(table[:, :3], goal), 0.0, 1.0),
        np.clip(signal_from_codes(table[:, 3:6], read), 0.0, 1.0),
        table[:, 6],
    )


def _known(found: Comparison, held: ColourPairs, goal: Coding, read: Coding) -> KnownDrift | None:
    """Return the act that is named, if it has a formula."""
    named = {cause.id for cause in found.survival.causes} & UNDONE
    acts = found.survey.acts
    if not named or not acts or not {act.name for act in acts[0].acts} <= UNDONE:
        return None
    table = _codes(held.fitted)
    known = KnownDrift(acts[0], Cells(table[:, :3], table[:, 3:6]), goal, read)
    return known if known.done_to(lattice(2)) is not None else None


def _with_guide(seen: Colours, known: KnownDrift) -> Colours:
    """Return colours with others from all over, as a known act makes them.

    Only what stays within the scale: what was cut at its ends says nothing of the way back.
    """
    given = lattice(GUIDE_SIZE)
    signal = known.done_to(given)
    if signal is None:
        return seen
    inside = ((signal > EDGE) & (signal < 1 - EDGE)).all(axis=1)
    if not inside.any():
        return seen
    # Colours weigh by the root of their counts (lattice.py).
    each = GUIDE_SHARE * (seen.counts**0.5).sum() / inside.sum()
    guide = Colours(given[inside], signal[inside], np.full(int(inside.sum()), each**2))
    return _joined(seen, guide)


def _joined(one: Colours, other: Colours) -> Colours:
    return Colours(
        *(
            np.concatenate([getattr(side, name) for side in (one, other)])
            for name in ("expected", "delivered", "counts")
        )
    )


def signal_of(codes: Triples, pairs: PairedColours, *, own: bool = False) -> Triples:
    """Return signals of codes in the promised coding, or in the master's own."""
    return signal_from_codes(codes, pairs.own if own else pairs.goal)
