"""Compiled loops beside the counting ones: a frame made small, and the extremes of its lines."""

import numpy as np

from .compiled import Array, compiled


@compiled
def mean_blocks(plane: Array, width: int, side: int, scale: float, out: Array) -> None:
    """Write means of side × side blocks, times scale, to out (row, column).

    plane: whole rows, padding included; width: the picture's own. What is left over at the right
    and below is not read.
    """
    columns = out.shape[1]
    sums = np.zeros(columns * side, np.uint32)
    by = np.float32(scale / (side * side))
    for row in range(out.shape[0]):
        sums[:] = 0
        for line in range(side):
            given = plane[row * side + line]
            for x in range(columns * side):
                sums[x] += given[x]
        for column in range(columns):
            total = np.uint32(0)
            for x in range(side):
                total += sums[column * side + x]
            out[row, column] = total * by


@compiled
def widen_extremes(
    luma: Array, width: int, low_rows: Array, high_rows: Array, lows: Array, highs: Array
) -> None:
    """Widen the lowest and highest codes of each row and of each column by a plane's."""
    for row in range(luma.shape[0]):
        line = luma[row]
        low, high = line[0], line[0]
        for x in range(width):
            low, high = min(low, line[x]), max(high, line[x])
        for x in range(width):
            lows[x] = min(lows[x], line[x])
        for x in range(width):
            highs[x] = max(highs[x], line[x])
        low_rows[row] = min(low_rows[row], low)
        high_rows[row] = max(high_rows[row], high)


@compiled
def align_costs(table: Array, rows: Array, penalty: float) -> Array:
    """Return the place in the band (one a row of table) of the cheapest way through it.

    table: cost of matching row i with column b, which stands for rows[i] + b of the other file.
    The way never goes back there; each deviation from rows costs penalty, a tenth more a step.
    """
    count, width = table.shape
    middle = width // 2
    cost, came = np.zeros(width), np.zeros((count, width), np.int16)
    for b in range(width):
        away = abs(b - middle)
        cost[b] = table[0, b] + (penalty * (1 + 0.1 * (away - 1)) if away else 0.0)
    for i in range(1, count):
        step = rows[i] - rows[i - 1]
        following = np.zeros(width)
        for b in range(width):
            best, source = cost[b], b
            for before in range(min(b + step, width - 1) + 1):
                if before == b:
                    continue
                there = cost[before] + penalty * (1 + 0.1 * (abs(b - before) - 1))
                if there < best:
                    best, source = there, before
            following[b] = best + table[i, b]
            came[i, b] = source
        cost = following
    places = np.zeros(count, np.int64)
    places[count - 1] = np.argmin(cost)
    for i in range(count - 1, 0, -1):
        places[i - 1] = came[i, places[i]]
    return places


@compiled
def mean_ssim(
    mean_x: Array, mean_y: Array, xx: Array, yy: Array, xy: Array, c1: float, c2: float, rim: int
) -> Array:
    """Return the mean of the structural similarity map, the rim left out.

    mean_*: windowed means of both planes; xx, yy, xy: of their products. Wang et al. 2004.
    """
    total: Array = 0.0
    rows, columns = mean_x.shape
    for row in range(rim, rows - rim):
        part = np.float32(0)
        for x in range(rim, columns - rim):
            a, b = mean_x[row, x], mean_y[row, x]
            ab, squares = a * b, a * a + b * b
            shared = xy[row, x] - ab
            spread = xx[row, x] + yy[row, x] - squares
            part += (
                (np.float32(2) * ab + np.float32(c1))
                * (np.float32(2) * shared + np.float32(c2))
                / ((squares + np.float32(c1)) * (spread + np.float32(c2)))
            )
        total += part
    return total / ((rows - 2 * rim) * (columns - 2 * rim))
