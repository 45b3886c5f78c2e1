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
    sums = np.zeros(columns * side, np.int32)
    by = np.float32(scale / (side * side))
    for row in range(out.shape[0]):
        given = plane[row * side]
        for x in range(columns * side):
            sums[x] = given[x]
        for line in range(1, side):
            given = plane[row * side + line]
            for x in range(columns * side):
                sums[x] = np.int32(sums[x] + np.int32(given[x]))
        _mean_across(sums, side, by, out[row])


@compiled
def _mean_across(sums: Array, side: int, by: Array, line: Array) -> None:
    """Write the sums of side neighbours each, times by: sides that are known become vectors."""
    if side == 2:
        for column in range(len(line)):
            x = 2 * column
            line[column] = np.float32(np.int32(sums[x] + sums[x + 1])) * by
    elif side == 3:
        for column in range(len(line)):
            x = 3 * column
            line[column] = np.float32(np.int32(sums[x] + sums[x + 1] + sums[x + 2])) * by
    else:
        for column in range(len(line)):
            total = np.int32(0)
            for x in range(side):
                total = np.int32(total + sums[column * side + x])
            line[column] = np.float32(total) * by


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


@compiled
def block_ssim(one: Array, other: Array, c1: float, c2: float) -> Array:
    """Return the mean structural similarity over windows of 8 × 8, four apart, and the mean square.

    one, other: planes (row, column) of at least 8 × 8. mean square: of their difference, over whole
    blocks of 4 × 4. Each sample is read once.
    """
    across, down = one.shape[1] // 4, one.shape[0] // 4
    sums = np.zeros((2, 4, across))
    total, squares = 0.0, 0.0
    for band in range(down):
        here, before = sums[band % 2], sums[1 - band % 2]
        for block in range(across):
            a = b = aa = bb = ab = 0.0
            for row in range(band * 4, band * 4 + 4):
                for column in range(block * 4, block * 4 + 4):
                    x, y = np.float64(one[row, column]), np.float64(other[row, column])
                    a, b = a + x, b + y
                    aa, bb, ab = aa + x * x, bb + y * y, ab + x * y
            here[0, block], here[1, block] = a, b
            here[2, block], here[3, block] = aa + bb, ab
            squares += aa + bb - 2 * ab
        if band == 0:
            continue
        for block in range(across - 1):
            a = here[0, block] + here[0, block + 1] + before[0, block] + before[0, block + 1]
            b = here[1, block] + here[1, block + 1] + before[1, block] + before[1, block + 1]
            both = here[2, block] + here[2, block + 1] + before[2, block] + before[2, block + 1]
            ab = here[3, block] + here[3, block + 1] + before[3, block] + before[3, block + 1]
            a, b, both, ab = a / 64, b / 64, both / 64, ab / 64
            ends = a * a + b * b
            shared, spread = ab - a * b, both - ends
            total += (2 * a * b + c1) * (2 * shared + c2) / ((ends + c1) * (spread + c2))
    windows = max((across - 1) * (down - 1), 1)
    return total / windows, squares / max(across * down * 16, 1)


@compiled
def place_equations(
    drawn: Array,
    goal: Array,
    slopes: Array,
    places: Array,
    mask: Array,
    normal: Array,
    right: Array,
) -> None:
    """Add the normal equations of a step of place, gain and lift to normal (6, 6) and right (6,).

    drawn, goal: (row, column); slopes: (2, row, column), of drawn across and down; places: the
    share of the picture's width and height at each column, then at each row. Sums in row order.
    """
    height, width = goal.shape
    # Along a row v stands still, so sums over four terms serve all six.
    for row in range(height):
        aa = ab = bb = ac = bc = cc = ad = bd = cd = dd = 0.0
        a = b = c = d = ag = bg = cg = dg = g = 0.0
        count = 0.0
        for column in range(width):
            if not mask[row, column]:
                continue
            u, slope = places[0, column], slopes[0, row, column]
            left, across = -slope * (1 - u), -slope * u
            down, here, aim = -slopes[1, row, column], drawn[row, column], goal[row, column]
            aa, ab, bb = aa + left * left, ab + left * across, bb + across * across
            ac, bc, cc = ac + left * down, bc + across * down, cc + down * down
            ad, bd, cd, dd = (
                ad + left * here,
                bd + across * here,
                cd + down * here,
                dd + here * here,
            )
            a, b, c, d, count = a + left, b + across, c + down, d + here, count + 1
            ag, bg, cg, dg, g = (
                ag + left * aim,
                bg + across * aim,
                cg + down * aim,
                dg + here * aim,
                g + aim,
            )
        v = places[1, row]
        w = 1 - v
        normal[0, 0] += aa
        normal[0, 1] += ab
        normal[1, 1] += bb
        normal[0, 2] += ac * w
        normal[0, 3] += ac * v
        normal[1, 2] += bc * w
        normal[1, 3] += bc * v
        normal[2, 2] += cc * w * w
        normal[2, 3] += cc * w * v
        normal[3, 3] += cc * v * v
        normal[0, 4] += ad
        normal[1, 4] += bd
        normal[2, 4] += cd * w
        normal[3, 4] += cd * v
        normal[4, 4] += dd
        normal[0, 5] += a
        normal[1, 5] += b
        normal[2, 5] += c * w
        normal[3, 5] += c * v
        normal[4, 5] += d
        normal[5, 5] += count
        right[0] += ag
        right[1] += bg
        right[2] += cg * w
        right[3] += cg * v
        right[4] += dg
        right[5] += g
    for i in range(6):
        for j in range(i):
            normal[i, j] = normal[j, i]
