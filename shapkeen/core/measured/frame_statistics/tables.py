"""Tables that the compiled loops look things up in, made once for each way of coding."""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ...colour import hlg, pq, sdr
from ...colour.coding import HLG, HLG_PEAK_NITS, PQ
from ...colour.matrix import rgb_from_ycbcr
from ...colour.primaries import between
from ...colour.quantisation import chroma_zero_span, luma_offset_span
from ..decoded.compiled import Array, compiled
from .kernels import BINS, LUMA_STEPS, NOTHING_OUTSIDE, NOWHERE, TERM_BITS

Real = npt.NDArray[np.float64]
MOST_SIDE_BITS = 9
"""Chroma codes are looked up in 512 × 512 places: every second code of ten bits."""
TOLERANCE = 0.02
"""A colour lies outside when its least channel is below zero by more than this share of its
largest: two steps of ten-bit chroma in mid-tones make 0.015."""
LEAST_SIGNAL = 0.1
"""Of the largest channel: below, 0.1 cd/m² in PQ, one code of chroma turns grey into any colour."""
GAMUTS = (12, 1)
"""Wider and narrower, H.273: P3-D65 and BT.709."""
SCALE_BITS = 12


def _signal_of_code(*, full_range: bool) -> Real:
    """Return the signal of every code on the scale of 12 bits."""
    black, span = luma_offset_span(depth=SCALE_BITS, full_range=full_range)
    return (np.arange(BINS) - black) / span


@lru_cache
def pq_light(*, full_range: bool) -> Real:
    """Return display light in cd/m² of every code on the scale of 12 bits, PQ."""
    return pq.light_from_signal(_signal_of_code(full_range=full_range))


@lru_cache
def pq_bin_light() -> Real:
    """Return display light in cd/m² of bins of PQ signal: bin ÷ (BINS - 1)."""
    return pq.light_from_signal(np.arange(BINS) / (BINS - 1))


def chroma_terms(matrix: int, *, depth: int, full_range: bool) -> npt.NDArray[np.int32]:
    """Return chroma's zero and the terms Cr→R, Cb→G, Cr→G, Cb→B, on 12 bits' scale of luma.

    In parts of 1/4096 code for each code of chroma.
    """
    zero, chroma = chroma_zero_span(depth=depth, full_range=full_range)
    _, span = luma_offset_span(depth=SCALE_BITS, full_range=full_range)
    inverse = rgb_from_ycbcr(matrix)
    terms = np.array([inverse[0, 2], inverse[1, 1], inverse[1, 2], inverse[2, 1]])
    scaled = np.rint(terms * span / chroma * (1 << TERM_BITS))
    return np.concatenate([[zero], scaled]).astype(np.int32)


@lru_cache
def hlg_tables(
    *, full_range: bool
) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32], npt.NDArray[np.uint16]]:
    """Return scene light by code, the OOTF's factor by luminance, and bins by root of light."""
    scene = hlg.scene_from_signal(np.clip(_signal_of_code(full_range=full_range), 0, 1))
    luminance = np.arange(65536) / 65535
    factor = luminance ** (hlg.system_gamma(HLG_PEAK_NITS) - 1)
    light = (np.arange(65536) / 65535) ** 2 * HLG_PEAK_NITS
    bins = np.rint(pq.signal_from_light(light) * (BINS - 1)).astype(np.uint16)
    return scene.astype(np.float32), factor.astype(np.float32), bins


def _linear(transfer: int, *, full_range: bool) -> Real:
    """Return light by code on 12 bits' scale, in any unit: gamuts are about ratios alone."""
    signal = np.clip(_signal_of_code(full_range=full_range), 0.0, 1.0)
    if transfer == PQ:
        return pq.light_from_signal(signal)
    if transfer == HLG:  # the OOTF scales all channels alike
        return hlg.scene_from_signal(signal)
    return sdr.bt1886_light_from_signal(signal)


def side_bits(depth: int) -> int:
    """Return how many bits of a chroma code choose its place in the table."""
    return min(depth, MOST_SIDE_BITS)


def luma_shift(depth: int) -> int:
    """Return the shift from luma codes down to LUMA_STEPS."""
    return depth - (LUMA_STEPS.bit_length() - 1)


@lru_cache(maxsize=4)
def gamut_table(
    transfer: int, primaries: int, matrix: int, *, depth: int, full_range: bool
) -> npt.NDArray[np.uint32]:
    """Return for every pair of chroma codes which luma codes show a colour outside the gamuts.

    Flat, side² places of (Cb, Cr), each two intervals: see kernels.count_outside. For a few
    pairs the codes outside are no single interval; the one that spans them all is taken.
    """
    light = _linear(transfer, full_range=full_range)
    steps = [between(primaries, gamut) if gamut != primaries else np.eye(3) for gamut in GAMUTS]
    table = np.full(1 << (2 * side_bits(depth)), NOTHING_OUTSIDE, np.uint32)
    terms = chroma_terms(matrix, depth=depth, full_range=full_range)
    black, span = luma_offset_span(depth=SCALE_BITS, full_range=full_range)
    floor = float(light[black + int(LEAST_SIGNAL * span)])
    _fill_table(table, np.stack(steps), light, floor, terms, depth, side_bits(depth))
    return table


@compiled
def _fill_table(
    table: Array, steps: Array, light: Array, floor: float, terms: Array, depth: int, bits: int
) -> None:
    side, coarse, up = 1 << bits, 2.0 ** (depth - bits), SCALE_BITS - depth
    step = (1 << depth) // LUMA_STEPS
    for place in range(len(table)):
        u = ((place >> bits) + 0.5) * coarse - 0.5 - terms[0]
        v = ((place & (side - 1)) + 0.5) * coarse - 0.5 - terms[0]
        packed = np.uint32(0)
        for gamut in range(2):
            lowest, highest = NOWHERE, NOWHERE
            for number in range(LUMA_STEPS):
                base = (number * step) << up
                r = light[min(max(int(base + terms[1] * v / 4096), 0), BINS - 1)]
                g = light[min(max(int(base + (terms[2] * u + terms[3] * v) / 4096), 0), BINS - 1)]
                b = light[min(max(int(base + terms[4] * u / 4096), 0), BINS - 1)]
                if max(r, g, b) < floor:
                    continue
                limit = -TOLERANCE * max(r, g, b)
                for channel in range(3):
                    row = steps[gamut, channel]
                    if row[0] * r + row[1] * g + row[2] * b < limit:
                        lowest = number if lowest == NOWHERE else lowest
                        highest = number
                        break
            span = highest - lowest
            packed = (packed << np.uint32(16)) | np.uint32((lowest << 8) | span)
        table[place] = packed
