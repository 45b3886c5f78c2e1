"""The pairs of frames that are compared closely, and what one of them tells.

A few dozen, spread over the whole: tone, colours and the picture's place settle long before.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..alignment.picture_map import PictureMap
from ..alignment.place.registration import Inside, Place, is_textured, place_one
from ..decoded.frames import Frame
from ..decoded.grid import Real, reduce_frame
from ..decoded.metrics import colour_difference, psnr, ssim
from ..detail.combing import comb_share
from ..detail.crops import Crop, cut_crop
from ..detail.levels import DepthSums, depth_sums
from ..model import WAVE_COLUMNS, WAVE_LEVELS, FramePair
from ..tone.blocks import BLOCK, FlatBlocks, flat_blocks
from ..tone.cover_cells import CoverCells, cover_cells
from ..tone.limits import EdgeCounts, edge_counts
from ..tone.misplaced import CellMeans, cell_means


@dataclass(frozen=True, slots=True)
class SampledFrames:
    """What a sampled pair shows on the common grid, once the two are laid over each other.

    mastered: the same in the master's own coding, where the promise folds HDR into SDR; else None.
    wave: counts (2, WAVE_LEVELS, WAVE_COLUMNS) of the expected and the delivered luma.
    """

    blocks: FlatBlocks
    mastered: FlatBlocks | None
    cells: CellMeans
    wave: npt.NDArray[np.int64]
    edges: EdgeCounts | None
    covers: CoverCells


@dataclass(frozen=True, slots=True)
class SampledPair:
    """One pair compared closely; None = not looked for, or not to be told.

    place: where its own picture says that the master lies. textured: whether it could say.
    combed: shares of woven blocks, of master and export.
    """

    pair: FramePair
    sampled: SampledFrames | None = None
    textured: bool = False
    place: Place | None = None
    crop: Crop | None = None
    depth: DepthSums | None = None
    combed: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Wanted:
    """What to look for in a sampled pair: its place too, and its finest detail too."""

    place: bool
    fine: bool


def compare_frames(
    pair: FramePair,
    master: Frame,
    export: Frame,
    *,
    full_range: bool,
    picture_map: PictureMap | None,
    inside: Inside,
    wanted: Wanted,
) -> SampledPair:
    """Return what comparing a master's frame with an export's closely tells.

    full_range: of the master's codes; both are brought to the 10-bit scale by it.
    """
    small = reduce_frame(master, full_range=full_range), reduce_frame(export, full_range=full_range)
    sampled = None
    if picture_map is not None:
        expected, delivered = picture_map.planes(*small, step=2 * BLOCK)
        seen = colour_difference(expected, delivered, picture_map.goal)
        pair = replace(
            pair,
            ssim=round(ssim(expected["luma"], delivered["luma"]), 6),
            psnr=round(psnr(expected["luma"], delivered["luma"]), 2),
            delta_e=round(seen[0], 3) if seen else None,
            delta_e_worst=round(seen[1], 3) if seen else None,
        )
        sampled = SampledFrames(
            flat_blocks(expected, delivered),
            flat_blocks(*picture_map.mastered_planes(*small, step=2 * BLOCK))
            if picture_map.folds
            else None,
            cell_means(pair.export_frame, expected["luma"], delivered["luma"]),
            np.stack([wave_counts(planes["luma"]) for planes in (expected, delivered)]),
            edge_counts(expected, delivered, picture_map.goal)
            if picture_map.goal.is_known
            else None,
            cover_cells(pair.export_frame, expected, delivered["luma"], picture_map.shared),
        )
    textured, place, combed = False, None, None
    if wanted.place:
        combed = comb_share(master.luma, master.depth), comb_share(export.luma, export.depth)
        textured = is_textured(small[0].luma) and is_textured(small[1].luma)
        place = place_one(small[0].luma, small[1].luma, inside) if textured else None
    crop = None
    if wanted.fine and picture_map is not None:
        crop = cut_crop(master, export, picture_map, full_range=full_range)
    alike = wanted.fine and master.raster == export.raster and master.depth == export.depth == 10
    return SampledPair(
        pair,
        sampled,
        textured=textured,
        place=place,
        crop=crop,
        depth=depth_sums(master.luma, export.luma) if alike else None,
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
