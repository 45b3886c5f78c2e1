"""From a tally's whole numbers to the findings that are judged and drawn."""

import numpy as np
import numpy.typing as npt

from ...colour.coding import PQ, Coding, light_from_signal, signal_from_codes
from ...colour.primaries import xyz_from_rgb
from ..model import (
    CHROMATICITY_BINS,
    CHROMATICITY_TOP,
    VECTOR_BINS,
    ColourUse,
    FileSurvey,
    GamutUse,
    LightLevels,
    Reading,
    coding_of,
)
from . import kernels, tables
from .codes import code_use
from .counter import WIDE_PRIMARIES
from .model import Figures, Tally

MOST_SERIES = 600
"""Longer series are thinned to the brightest of each stretch: a drawing has no more columns."""
DARKEST_NITS = 0.05
"""Below, a step of code turns any colour into any other, so a chromaticity means nothing."""
BANDED_CODES = 3
"""On the 10-bit scale: a smooth 10-bit gradient steps by 1, one that passed 8 bits by 4."""
LEAST_STEPS = 200


def survey_from_tally(tally: Tally, reading: Reading, *, tick_s: float, start: int) -> FileSurvey:
    """Return the findings of a tally. tick_s: seconds a tick; start: the tick of time 0."""
    pixels = tally.raster[0] * tally.raster[1]
    return FileSurvey(
        frames=len(tally.frames),
        skipped=tally.skipped,
        raster=tally.raster,
        codes=code_use(tally.codes, tally.depth),
        light=_light(tally, reading, tick_s, start),
        gamut=_gamut(tally.frames, pixels, tick_s, start) if _is_wide(reading) else None,
        colours=_colours(tally, reading),
        banding=_banding(tally),
    )


def _is_wide(reading: Reading) -> bool:
    return reading.primaries in WIDE_PRIMARIES


def _seconds(ticks: int, tick_s: float, start: int) -> float:
    return round((ticks - start) * tick_s, 4)


def _light(tally: Tally, reading: Reading, tick_s: float, start: int) -> LightLevels | None:
    if not tally.brightest.any():
        return None
    frames = tally.frames
    above = None
    if reading.peak_nits:
        light = (
            tables.pq_light(full_range=reading.full_range)
            if reading.transfer == PQ
            else tables.pq_bin_light()
        )
        above = float(tally.brightest[light > reading.peak_nits].sum() / tally.brightest.sum())
    return LightLevels(
        max_cll=float(frames["brightest"].max()),
        max_fall=float(frames["average"].max()),
        p9999=float(frames["p9999"].max()),
        p999=float(frames["p999"].max()),
        series=_thinned(frames, tick_s, start),
        above_peak=above,
    )


def _thinned(frames: Figures, tick_s: float, start: int) -> tuple[tuple[float, float, float], ...]:
    step = -(-len(frames) // MOST_SERIES)
    parts = (frames[i : i + step] for i in range(0, len(frames), step))
    return tuple(
        (
            _seconds(int(part["ticks"][0]), tick_s, start),
            float(part["brightest"].max()),
            float(part["average"].max()),
        )
        for part in parts
    )


def _gamut(frames: Figures, pixels: int, tick_s: float, start: int) -> GamutUse:
    wider, narrower = frames["outside_wider"], frames["outside_narrower"]
    worst = int(np.lexsort((-narrower, -wider))[0])
    total = pixels * len(frames)
    return GamutUse(
        outside_p3=int(wider.sum()) / total,
        outside_bt709=int(narrower.sum()) / total,
        worst_p3=int(wider[worst]) / pixels,
        worst_s=_seconds(int(frames["ticks"][worst]), tick_s, start),
    )


def _colours(tally: Tally, reading: Reading) -> ColourUse | None:
    """Return where the colours lie: on the plane of Cb and Cr, and by chromaticity."""
    coding = coding_of(reading)
    plane = tally.cells.sum(axis=0)
    side = kernels.C_CELLS // VECTOR_BINS
    vector = plane.reshape(VECTOR_BINS, side, VECTOR_BINS, side).sum(axis=(1, 3))
    places = np.argwhere(tally.cells)
    counts = tally.cells[tuple(places.T)]
    density = np.zeros((CHROMATICITY_BINS, CHROMATICITY_BINS), np.int64)
    if coding.is_known and len(places):
        density = _chromaticities(places, counts, coding)
    return ColourUse(vector=_rows(vector), chromaticity=_rows(density))


def _rows(counts: npt.NDArray[np.int64]) -> tuple[tuple[int, ...], ...]:
    return tuple(tuple(int(v) for v in row) for row in counts)


def _chromaticities(
    places: npt.NDArray[np.int64], counts: npt.NDArray[np.int64], coding: Coding
) -> npt.NDArray[np.int64]:
    """Return counts by (y, x) of CIE 1931; each cell spread over its own extent."""
    density = np.zeros((CHROMATICITY_BINS, CHROMATICITY_BINS), np.int64)
    sizes = np.array([1024 / kernels.Y_CELLS, 1024 / kernels.C_CELLS, 1024 / kernels.C_CELLS])
    edges = [[0, CHROMATICITY_TOP]] * 2
    # Four places in each cell instead of its middle alone: the drawing would show the grid.
    for shift in ((0.5, 0.25, 0.25), (0.5, 0.25, 0.75), (0.5, 0.75, 0.25), (0.5, 0.75, 0.75)):
        codes = (places + np.array(shift)) * sizes - 0.5
        signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.0)
        xyz = light_from_signal(signal, coding.transfer) @ xyz_from_rgb(coding.primaries).T
        lit = xyz[:, 1] > DARKEST_NITS
        share = xyz[lit] / xyz[lit].sum(axis=1, keepdims=True)
        part, _, _ = np.histogram2d(
            share[:, 1], share[:, 0], CHROMATICITY_BINS, edges, weights=counts[lit]
        )
        density += part.astype(np.int64)
    return density


def _banding(tally: Tally) -> float | None:
    """Return which share of steps between even runs skip BANDED_CODES or more (10-bit scale).

    None below 10 bits, where each step is as large, and where there are too few steps.
    """
    if tally.depth < 10 or tally.steps.sum() < LEAST_STEPS:
        return None
    codes = np.arange(kernels.STEPS) / (1 << (tally.depth - 10))
    wide = tally.steps[codes >= BANDED_CODES].sum()
    return float(wide / tally.steps.sum())
