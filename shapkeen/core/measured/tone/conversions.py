"""Acts on colour triples: each predicts delivered codes from expected ones.

Flat blocks of all pairs are gathered into cells of like colour, so that neither a large sky nor
coding noise decides; then every act is tried, and what it leaves over is told. Methods:
docs/checks.md 4.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...colour import pq
from ...colour.coding import PQ, Coding, Triples, codes_from_signal, signal_from_codes
from ..model import Act, ActFit
from .blocks import Blocks
from .candidates import Candidate, candidates, first_acts, powers, second_acts

EXPLAINED_CODES = 4.0
"""What an act with a formula may leave over, before a curve of its own is looked for."""
CURVE_BINS = 24
LEAST_FALL = 0.03
"""In signal: a peak that fell by less is no roll-off worth naming."""
FINER = np.arange(-0.018, 0.019, 0.002)
"""Round the best power of the first, coarser row."""
CELL_CODES = (16.0, 8.0, 4.0)
"""A cell's side; a picture of few tones and colours gets finer ones."""
LUMA_BIN = 32.0
LEAST_A_CELL = 3
LEAST_CELLS = 24


@dataclass(frozen=True, slots=True)
class Cells:
    """Cells of like colour: expected and delivered codes, (k, 3) each, on the 10-bit scale."""

    expected: Triples
    delivered: Triples


def find_acts(gathered: Sequence[Blocks], coding: Coding) -> tuple[ActFit, ...]:
    """Return every act with what it leaves over, best first; none with too few colours.

    coding: how the expected codes are meant. What nobody says is 0, and acts that need it are
    not tried.
    """
    cells = gather_cells(gathered)
    return () if cells is None else try_acts(cells, coding)


def gather_cells(gathered: Sequence[Blocks]) -> Cells | None:
    """Return the cells of all pairs' blocks; None with too few to tell acts apart."""
    if not gathered:
        return None
    sides = []
    for side in (0, 1):
        planes = [
            np.concatenate([getattr(blocks, name)[side] for blocks in gathered])
            for name in ("luma", "cb", "cr")
        ]
        sides.append(np.stack(planes, axis=1))
    expected, delivered = sides
    found: list[npt.NDArray[np.intp]] = []
    for width in CELL_CODES:
        if len(found) < LEAST_CELLS:
            found = _members(expected, width)
    if len(found) < LEAST_CELLS:
        return None
    means = np.array([expected[members].mean(axis=0) for members in found])
    moved = np.array([np.median(delivered[m] - expected[m], axis=0) for m in found])
    return Cells(means, means + moved)


def _members(codes: Triples, side: float) -> list[npt.NDArray[np.intp]]:
    """Return which codes (n, 3) share a cell, for every cell that holds enough."""
    keys = np.floor(codes / side).astype(int)
    _, cell, counts = np.unique(keys, axis=0, return_inverse=True, return_counts=True)
    return [np.flatnonzero(cell.ravel() == i) for i in np.flatnonzero(counts >= LEAST_A_CELL)]


def try_acts(cells: Cells, coding: Coding) -> tuple[ActFit, ...]:
    """Return every act with what it leaves over, best first; of an act only its best variant.

    Where no act with a formula explains, a roll-off along a curve of its own is tried, and then
    two acts after another.
    """
    best: dict[str, ActFit] = {}

    def keep(candidates: Candidate) -> None:
        for act, values, predicted in candidates:
            fit = ActFit(act=act, residual=residual(cells, predicted), values=values)
            before = best.get(act)
            if before is None or fit.residual < before.residual:
                best[act] = fit

    keep(candidates(cells.expected, coding))
    rough = best["gamma-shifted"].values["exponent"]
    keep(powers(cells.expected, coding, rough + FINER))
    if coding.is_known and min(fit.residual for fit in best.values()) > EXPLAINED_CODES:
        keep(_own_curve(cells, coding))
    if coding.is_known and min(fit.residual for fit in best.values()) > EXPLAINED_CODES:
        best |= _pairs(cells, coding)
    return tuple(sorted(best.values(), key=lambda fit: fit.residual))


def _pairs(cells: Cells, coding: Coding) -> dict[str, ActFit]:
    """Return every act on colour followed by an act on tone, of two names the best variant."""
    best: dict[str, ActFit] = {}
    for first, first_values, between in first_acts(cells.expected, coding):
        for second, second_values, predicted in second_acts(between, coding):
            left = residual(cells, predicted)
            name = f"{first}+{second}"
            if name not in best or left < best[name].residual:
                acts = (Act(first, first_values), Act(second, second_values))
                best[name] = ActFit(act=name, residual=left, values={}, parts=acts)
    return best


def residual(cells: Cells, predicted: Triples) -> float:
    """Return what predicted codes (k, 3) leave over of the delivered ones, in codes."""
    return _robust(np.linalg.norm(predicted - cells.delivered, axis=1), cells.expected[:, 0])


def _own_curve(cells: Cells, coding: Coding) -> Candidate:
    """Yield a roll-off of R'G'B' along medians of its own, if the curve has that shape."""
    given = np.clip(signal_from_codes(cells.expected, coding), 0.0, 1.0)
    came = np.clip(signal_from_codes(cells.delivered, coding), 0.0, 1.2)
    edges = np.linspace(float(given.min()), float(given.max()) + 1e-9, CURVE_BINS + 1)
    place = np.digitize(given.ravel(), edges) - 1
    xs, ys = [], []
    for number in range(CURVE_BINS):
        members = place == number
        if members.sum() >= LEAST_A_CELL:
            xs.append(float(np.median(given.ravel()[members])))
            ys.append(float(np.median(came.ravel()[members])))
    curve = np.maximum.accumulate(np.array(ys)) if ys else np.zeros(0)
    if len(xs) < CURVE_BINS // 2 or not _rolls_off(np.array(xs), curve):
        return
    peak = float(np.percentile(came, 99.8))
    if coding.transfer == PQ:
        peak = float(pq.light_from_signal(peak))
    made = np.interp(given, xs, curve)
    yield "tone-compressed", {"peak": round(peak, 3)}, codes_from_signal(made, coding)


def _rolls_off(given: Triples, came: Triples) -> bool:
    """Return whether a curve keeps the dark end and falls ever further behind above it."""
    behind = given - came
    low = len(given) // 4
    dark_kept = float(np.median(np.abs(behind[:low]))) < 0.3 * behind[-1]
    return bool(dark_kept and behind[-1] > LEAST_FALL and np.all(np.diff(behind[low:]) > -0.01))


def _robust(error: Triples, luma: Triples) -> float:
    """Return the root mean square over ranges of luma of the middle error in each.

    So a few highlights count as much as a large sky, and edges of clips and of gamuts little.
    """
    bins = np.floor(luma / LUMA_BIN).astype(int)
    _, counts = np.unique(bins, return_counts=True)
    # All bins in one sorting: this is done for hundreds of candidates.
    ordered = error[np.lexsort((error, bins))]
    starts = np.cumsum(counts) - counts
    middles = (ordered[starts + (counts - 1) // 2] + ordered[starts + counts // 2]) / 2
    return float(np.sqrt(np.mean(np.square(middles))))
