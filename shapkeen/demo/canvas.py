"""A canvas of linear light: shapes are painted by coverage, with soft edges, in box cut-outs."""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

Real = npt.NDArray[np.floating[Any]]
Colour = tuple[float, float, float]


@dataclass(frozen=True)
class Patch:
    """A cut-out of the canvas with its coordinates: x, y in picture heights from the centre."""

    rows: slice
    columns: slice
    x: Real
    y: Real
    pixel: float

    def coverage(self, distance: Real) -> Real:
        """Return how much of each pixel lies inside, for signed distances (inside < 0)."""
        return np.asarray(np.clip(0.5 - distance / self.pixel, 0.0, 1.0))


class Canvas:
    """Linear light in cd/m², (row, column, channel); the picture is one unit high."""

    def __init__(self, width: int, height: int, *, aspect: float) -> None:
        """Start black; `aspect` is the shown shape, so wide samples are drawn squeezed."""
        self.light = np.zeros((height, width, 3), dtype=np.float32)
        self._x = ((np.arange(width) + 0.5) / width - 0.5).astype(np.float32) * aspect
        self._y = ((np.arange(height) + 0.5) / height - 0.5).astype(np.float32)
        self._pixel = 1.0 / height

    def patch(self, x: float, y: float, reach: float) -> Patch:
        """Return the square cut-out of half width `reach` round a point."""
        rows = slice(*np.searchsorted(self._y, (y - reach, y + reach)))
        columns = slice(*np.searchsorted(self._x, (x - reach, x + reach)))
        local_x, local_y = np.meshgrid(self._x[columns] - x, self._y[rows] - y)
        return Patch(rows, columns, local_x, local_y, self._pixel)

    def whole(self) -> Patch:
        """Return everything as one patch with its origin in the middle."""
        x, y = np.meshgrid(self._x, self._y)
        return Patch(slice(None), slice(None), x, y, self._pixel)

    def paint(self, patch: Patch, coverage: Real, colour: Colour | Real) -> None:
        """Paint over a patch: a colour (or a light per pixel) where `coverage` is 1."""
        part = self.light[patch.rows, patch.columns]
        inside = coverage > 0  # most shapes leave most of their cut-out alone
        alpha = coverage[inside][:, None]
        paint = np.asarray(colour, dtype=np.float32)
        if paint.ndim == 3:
            paint = paint[inside]
        part[inside] = part[inside] * (1 - alpha) + alpha * paint

    def glow(self, patch: Patch, amount: Real, colour: Colour) -> None:
        """Add light to a patch."""
        self.light[patch.rows, patch.columns] += amount[..., None] * np.asarray(
            colour, dtype=np.float32
        )
