"""Holding registered pairs against the expected picture: tone, acts, inserts, and likeness."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from ..colour.coding import Coding
from .conversions import EXPLAINED_CODES, find_acts
from .detail import ssim
from .expected import can_convert, expected_planes
from .grid import Real, Rect, Reduced
from .misplaced import CellMeans, cell_means, covered, find_misplaced
from .model import (
    WAVE_COLUMNS,
    WAVE_LEVELS,
    ActFit,
    Difference,
    FramePair,
    Misplaced,
    Registration,
    ToneFindings,
    WavePair,
)
from .registration import turned
from .tone import Blocks, common_planes, fit_tone, gather_blocks
from .unlike import colour_difference, psnr

ReducedPair = tuple[FramePair, Reduced, Reduced]
"""A pair, and the reduced planes of master and export."""
Planes = dict[str, Real]


@dataclass(frozen=True, slots=True)
class Compared:
    """What comparing the registered pairs with the expected picture gives."""

    pairs: tuple[FramePair, ...]
    tone: ToneFindings | None = None
    difference: Difference | None = None
    acts: tuple[ActFit, ...] = ()
    misplaced: tuple[Misplaced, ...] = ()
    wave: WavePair | None = None


def compare_pairs(
    reduced: Sequence[ReducedPair],
    place: Registration | None,
    raster: tuple[int, int],
    *,
    own: Coding,
    goal: Coding,
) -> Compared:
    """Return what holding every pair against the expected picture gives.

    raster: the export's. own: the master's coding; goal: the promised one. Nothing but the pairs
    comes back where the pictures could not be registered, or no formula makes the expected one.
    """
    if place is None or not can_convert(own, goal):
        return Compared(tuple(pair for pair, _, _ in reduced))
    rect = _rect(place, raster)

    def planes_of(item: ReducedPair) -> tuple[Planes, Planes]:
        return _planes_of(item, place=place, rect=rect, own=own, goal=goal)

    with ThreadPoolExecutor(2) as pool:
        compared = list(
            pool.map(lambda item: _compare_one(item[0], *planes_of(item), goal), reduced)
        )
        blocks = [item[0] for item in compared]
        acts = find_acts(blocks, goal)
        cells = [item[2] for item in compared]
        # A clip, say, moves its highlights alone: what one act explains everywhere is no insert.
        misplaced = () if _explained(acts) else find_misplaced(cells, goal)
        if misplaced:  # apart, so that inserts do not pass for the tone
            mask = covered(misplaced, cells[0].expected.shape)
            blocks = list(
                pool.map(lambda item: gather_blocks(*planes_of(item), without=mask), reduced)
            )
            acts = find_acts(blocks, goal)
    tone = fit_tone(blocks, full_range=goal.full_range)
    pairs = tuple(item[1] for item in compared)
    difference = _difference(pairs)
    worst = next(item for item in reduced if item[0].export_frame == difference.worst_frame)
    return Compared(
        pairs=pairs,
        tone=tone,
        difference=difference,
        acts=acts if tone is not None else (),
        misplaced=misplaced,
        wave=_wave_of(difference.worst_frame, *planes_of(worst)),
    )


def _explained(acts: Sequence[ActFit]) -> bool:
    """Return whether one act explains the whole picture, and none at all does not."""
    untouched = next((fit.residual for fit in acts if fit.act == "identity"), 0.0)
    best = acts[0].residual if acts else 0.0
    return untouched > EXPLAINED_CODES >= best and untouched > 2 * best


def _rect(place: Registration, raster: tuple[int, int]) -> Rect:
    width, height = raster
    return Rect(place.left / width, place.top / height, place.width / width, place.height / height)


def _planes_of(
    item: ReducedPair, *, place: Registration, rect: Rect, own: Coding, goal: Coding
) -> tuple[Planes, Planes]:
    """Return the expected and the delivered planes of one pair, on one grid."""
    _, one, other = item
    planes = (one.luma, one.cb, one.cr)
    upright = Reduced(*(turned(plane, place.turn, mirrored=place.mirrored) for plane in planes))
    expected, delivered = common_planes(upright, other, rect)
    return (expected if own == goal else expected_planes(expected, own, goal)), delivered


def _compare_one(
    pair: FramePair, expected: Planes, delivered: Planes, goal: Coding
) -> tuple[Blocks, FramePair, CellMeans]:
    """Return one pair's flat blocks, the pair with its likeness, and its cells' luma."""
    seen = colour_difference(expected, delivered, goal)
    scored = replace(
        pair,
        ssim=round(ssim(expected["luma"], delivered["luma"]), 6),
        psnr=round(psnr(expected["luma"], delivered["luma"]), 2),
        delta_e=round(seen[0], 3) if seen else None,
        delta_e_worst=round(seen[1], 3) if seen else None,
    )
    cells = cell_means(pair.export_frame, expected["luma"], delivered["luma"])
    return gather_blocks(expected, delivered), scored, cells


def _wave_of(frame: int, expected: Planes, delivered: Planes) -> WavePair:
    return WavePair(
        frame=frame, expected=_wave(expected["luma"]), delivered=_wave(delivered["luma"])
    )


def _wave(luma: Real) -> tuple[tuple[int, ...], ...]:
    """Return how often each level stands in each column of a luma plane."""
    columns = np.broadcast_to(np.arange(luma.shape[1]) / luma.shape[1], luma.shape)
    counts, _, _ = np.histogram2d(
        luma.ravel(), columns.ravel(), (WAVE_LEVELS, WAVE_COLUMNS), [[0, 1024], [0, 1]]
    )
    return tuple(tuple(int(v) for v in row) for row in counts)


def _difference(pairs: Sequence[FramePair]) -> Difference:
    scored = [(pair.ssim, pair.export_frame) for pair in pairs if pair.ssim is not None]
    worst, frame = min(scored)
    ratios = [pair.psnr for pair in pairs if pair.psnr is not None]
    seen = [pair.delta_e for pair in pairs if pair.delta_e is not None]
    regions = [pair.delta_e_worst for pair in pairs if pair.delta_e_worst is not None]
    return Difference(
        psnr_mean=sum(ratios) / len(ratios) if ratios else None,
        delta_e=sum(seen) / len(seen) if seen else None,
        delta_e_worst=max(regions, default=None),
        ssim_mean=sum(value for value, _ in scored) / len(scored),
        ssim_worst=worst,
        worst_frame=frame,
    )
