"""Look-up tables over R'G'B' signals: one curve for each channel, or a lattice of colours.

Lattices are read by tetrahedral interpolation: common practice, no source.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Triples = npt.NDArray[np.float64]
Indices = npt.NDArray[np.intp]


@dataclass(frozen=True, slots=True, eq=False)
class LookUpTable:
    """A table over signals 0..1. values: (n, 3), a curve for each channel, or (n, n, n, 3) by
    red, green and blue."""

    values: Triples

    @property
    def kind(self) -> str:
        """Return 1d or 3d."""
        return "1d" if self.values.ndim == 2 else "3d"

    @property
    def size(self) -> int:
        """Return how many entries a side has."""
        return len(self.values)

    def apply(self, signal: Triples) -> Triples:
        """Return what signals (…, 3) become; what lies outside 0..1 is cut first."""
        inside = np.clip(signal, 0.0, 1.0)
        if self.kind == "1d":
            steps = np.linspace(0.0, 1.0, self.size)
            shown = [np.interp(inside[..., i], steps, self.values[:, i]) for i in range(3)]
            return np.stack(shown, axis=-1)
        corners, weights = tetrahedra(inside.reshape(-1, 3), self.size)
        found = self.values.reshape(-1, 3)[corners]
        return np.asarray((found * weights[..., None]).sum(axis=1).reshape(inside.shape))


def tetrahedra(signal: Triples, size: int) -> tuple[Indices, Triples]:
    """Return of each signal (n, 3) in 0..1 its four lattice points (n, 4) and their weights.

    Points are numbered with blue fastest: (red × size + green) × size + blue.
    """
    place = signal * (size - 1)
    base = np.minimum(place.astype(np.intp), size - 2)
    part = place - base
    order = np.argsort(-part, axis=1, kind="stable")
    part = np.take_along_axis(part, order, axis=1)
    steps = np.array([size * size, size, 1])
    first = (base * steps).sum(axis=1)
    along = np.cumsum(steps[order], axis=1)
    corners = np.column_stack([first, first[:, None] + along])
    zero, one = np.zeros((len(part), 1)), np.ones((len(part), 1))
    weights = -np.diff(np.hstack([one, part, zero]), axis=1)
    return corners, weights


def lattice(size: int) -> Triples:
    """Return the signals (size³, 3) of a lattice, blue fastest."""
    steps = np.linspace(0.0, 1.0, size)
    return np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 3)
