"""How colours came to be others, as a function: a curve, and a lattice over it where that is not
enough. Finer than any table that is written of it."""

from dataclasses import dataclass

import numpy as np

from ...colour.lookup import LookUpTable, Triples, lattice
from .curve import fit_curve
from .lattice import fit_field
from .model import CURVE_SIZE, Colours

ALIKE, ALIKE_SIGNAL = 1.5, 0.001
"""A curve is taken where a lattice leaves not much less over: times, and in signal."""
FIELD_SIZE = 33
BASE_BEND = 1e-5
"""Of a curve under a lattice: smooth enough to be read between the lattice's points."""
FAR = 0.05
"""In signal: what is off by more counts no more, for it may be an edge of something laid over."""


@dataclass(frozen=True, slots=True, eq=False)
class Fitted:
    """curve (n,): of each channel. field: what is added after it, by colour; None for nothing."""

    curve: Triples
    field: LookUpTable | None = None

    def apply(self, signal: Triples) -> Triples:
        """Return what signals (…, 3) become, within 0..1."""
        made = self._curved(signal)
        if self.field is not None:
            made = made + self.field.apply(signal)
        return np.clip(made, 0.0, 1.0)

    def _curved(self, signal: Triples) -> Triples:
        steps = np.linspace(0.0, 1.0, len(self.curve))
        return np.asarray(np.interp(np.clip(signal, 0.0, 1.0), steps, self.curve))

    def table(self, size: int) -> LookUpTable:
        """Return it as a table: a curve, or a lattice of a size, whose channels rise with
        themselves."""
        if self.field is None:
            grey = np.linspace(0.0, 1.0, CURVE_SIZE)[:, None]
            return LookUpTable(self.apply(np.repeat(grey, 3, axis=1)))
        values = self.apply(lattice(size)).reshape(size, size, size, 3)
        for channel in range(3):
            values[..., channel] = np.maximum.accumulate(values[..., channel], axis=channel)
        return LookUpTable(values)


def fit_colours(colours: Colours) -> Fitted:
    """Return how delivered colours become expected ones."""
    alone = Fitted(fit_curve(colours))
    base = Fitted(fit_curve(colours, bend=BASE_BEND))
    moved = colours.expected - base.apply(colours.delivered)
    both = Fitted(base.curve, LookUpTable(fit_field(colours, moved, FIELD_SIZE)))
    left = [_left_over(one, colours) for one in (alone, both)]
    return alone if left[0] <= ALIKE * left[1] + ALIKE_SIGNAL else both


def _left_over(fitted: Fitted, colours: Colours) -> float:
    error = np.linalg.norm(fitted.apply(colours.delivered) - colours.expected, axis=1)
    weights = colours.counts**0.5
    return float(np.sqrt((weights * np.minimum(error, FAR) ** 2).sum() / weights.sum()))
