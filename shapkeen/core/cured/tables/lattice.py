"""A smooth lattice of colours, from pairs of colours, fitted from coarse to fine."""

from typing import Any

import numpy as np
import numpy.typing as npt

from ...colour.lookup import LookUpTable, tetrahedra
from .curve import regular_line, robust_weights
from .model import Colours

FIRST_SIZE, TOLERANCE = 9, 1e-6
BEND, SLOPE = 2e-7, 2e-6
"""As of a curve (curve.py), along each side of the lattice."""
MOST_STEPS = {9: 300, 17: 300, 33: 150, 65: 60}
"""Of conjugate gradients: finer lattices begin near their goal."""
LEAST_WEIGHT = 1e-9
"""Of no correction: it alone would decide where nothing else does."""
NEAR_SIZE = 17
Values = npt.NDArray[np.float64]


def fit_field(colours: Colours, moved: Values, size: int) -> Values:
    """Return the corrections (n, n, n, 3) on a lattice that come nearest to what moved (k, 3).

    size: 17, 33 or 65. They are least in bend along red, green and blue, so that they go on
    straight where no colour was, and level out further off.
    """
    given = np.clip(colours.delivered, 0.0, 1.0)
    weights = colours.counts**0.5
    weights, own = weights / weights.sum(), weights / weights.sum()
    field, at = np.zeros((FIRST_SIZE, FIRST_SIZE, FIRST_SIZE, 3)), FIRST_SIZE
    while True:
        field = _solved(given, moved, own, field)
        if at == size:
            return field
        error = np.linalg.norm(LookUpTable(field).apply(given) - moved, axis=1)
        own = weights * robust_weights(error)
        field, at = _finer(field), 2 * at - 1


def _solved(given: Values, moved: Values, weights: Values, start: Values) -> Values:
    """Return the field (n, n, n, 3) nearest to what moved, beginning at another."""
    from scipy.sparse import csr_array, diags_array
    from scipy.sparse.linalg import cg

    size = len(start)
    corners, shares = tetrahedra(given, size)
    rows = np.repeat(np.arange(len(given)), 4)
    looked = csr_array((shares.ravel(), (rows, corners.ravel())), shape=(len(given), size**3))
    weighted = looked.T @ diags_array(weights)
    matrix = (weighted @ looked + _regular(size)).tocsr()
    ease = diags_array(1.0 / matrix.diagonal())
    found = [
        cg(
            matrix,
            weighted @ moved[:, channel],
            x0=start[..., channel].ravel(),
            rtol=TOLERANCE,
            maxiter=MOST_STEPS[size],
            M=ease,
        )[0]
        for channel in range(3)
    ]
    return np.stack(found, axis=-1).reshape(start.shape)


def _regular(size: int) -> Any:
    """Return the matrix (size³, size³) of the costs of bend and slope."""
    from scipy.sparse import eye_array, kron

    step = 1.0 / (size - 1)
    line = regular_line(size, BEND * step**2, SLOPE * step**2)  # a point stands for h³, not for h
    same = eye_array(size)
    return (
        kron(kron(line, same), same)
        + kron(kron(same, line), same)
        + kron(kron(same, same), line)
        + LEAST_WEIGHT * step**3 * eye_array(size**3)
    )


def _finer(field: Values) -> Values:
    """Return a field (n, n, n, 3) on a lattice with a point between each two."""
    for axis in range(3):
        size = field.shape[axis]
        halves = np.arange(2 * size - 1) / 2
        low = np.minimum(halves.astype(np.intp), size - 2)
        part = (halves - low).reshape([-1 if i == axis else 1 for i in range(4)])
        ends = np.take(field, low, axis=axis), np.take(field, low + 1, axis=axis)
        field = ends[0] * (1 - part) + ends[1] * part
    return field


def share_without(colours: Colours, kind: str) -> float:
    """Return the share of a table of some kind that lies further than a cell off any colour.

    Told on NEAR_SIZE cells a side, whatever the table's size.
    """
    given = np.clip(colours.delivered, 0.0, 1.0)
    if kind == "1d":
        low = np.minimum((given.ravel() * (NEAR_SIZE - 1)).astype(np.intp), NEAR_SIZE - 2)
        near = np.union1d(low, low + 1)
        return 1 - len(near) / NEAR_SIZE
    near = np.unique(tetrahedra(given, NEAR_SIZE)[0])
    return float(1 - len(near) / NEAR_SIZE**3)
