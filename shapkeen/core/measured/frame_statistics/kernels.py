"""Loops over every sample of a frame, compiled. They count whole numbers, so sums are exact.

Written for the compiler: plain loops over a row become vector instructions; counting loops read
four samples at once and keep four counters, so that like neighbours do not wait for each other.
Hence each step is a loop of its own over one row, and rows pass through small buffers. Planes
come as whole rows, padding included, with the picture's own width beside them.
"""

from typing import NamedTuple

import numpy as np

from ..decoded.compiled import Array, compiled

BINS = 4096
"""Of the brightest channel: its code on the scale of 12 bits."""
PLACES = 65536 + 64
"""Length of a counter: any 16-bit sample has its place, so none needs a check. The rest keeps the
four counters of one code from lying a multiple of 4096 bytes apart, which processors mistake for
the same address: a third slower."""
PAD = 65535
"""Fills rows up to a multiple of four; counted at the last place, which nobody reads."""
TERM_BITS = 12
"""Chroma's part of a channel is calculated in parts of 1/4096 code."""
LEAST_PLATEAU = 6
STEPS = 16
Y_CELLS, C_CELLS = 32, 128
BLOCK = 512
"""Chroma samples: most blocks of a picture hold no colour outside, and are passed over."""
BAND = 16
"""Rows that every loop goes over before the next ones: they lie near the processor then, whatever
the raster. Whole sixteenths, and whole fours of chroma's."""
NO_LIGHT, BY_CODE, BY_SCENE_LIGHT = 0, 1, 2
LUMA_STEPS = 128
"""In which it is told which luma lies outside."""
NOWHERE = 0xFF
"""The lowest of an interval that holds no step."""
NOTHING_OUTSIDE = 0xFF00FF00


@compiled
def _count_row(line: Array, counts: Array) -> None:
    """Add a row of 16-bit samples, a multiple of four, to counts (4, PLACES)."""
    fours = line.view(np.uint64)
    first, second, third, fourth = counts[0], counts[1], counts[2], counts[3]
    low = np.uint64(0xFFFF)
    for x in range(len(fours)):
        four = fours[x]
        first[four & low] += 1
        second[(four >> np.uint64(16)) & low] += 1
        third[(four >> np.uint64(32)) & low] += 1
        fourth[four >> np.uint64(48)] += 1


@compiled
def _spread_row(narrow: Array, wide: Array, across: int) -> None:
    """Lay one value a chroma sample out over the luma samples that it belongs to."""
    if across:
        for x in range(len(narrow)):
            wide[2 * x] = narrow[x]
            wide[2 * x + 1] = narrow[x]
    else:
        for x in range(len(narrow)):
            wide[x] = narrow[x]


@compiled
def _buffer(width: int) -> Array:
    return np.full((width + 3) // 4 * 4, PAD, np.uint16)


@compiled
def count_codes(luma: Array, width: int, counts: Array) -> None:
    """Add every luma code of a plane to counts (4, PLACES)."""
    if luma.itemsize == 2 and width % 4 == 0:
        for row in range(luma.shape[0]):
            _count_row(luma[row, :width], counts)
        return
    line = _buffer(width)
    for row in range(luma.shape[0]):
        given = luma[row]
        for x in range(width):
            line[x] = given[x]
        _count_row(line, counts)


@compiled
def count_brightest(
    luma: Array, cb: Array, cr: Array, size: Array, terms: Array, counts: Array
) -> None:
    """Add the code of every sample's brightest channel, on 12 bits' scale, to counts.

    size: width, chroma width, shifts between luma and chroma across and down, shift from the
    file's depth up to 12 bits. terms: chroma's zero; Cr→R, Cb→G, Cr→G, Cb→B in parts of 1/4096.
    """
    width, across, down, up = size[0], size[2], size[3], size[4]
    zero, red, green_u, green_v, blue = terms[0], terms[1], terms[2], terms[3], terms[4]
    narrow = np.zeros(size[1], np.int16)
    wide = np.zeros(2 * size[1] + 4, np.int16)
    line = _buffer(width)
    last = -1
    for row in range(luma.shape[0]):
        at = row >> down
        if at != last:
            last = at
            line_u, line_v = cb[at], cr[at]
            for x in range(size[1]):
                u, v = np.int32(line_u[x]) - zero, np.int32(line_v[x]) - zero
                most = max(red * v, green_u * u + green_v * v, blue * u)
                narrow[x] = np.int16(most >> TERM_BITS)
            _spread_row(narrow, wide, across)
        given = luma[row]
        for x in range(width):
            code = np.int16(np.int16(given[x] << up) + wide[x])
            line[x] = np.uint16(min(max(code, np.int16(0)), np.int16(BINS - 1)))
        _count_row(line, counts)


@compiled
def count_brightest_hlg(
    luma: Array,
    cb: Array,
    cr: Array,
    size: Array,
    terms: Array,
    scene: Array,
    ootf: Array,
    to_bin: Array,
    counts: Array,
) -> None:
    """Add every sample's brightest display light, in bins of its PQ signal, to counts.

    size, terms: as in count_brightest. scene: scene light (BINS) of a code on 12 bits' scale.
    ootf: factor of the OOTF by luminance, even steps. to_bin: bin of the square root of display
    light ÷ peak. The OOTF works on luminance (ITU-R BT.2100-2 table 5), so codes alone won't do.
    """
    width, across, down, up = size[0], size[2], size[3], size[4]
    narrow = np.zeros((3, size[1]), np.int16)
    wide = np.zeros((3, 2 * size[1] + 4), np.int16)
    line = _buffer(width)
    light, luminance = np.zeros(width, np.float32), np.zeros(width, np.float32)
    ootf_top, bin_top = np.float32(len(ootf) - 1), np.float32(len(to_bin) - 1)
    w_red, w_green, w_blue = np.float32(0.2627), np.float32(0.6780), np.float32(0.0593)
    last = -1
    for row in range(luma.shape[0]):
        at = row >> down
        if at != last:
            last = at
            for x in range(size[1]):
                u, v = np.int32(cb[at, x]) - terms[0], np.int32(cr[at, x]) - terms[0]
                narrow[0, x] = np.int16((terms[1] * v) >> TERM_BITS)
                narrow[1, x] = np.int16((terms[2] * u + terms[3] * v) >> TERM_BITS)
                narrow[2, x] = np.int16((terms[4] * u) >> TERM_BITS)
            for channel in range(3):
                _spread_row(narrow[channel], wide[channel], across)
        for x in range(width):
            base = np.int32(luma[row, x]) << up
            r = scene[np.uint32(min(max(base + wide[0, x], 0), BINS - 1))]
            g = scene[np.uint32(min(max(base + wide[1, x], 0), BINS - 1))]
            b = scene[np.uint32(min(max(base + wide[2, x], 0), BINS - 1))]
            light[x] = max(r, g, b)
            luminance[x] = w_red * r + w_green * g + w_blue * b
        for x in range(width):
            shown = light[x] * ootf[np.uint32(luminance[x] * ootf_top)]
            line[x] = to_bin[np.uint32(np.sqrt(min(shown, np.float32(1))) * bin_top)]
        _count_row(line, counts)


@compiled
def _unpack(block: Array, parts: Array, wide: Array, across: int) -> None:
    """Lay a block's packed intervals out as four rows, one value a luma sample."""
    for part in range(4):
        row, by = parts[part], np.uint32(24 - 8 * part)
        for x in range(len(block)):
            row[x] = np.uint8(block[x] >> by)
        _spread_row(row, wide[part], across)


@compiled
def _add_inside(line: Array, by: np.uint16, wide: Array, counts: Array) -> None:
    """Add 1 to counts (2, samples) where a code lies in the wider or the narrower interval."""
    low, span, low_too, span_too = wide[0], wide[1], wide[2], wide[3]
    first, second = counts[0], counts[1]
    for x in range(len(line)):
        step = np.uint8(line[x] >> by)
        first[x] += np.uint8(np.uint8(step - low[x]) <= span[x])
        second[x] += np.uint8(np.uint8(step - low_too[x]) <= span_too[x])


@compiled
def count_outside(
    luma: Array, cb: Array, cr: Array, size: Array, bits: Array, table: Array, found: Array
) -> None:
    """Add to found (2) how many samples lie outside the wider and the narrower gamut.

    bits: how many of a chroma code choose its place in the table, the shift down to them, and that
    of luma down to LUMA_STEPS. An entry packs two intervals of luma steps that lie outside, eight
    bits each: lowest and length. Eight bits are counted at once as sixteen are by half; at most
    255 rows, so that no counter overflows.
    """
    count, across, down = size[1], size[2], size[3]
    side_bits, by, luma_by = np.uint32(bits[0]), np.uint32(bits[1]), np.uint16(bits[2])
    place = np.zeros(count, np.uint32)
    parts, wide = np.zeros((4, BLOCK), np.uint8), np.zeros((4, 2 * BLOCK), np.uint8)
    entry = np.full((count + BLOCK - 1) // BLOCK * BLOCK, NOTHING_OUTSIDE, np.uint32)
    counts = np.zeros((2, size[0]), np.uint8)
    for at in range(cb.shape[0]):
        line_u, line_v = cb[at], cr[at]
        for x in range(count):
            place[x] = ((np.uint32(line_u[x]) >> by) << side_bits) | (np.uint32(line_v[x]) >> by)
        for x in range(count):
            entry[x] = table[place[x]]
        for start in range(0, count, BLOCK):
            block = entry[start : start + BLOCK]
            some = np.uint32(0)
            for x in range(BLOCK):
                some |= block[x] ^ np.uint32(NOTHING_OUTSIDE)
            if some == 0:
                continue
            _unpack(block, parts, wide, across)
            first, end = start << across, min((start + BLOCK) << across, size[0])
            for row in range(at << down, min((at + 1) << down, luma.shape[0])):
                _add_inside(luma[row, first:end], luma_by, wide, counts[:, first:end])
    for gamut in range(2):
        for x in range(size[0]):
            found[gamut] += counts[gamut, x]


@compiled
def count_colours(luma: Array, cb: Array, cr: Array, size: Array, depth: int, cells: Array) -> None:
    """Add the colours of every fourth chroma row to cells (Y_CELLS, C_CELLS, C_CELLS)."""
    for at in range(0, cb.shape[0], 4):
        line = luma[at << size[3]]
        for x in range(size[1]):
            y = min(np.uint32(line[x << size[2]]) >> np.uint32(depth - 5), np.uint32(31))
            u = min(np.uint32(cb[at, x]) >> np.uint32(depth - 7), np.uint32(127))
            v = min(np.uint32(cr[at, x]) >> np.uint32(depth - 7), np.uint32(127))
            cells[y, u, v] += 1


@compiled
def count_steps(luma: Array, width: int, steps: Array) -> None:
    """Add the steps between even runs along every sixteenth row to steps (STEPS).

    A step is the difference in codes between two neighbouring runs that each hold one code for
    LEAST_PLATEAU samples; larger ones than STEPS - 1 are edges and left out.
    """
    same = np.zeros(width + LEAST_PLATEAU, np.uint8)
    found = np.zeros((width + 7) // 8 * 8, np.uint8)
    eights = found.view(np.uint64)
    for row in range(0, luma.shape[0], 16):
        line = luma[row]
        for x in range(1, width):
            same[x] = np.uint8(line[x] == line[x - 1])
        for x in range(LEAST_PLATEAU, width - LEAST_PLATEAU + 1):
            even = np.uint8(same[x] ^ np.uint8(1))
            for by in range(1, LEAST_PLATEAU):
                even &= same[x - by] & same[x + by]
            found[x] = even
        for eight in range(len(eights)):
            if eights[eight] == 0:
                continue
            for x in range(8 * eight, 8 * eight + 8):
                if found[x]:
                    step = abs(np.int32(line[x]) - np.int32(line[x - 1]))
                    if step < STEPS:
                        steps[step] += 1


class Lookups(NamedTuple):
    """What the loops are told of a file.

    size, terms: as in count_brightest. light: NO_LIGHT, BY_CODE (PQ), or BY_SCENE_LIGHT (HLG),
    which alone looks into scene, ootf and to_bin. gamut, bits: the table of count_outside, of no
    length where nothing can lie outside.
    """

    size: Array
    depth: int
    light: int
    terms: Array
    scene: Array
    ootf: Array
    to_bin: Array
    gamut: Array
    bits: Array


class Counted(NamedTuple):
    """Where the loops count. codes, brightest: (4, PLACES), for one frame; the others as named."""

    codes: Array
    brightest: Array
    cells: Array
    steps: Array
    outside: Array


@compiled
def count_frame(luma: Array, cb: Array, cr: Array, told: Lookups, counted: Counted) -> None:
    """Count all of a frame, a band of rows after the other."""
    size, down = told.size, told.size[3]
    for first in range(0, luma.shape[0], BAND):
        end = min(first + BAND, luma.shape[0])
        y, begins, ends = luma[first:end], first >> down, ((end - 1) >> down) + 1
        u, v = cb[begins:ends], cr[begins:ends]
        count_codes(y, size[0], counted.codes)
        count_steps(y, size[0], counted.steps)
        count_colours(y, u, v, size, told.depth, counted.cells)
        if told.light == BY_CODE:
            count_brightest(y, u, v, size, told.terms, counted.brightest)
        elif told.light == BY_SCENE_LIGHT:
            count_brightest_hlg(
                y,
                u,
                v,
                size,
                told.terms,
                told.scene,
                told.ootf,
                told.to_bin,
                counted.brightest,
            )
        if len(told.gamut):
            count_outside(y, u, v, size, told.bits, told.gamut, counted.outside)
