"""The cheapest way through a band of distances: which frame of one file is which of the other's.

Dynamic programming, row after row, all columns of a row at once. It is not compiled: a process that
shares out work would load the compiler for it alone, and a film's rows take a few seconds.
"""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

Costs = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.int64]


def cheapest_way(
    tables: Iterable[tuple[int, Costs]], rows: Numbers, width: int, penalty: float
) -> Numbers:
    """Return the column of each row (n) on the cheapest way, which never goes back.

    tables: blocks, in order, of the number of their first row and of the cost of each row and
    column (k, width); column b of row i stands for rows[i] + b of the other file. rows (n): may
    leap, so much that the way may go as many columns to the right. penalty: of each deviation from
    rows, a tenth more for each column of it beyond the first.
    """
    columns = np.arange(width)
    apart = np.abs(columns[:, None] - columns)
    charge = np.where(apart == 0, 0.0, penalty * (1 + 0.1 * (apart - 1)))
    charges: dict[int, Costs] = {}
    came = np.zeros((len(rows), width), np.uint8 if width <= 256 else np.uint16)
    cost = charge[:, width // 2].copy()
    for first, table in tables:
        for i, line in enumerate(table, start=first):
            if i == 0:
                cost += line
                continue
            step = min(int(rows[i] - rows[i - 1]), width)
            if step not in charges:  # to a column from those that lie beyond the step: never
                charges[step] = np.where(columns > columns[:, None] + step, np.inf, charge)
            ways = cost + charges[step]
            source = ways.argmin(axis=1)
            best = ways[columns, source]
            came[i] = np.where(best < cost, source, columns)
            cost = np.minimum(best, cost) + line
    return _followed(cost, came)


def _followed(cost: Costs, came: npt.NDArray[np.uint8 | np.uint16]) -> Numbers:
    """Return the columns from the cheapest end back to the first row."""
    places = np.zeros(len(came), np.int64)
    at = int(cost.argmin())
    for i in range(len(came) - 1, -1, -1):
        places[i] = at
        at = int(came[i, at])
    return places
