"""Tone and colour correspondence: how expected codes became delivered ones.

Flat blocks of the registered pair, spread evenly over the code range so that a large sky does
not outvote the highlights; then simple acts are tried in turn, each by what it leaves over.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from .acts import ACTS, TOP, Vector, powered
from .grid import Real, Rect, Reduced, sample
from .model import Fit, ToneFindings

BLOCK = 8
BINS = 64
MOST_A_BIN = 60
LEAST_A_BIN = 4
LEAST_BLOCKS = 200
FLAT_CODES = 10.0
"""Standard deviation in a block up to which it counts as flat: coding noise, not structure."""
EVENEST_PERCENT = 40


@dataclass(frozen=True, slots=True)
class Blocks:
    """Block means of one or more pairs: (n,) arrays, expected and delivered, 10-bit codes."""

    luma: tuple[Vector, Vector]
    cb: tuple[Vector, Vector]
    cr: tuple[Vector, Vector]


def _means(plane: Real, block: int) -> Real:
    height, width = (side // block * block for side in plane.shape)
    shape = (height // block, block, width // block, block)
    return np.asarray(plane[:height, :width].reshape(shape).mean(axis=(1, 3)))


def _deviations(plane: Real, block: int) -> Real:
    variance = _means(plane * plane, block) - _means(plane, block) ** 2
    return np.asarray(np.sqrt(np.maximum(variance, 0)))


def _grid_size(master: Reduced, export: Reduced, rect: Rect) -> tuple[int, int]:
    """Return a grid that neither picture must be enlarged for, in whole double blocks."""
    sides = []
    for axis, part in ((1, rect.width), (0, rect.height)):
        side = min(master.luma.shape[axis], export.luma.shape[axis] * part)
        sides.append(max(int(side) // (2 * BLOCK) * (2 * BLOCK), 2 * BLOCK))
    return sides[0], sides[1]


def common_planes(
    master: Reduced, export: Reduced, place: Rect
) -> tuple[dict[str, Real], dict[str, Real]]:
    """Return both pictures' planes over the part that both show, on one grid."""
    left, top = max(place.left, 0.0), max(place.top, 0.0)
    right, bottom = min(place.left + place.width, 1.0), min(place.top + place.height, 1.0)
    in_export = Rect(left, top, right - left, bottom - top)
    in_master = Rect(
        (left - place.left) / place.width,
        (top - place.top) / place.height,
        in_export.width / place.width,
        in_export.height / place.height,
    )
    size = _grid_size(master, export, in_export)
    half = (size[0] // 2, size[1] // 2)
    sizes = {"luma": size, "cb": half, "cr": half}
    return (
        {name: sample(getattr(master, name), in_master, s) for name, s in sizes.items()},
        {name: sample(getattr(export, name), in_export, s) for name, s in sizes.items()},
    )


def gather_blocks(
    expected: dict[str, Real],
    delivered: dict[str, Real],
    *,
    without: npt.NDArray[np.bool_] | None = None,
) -> Blocks:
    """Return one pair's flat blocks, at most MOST_A_BIN for each of BINS ranges of code.

    without: places to leave out, a coarser grid over the picture.
    """
    spread = _deviations(expected["luma"], BLOCK)
    # Grain roughens every block alike; the evenest part then serves, for means average it out.
    limit = max(FLAT_CODES, float(np.percentile(spread, EVENEST_PERCENT)))
    flat = (spread < limit) & (_deviations(delivered["luma"], BLOCK) < 2 * limit)
    # A registration a fraction of a sample off shows at edges only, which a margin leaves out.
    flat = cv2.erode(flat.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool) | (
        flat & (spread < limit / 4)
    )
    if without is not None:
        size = (flat.shape[1], flat.shape[0])
        left_out = cv2.resize(without.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST)
        flat &= left_out == 0
    means = {
        name: (_means(expected[name], block), _means(delivered[name], block))
        for name, block in (("luma", BLOCK), ("cb", BLOCK // 2), ("cr", BLOCK // 2))
    }
    chosen = _stratified(means["luma"][0].astype(np.float64), flat)

    def pick(name: str) -> tuple[Vector, Vector]:
        one, other = means[name]
        rows, columns = spread.shape
        return (
            one[:rows, :columns].ravel()[chosen].astype(np.float64),
            other[:rows, :columns].ravel()[chosen].astype(np.float64),
        )

    return Blocks(luma=pick("luma"), cb=pick("cb"), cr=pick("cr"))


def _stratified(values: Vector, allowed: npt.NDArray[np.bool_]) -> npt.NDArray[np.intp]:
    """Return indices of allowed blocks, evenly picked from each range of code."""
    flat_values, flat_allowed = values.ravel(), allowed.ravel()
    bins = np.clip(flat_values / (TOP + 1) * BINS, 0, BINS - 1).astype(int)
    chosen = []
    for number in range(BINS):
        members = np.flatnonzero(flat_allowed & (bins == number))
        if len(members) > MOST_A_BIN:
            members = members[np.linspace(0, len(members) - 1, MOST_A_BIN).astype(int)]
        chosen.append(members)
    return np.concatenate(chosen)


@dataclass(frozen=True, slots=True)
class _Curve:
    """Medians of expected and delivered code in each range that has blocks enough."""

    expected: Vector
    delivered: Vector
    noise: float


def _curve(expected: Vector, delivered: Vector) -> _Curve:
    bins = np.clip(expected / (TOP + 1) * BINS, 0, BINS - 1).astype(int)
    xs, ys, scatter = [], [], []
    for number in np.unique(bins):
        members = bins == number
        if members.sum() < LEAST_A_BIN:
            continue
        difference = np.median(delivered[members] - expected[members])
        xs.append(float(np.median(expected[members])))
        ys.append(xs[-1] + float(difference))
        scatter.append(np.abs(delivered[members] - expected[members] - difference))
    noise = 1.4826 * float(np.median(np.concatenate(scatter))) if scatter else 0.0
    return _Curve(np.array(xs), np.array(ys), noise)


def _rms(values: Vector) -> float:
    return float(np.sqrt(np.mean(values**2))) if len(values) else 0.0


def _best_exponent(curve: _Curve, *, full_range: bool) -> float:
    """Return the exponent with the smallest residual: a coarse search, then a fine one."""

    def left_over(exponent: float) -> float:
        made = powered(curve.expected, exponent, full_range=full_range)
        return _rms(curve.delivered - made)

    best, step = 1.0, 0.1
    candidates: Sequence[float] = [round(0.3 + 0.1 * i, 3) for i in range(28)]
    for _ in range(4):
        best = min(candidates, key=left_over)
        candidates = [best + step * (i / 10) for i in range(-10, 11)]
        step /= 10
    return best


def fit_tone(gathered: Sequence[Blocks], *, full_range: bool) -> ToneFindings | None:
    """Return how expected became delivered codes; None with too few flat blocks to say.

    full_range: how the expected codes are read, for the power law's black and white.
    """
    expected, delivered = _joined(gathered, "luma")
    if len(expected) < LEAST_BLOCKS:
        return None
    curve = _curve(expected, delivered)
    if len(curve.expected) < 2:
        return None
    fits = [
        Fit(act=name, residual=_rms(curve.delivered - act(curve.expected)))
        for name, act in ACTS.items()
    ]
    exponent = _best_exponent(curve, full_range=full_range)
    made = powered(curve.expected, exponent, full_range=full_range)
    fits.append(Fit(act="gamma-shifted", residual=_rms(curve.delivered - made), exponent=exponent))
    chroma = _fit_chroma(gathered)
    density, _, _ = np.histogram2d(delivered, expected, bins=64, range=[[0, TOP + 1], [0, TOP + 1]])
    return ToneFindings(
        blocks=len(expected),
        fits=tuple(sorted(fits, key=lambda fit: fit.residual)),
        noise=curve.noise,
        span=float(curve.expected.max() - curve.expected.min()),
        curve=tuple(zip(curve.expected.tolist(), curve.delivered.tolist(), strict=True)),
        density=tuple(tuple(int(v) for v in row) for row in density),
        chroma_span=chroma.span,
        chroma_residual=chroma.residual,
        chroma_gain=chroma.gain,
    )


def _joined(gathered: Sequence[Blocks], name: str) -> tuple[Vector, Vector]:
    pairs = [getattr(blocks, name) for blocks in gathered]
    if not pairs:
        return np.zeros(0), np.zeros(0)
    return np.concatenate([p[0] for p in pairs]), np.concatenate([p[1] for p in pairs])


@dataclass(frozen=True, slots=True)
class _Chroma:
    span: float
    residual: float
    gain: float


def _fit_chroma(gathered: Sequence[Blocks]) -> _Chroma:
    """Return how far chroma moved and by which common gain, weighing all saturations alike."""
    spans, residuals, numerator, denominator = [], [], 0.0, 0.0
    for name in ("cb", "cr"):
        expected, delivered = _joined(gathered, name)
        curve = _curve(expected, delivered)
        if not len(curve.expected):
            continue
        spans.append(float(curve.expected.max() - curve.expected.min()))
        residuals.append(curve.delivered - curve.expected)
        away = curve.expected - 512
        numerator += float((away * (curve.delivered - 512)).sum())
        denominator += float((away * away).sum())
    return _Chroma(
        span=max(spans, default=0.0),
        residual=_rms(np.concatenate(residuals)) if residuals else 0.0,
        gain=numerator / denominator if denominator > 1 else 1.0,
    )
