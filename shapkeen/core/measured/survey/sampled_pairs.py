"""What all sampled pairs say together: tone, acts, inserts, and likeness."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...colour.codepoints import HDR_TRANSFERS
from ...colour.coding import Coding
from ..alignment.expected import folds
from ..model import (
    ActFit,
    ColourPairs,
    Difference,
    FoldFindings,
    FramePair,
    GamutEdge,
    HighlightEdge,
    Misplaced,
    Overlay,
    ToneFindings,
    WavePair,
)
from ..pair_pass.sampled_pair import SampledFrames, SampledPair
from ..tone.colours import colour_pairs
from ..tone.conversions import EXPLAINED_CODES, find_acts, gather_cells
from ..tone.curve import fit_tone
from ..tone.folding import find_fold
from ..tone.limits import find_calm_edge, find_even_edge, find_gamut_edges, find_highlight_edge
from ..tone.misplaced import covered, find_misplaced
from ..tone.overlay import bared_sides, find_overlays, find_shear, painted_bars


@dataclass(frozen=True, slots=True)
class Compared:
    """What the sampled pairs, held against the expected picture, give together.

    painted: bars over the picture; bared: how far from each edge nothing hides it; as shares of the
    export's height and width. sheared: as in PairSurvey.
    """

    pairs: tuple[FramePair, ...]
    tone: ToneFindings | None = None
    difference: Difference | None = None
    acts: tuple[ActFit, ...] = ()
    misplaced: tuple[Misplaced, ...] = ()
    overlays: tuple[Overlay, ...] = ()
    painted: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    bared: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    sheared: float = 0.0
    wave: WavePair | None = None
    colours: ColourPairs | None = None
    fold: FoldFindings | None = None
    highlights: HighlightEdge | None = None
    even_highlights: HighlightEdge | None = None
    calm_highlights: HighlightEdge | None = None
    gamut_edges: tuple[GamutEdge, ...] = ()


def compare_pairs(
    chosen: Sequence[SampledPair],
    own: Coding,
    goal: Coding,
    raster: tuple[int, int],
    parts: tuple[int, int] = (1, 1),
    *,
    is_timed: bool,
) -> Compared:
    """Return what all sampled pairs give together.

    own: the master's coding; goal: the one that the promise wants. raster: the export's;
    parts: how many eyes it shows beside each other, and over each other. is_timed: whether each
    frame is known to be its pair's.

    Nothing but the pairs comes back where they could not be laid over each other.
    """
    pairs = tuple(one.pair for one in chosen)
    sampled = [one.sampled for one in chosen if one.sampled is not None]
    if not sampled:
        return Compared(pairs)
    covers = [one.covers for one in sampled]
    overlays, hidden = find_overlays(covers, raster, parts, is_timed=is_timed)
    blocks = [one.blocks.chosen(hidden) for one in sampled]
    acts = find_acts(blocks, goal)
    cells = [one.cells for one in sampled]
    # A clip, say, moves its highlights alone: what one act explains everywhere is no insert.
    promised = folds(own, goal)
    # How colours are folded is a matter of taste: areas of one colour may well lie elsewhere.
    explained = promised or _explained(acts) or bool(overlays)
    misplaced = () if explained else find_misplaced(cells, goal)
    if misplaced:  # apart, so that inserts do not pass for the tone
        mask = covered(misplaced, cells[0].expected.shape)
        blocks = [one.blocks.chosen(mask) for one in sampled]
        acts = find_acts(blocks, goal)
    tone = fit_tone(blocks, full_range=goal.full_range)
    difference = _difference(pairs)
    edges = [one.edges for one in sampled if one.edges is not None]
    worst = next(one for one in sampled if one.cells.frame == difference.worst_frame)
    return Compared(
        pairs=pairs,
        tone=tone,
        difference=difference,
        acts=acts if tone is not None else (),
        misplaced=misplaced,
        overlays=overlays,
        painted=painted_bars(covers),
        bared=bared_sides(covers),
        sheared=find_shear(covers, raster[0], parts),
        wave=_wave_of(worst),
        colours=colour_pairs(blocks),
        fold=_fold(sampled, own, goal, acts),
        highlights=find_highlight_edge(edges, goal) if edges else None,
        even_highlights=find_even_edge(blocks, goal) if edges else None,
        calm_highlights=find_calm_edge(edges, goal) if edges else None,
        gamut_edges=find_gamut_edges(edges),
    )


def _fold(
    sampled: Sequence[SampledFrames], own: Coding, goal: Coding, acts: Sequence[ActFit]
) -> FoldFindings | None:
    """Return how HDR became SDR: where the promise asks for it, or the picture is another.

    Whether an act in HDR explains it as well is for whoever judges, who knows the tags.
    """
    promised = folds(own, goal)
    if own.transfer not in HDR_TRANSFERS:
        return None
    untouched = next((fit.residual for fit in acts if fit.act == "identity"), 0.0)
    if not promised and (own != goal or untouched <= EXPLAINED_CODES):
        return None
    cells = gather_cells([(one.mastered or one.blocks).chosen() for one in sampled])
    return find_fold(cells, own, promised=promised) if cells is not None else None


def _explained(acts: Sequence[ActFit]) -> bool:
    """Return whether one act explains the whole picture, and none at all does not."""
    untouched = next((fit.residual for fit in acts if fit.act == "identity"), 0.0)
    best = acts[0].residual if acts else 0.0
    return untouched > EXPLAINED_CODES >= best and untouched > 2 * best


def _wave_of(sampled: SampledFrames) -> WavePair:
    expected, delivered = sampled.wave
    return WavePair(frame=sampled.cells.frame, expected=_rows(expected), delivered=_rows(delivered))


def _rows(counts: npt.NDArray[np.int64]) -> tuple[tuple[int, ...], ...]:
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
