"""Tone and colour correspondence: how expected codes became delivered ones.

Flat blocks of the registered pair, spread evenly over the code range so that a large sky does
not outvote the highlights; then simple acts are tried in turn, each by what it leaves over.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..model import Fit, ToneFindings
from .acts import ACTS, TOP, Vector, powered
from .blocks import LEAST_A_BIN, Blocks, code_bins

LEAST_BLOCKS = 200


@dataclass(frozen=True, slots=True)
class _Curve:
    """Medians of expected and delivered code in each range that has blocks enough."""

    expected: Vector
    delivered: Vector
    noise: float


def _curve(expected: Vector, delivered: Vector) -> _Curve:
    bins = code_bins(expected)
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
        uneven=sum(blocks.uneven for blocks in gathered) / len(expected),
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
