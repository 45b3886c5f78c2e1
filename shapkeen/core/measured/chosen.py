"""The pairs of frames that are compared in depth, and what one of them tells.

A few dozen, spread over the whole: tone, colours and the picture's place settle long before.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from .decoded.frames import Frame
from .decoded.grid import Real, reduce_frame
from .fine.combing import comb_share
from .fine.crops import Crop, cut_crop
from .fine.levels import DepthSums, depth_sums
from .model import WAVE_COLUMNS, WAVE_LEVELS, FramePair
from .placed.laying import Laying
from .placed.registration import Inside, Place, is_textured, place_one
from .tone.blocks import BLOCK, FlatBlocks, flat_blocks
from .tone.misplaced import CellMeans, cell_means
from .tone.unlike import colour_difference, psnr, ssim


@dataclass(frozen=True, slots=True)
class Looked:
    """What a chosen pair shows on the common grid, once the two are laid over each other.

    wave: counts (2, WAVE_LEVELS, WAVE_COLUMNS) of the expected and the delivered luma.
    """

    blocks: FlatBlocks
    cells: CellMeans
    wave: npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class ChosenPair:
    """One pair compared in depth; None = not looked for, or not to be told.

    place: where its own picture says that the master lies. textured: whether it could say.
    combed: shares of woven blocks, of master and export.
    """

    pair: FramePair
    looked: Looked | None = None
    textured: bool = False
    place: Place | None = None
    crop: Crop | None = None
    depth: DepthSums | None = None
    combed: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Wanted:
    """What to look for in a chosen pair: its place too, and its finest detail too."""

    place: bool
    fine: bool


def look_at(
    pair: FramePair,
    one: Frame,
    other: Frame,
    *,
    full_range: bool,
    laying: Laying | None,
    inside: Inside,
    wanted: Wanted,
) -> ChosenPair:
    """Return what comparing a master's frame with an export's in depth tells.

    full_range: of the master's codes; both are brought to the 10-bit scale by it.
    """
    small = reduce_frame(one, full_range=full_range), reduce_frame(other, full_range=full_range)
    looked = None
    if laying is not None:
        expected, delivered = laying.planes(*small, step=2 * BLOCK)
        seen = colour_difference(expected, delivered, laying.goal)
        pair = replace(
            pair,
            ssim=round(ssim(expected["luma"], delivered["luma"]), 6),
            psnr=round(psnr(expected["luma"], delivered["luma"]), 2),
            delta_e=round(seen[0], 3) if seen else None,
            delta_e_worst=round(seen[1], 3) if seen else None,
        )
        looked = Looked(
            flat_blocks(expected, delivered),
            cell_means(pair.export_frame, expected["luma"], delivered["luma"]),
            np.stack([wave_counts(planes["luma"]) for planes in (expected, delivered)]),
        )
    textured, place, combed = False, None, None
    if wanted.place:
        combed = comb_share(one.luma, one.depth), comb_share(other.luma, other.depth)
        textured = is_textured(small[0].luma) and is_textured(small[1].luma)
        place = place_one(small[0].luma, small[1].luma, inside) if textured else None
    crop = None
    if wanted.fine and laying is not None:
        crop = cut_crop(one, other, laying, full_range=full_range)
    alike = wanted.fine and one.raster == other.raster and one.depth == other.depth == 10
    return ChosenPair(
        pair,
        looked,
        textured=textured,
        place=place,
        crop=crop,
        depth=depth_sums(one.luma, other.luma) if alike else None,
        combed=combed,
    )


def wave_counts(luma: Real) -> npt.NDArray[np.int64]:
    """Return how often each of WAVE_LEVELS levels stands in each of WAVE_COLUMNS columns."""
    columns = luma.shape[1]
    level = np.clip(luma / (1024 / WAVE_LEVELS), 0, WAVE_LEVELS - 1).astype(np.int32)
    column = (np.arange(columns) * WAVE_COLUMNS // columns).astype(np.int32)
    places = WAVE_LEVELS * WAVE_COLUMNS
    found = np.bincount((level * WAVE_COLUMNS + column).ravel(), minlength=places)
    return found.reshape(WAVE_LEVELS, WAVE_COLUMNS).astype(np.int64)
