"""Frames through a look-up table: R'G'B' of the master becomes the version's, for every sample.

Lattices are read by tetrahedral interpolation, as the expected picture reads them
(colour/lookup.py); here in compiled loops.
"""

from typing import Any

import numpy as np

from ....colour.lookup import LookUpTable
from ....measured.decoded.compiled import Array, compiled_real
from .sampling import Real


def through_table(signals: Real, rgb: Real, table: LookUpTable) -> Real:
    """Return R'G'B' 0..1 (3, row, column), after a table, of Y'CbCr signals of that size.

    rgb: the matrix from Y'CbCr to R'G'B', (3, 3).
    """
    out = np.empty_like(signals)
    values = np.ascontiguousarray(table.values, np.float32)
    if table.kind == "1d":
        _by_curves(signals, rgb, values, out)
    else:
        _by_lattice(signals, rgb, values, out)
    return out


@compiled_real
def _inside(y: Any, cb: Any, cr: Any, by: Array) -> Any:
    return min(max(by[0] * y + by[1] * cb + by[2] * cr, np.float32(0)), np.float32(1))


@compiled_real
def _by_curves(signals: Array, rgb: Array, values: Array, out: Array) -> None:
    last = values.shape[0] - 1
    for row in range(out.shape[1]):
        for x in range(out.shape[2]):
            y, cb, cr = signals[0, row, x], signals[1, row, x], signals[2, row, x]
            for i in range(3):
                at = _inside(y, cb, cr, rgb[i]) * np.float32(last)
                low = min(np.int32(at), last - 1)
                part = at - np.float32(low)
                out[i, row, x] = values[low, i] + part * (values[low + 1, i] - values[low, i])


@compiled_real
def _by_lattice(signals: Array, rgb: Array, values: Array, out: Array) -> None:
    last = values.shape[0] - 1
    place = np.zeros(3, np.int32)
    part = np.zeros(3, np.float32)
    for row in range(out.shape[1]):
        for x in range(out.shape[2]):
            y, cb, cr = signals[0, row, x], signals[1, row, x], signals[2, row, x]
            for i in range(3):
                at = _inside(y, cb, cr, rgb[i]) * np.float32(last)
                place[i] = min(np.int32(at), last - 1)
                part[i] = at - np.float32(place[i])
            # from the cube's lower corner to its upper one, along the largest part first
            r, g, b = place[0], place[1], place[2]
            for i in range(3):
                out[i, row, x] = values[r, g, b, i]
            for _ in range(3):
                axis = 0
                if part[1] > part[axis]:
                    axis = 1
                if part[2] > part[axis]:
                    axis = 2
                weight = part[axis]
                part[axis] = np.float32(-1)
                u = r + (1 if axis == 0 else 0)
                v = g + (1 if axis == 1 else 0)
                w = b + (1 if axis == 2 else 0)
                for i in range(3):
                    out[i, row, x] += weight * (values[u, v, w, i] - values[r, g, b, i])
                r, g, b = u, v, w
