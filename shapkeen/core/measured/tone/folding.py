"""How HDR light was folded into an SDR signal: along which curve, and whether hues stayed.

Nobody can tell beforehand what a fold should look like, for it is a matter of taste. What can be
told is that light still decides: where one curve takes every light to its signal and hues stay,
the picture was folded and not drawn anew (docs/checks.md 4).
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ...colour import pq
from ...colour.coding import (
    SDR_WHITE_NITS,
    Coding,
    Triples,
    light_from_signal,
    signal_from_codes,
)
from ...colour.difference import ictcp_from_light
from ...colour.primaries import between, xyz_from_rgb
from ..model import FoldFindings
from .conversions import Cells, residual

READINGS = ((1, 1), (9, 9), (12, 1), (12, 9))
"""Primaries and matrix by which an SDR picture that came of HDR may be meant."""
BINS, LEAST_A_BIN, LEAST_BINS = (48, 96, 144), 3, 6
"""Bins of all the signal: the finer ones where a picture's even places are all of a few tones."""
LEAST_NITS = 0.05
"""Darker places are coding noise."""
LEAST_CHROMA = 0.02
"""In ICtCp: less colour has no hue that could be told."""
LEAST_COLOURED = 12
WEAK_CHROMA, WEAK_TURN, STEADY = 0.006, 45.0, 0.9
"""In ICtCp, degrees, and the length of the mean of all turns (1: all alike): of all but grey places
a turn is told where it is one that coding's rounding cannot make, the same everywhere."""
FLAT_SIGNAL, FLAT_WIDTH = 0.9, 0.008
"""In signal: what ends at one level so bright was cut there. Two codes of 8 bits wide: BT.2390 to
100 cd/m² still rises by 0.012 from 340 to 530 cd/m²."""
LINEAR_SPREAD = 0.06
"""Relative: by so little light ÷ signal may differ over the darks to be called one factor."""
DARKS = 0.5
Vector = npt.NDArray[np.float64]
Regressor = Callable[[Triples], Vector]


@dataclass(frozen=True, slots=True)
class _Read:
    """Cells as light: of the master, and of the delivered picture read as SDR, in own primaries."""

    primaries: int
    matrix: int
    given: Triples
    came: Triples


@dataclass(frozen=True, slots=True)
class _Curve:
    """given: light, cd/m²; came: SDR signal, the middle of each bin. scatter: in signal."""

    given: Vector
    came: Vector
    scatter: float


def find_fold(cells: Cells, own: Coding, *, promised: bool) -> FoldFindings | None:
    """Return how the light of cells was folded, read the way that fits best.

    cells: expected codes as the master codes them, delivered ones as they are. own: the master's
    coding. promised: whether SDR was. None where no curve can be drawn: too few tones.
    """
    if not own.is_known:
        return None
    best: tuple[float, _Read, _Curve] | None = None
    for primaries, matrix in READINGS:
        read = _read(cells, own, primaries, matrix)
        for regressor in _regressors(own.primaries):
            curve = _curve_of(read, regressor)
            if curve is None:
                continue
            hue, _ = _hues(read, own.primaries)
            worth = curve.scatter + (hue or 0.0) / 720
            if best is None or worth < best[0]:
                best = worth, read, curve
    if best is None:
        return None
    _, read, curve = best
    hue, saturation = _hues(read, own.primaries)
    flat_above, cut = _flat(read, curve, own.primaries)
    return FoldFindings(
        transfer=own.transfer,
        primaries=read.primaries,
        matrix=read.matrix,
        curve=tuple(zip(curve.given.tolist(), curve.came.tolist(), strict=True)),
        scatter=float(curve.scatter * 876),
        hue=hue,
        saturation=saturation,
        flat_above=flat_above,
        cut=cut,
        white=_white(curve),
        untouched=residual(cells, cells.expected),
        promised=promised,
    )


def _read(cells: Cells, own: Coding, primaries: int, matrix: int) -> _Read:
    signal = np.clip(signal_from_codes(cells.expected, own), 0.0, 1.0)
    given = light_from_signal(signal, own.transfer)
    sdr = Coding(transfer=1, primaries=primaries, matrix=matrix, full_range=False)
    shown = np.clip(signal_from_codes(cells.delivered, sdr), 0.0, 1.0)
    came = light_from_signal(shown, sdr.transfer) @ between(primaries, own.primaries).T
    return _Read(primaries, matrix, given, np.maximum(came, 0.0))


def _regressors(primaries: int) -> tuple[Regressor, ...]:
    weights = xyz_from_rgb(primaries)[1]
    return (
        lambda light: np.asarray(light @ weights),
        lambda light: np.asarray(light.max(axis=-1)),
        lambda light: np.asarray(light.ravel()),
    )


def _signal(light: Vector) -> Vector:
    return np.asarray(np.clip(light / SDR_WHITE_NITS, 0, 1) ** (1 / 2.4))


def _curve_of(read: _Read, regressor: Regressor) -> _Curve | None:
    given, came = regressor(read.given), _signal(regressor(read.came))
    lit = given > LEAST_NITS
    curves = (_binned(given[lit], came[lit], bins) for bins in BINS)
    return next((curve for curve in curves if curve is not None), None)


def _binned(given: Vector, came: Vector, bins: int) -> _Curve | None:
    """Return the curve through the middles of so many bins; None where too few are filled."""
    place = np.floor(pq.signal_from_light(given) * bins).astype(int)
    xs, ys, errors = [], [], []
    for number in np.unique(place):
        members = place == number
        if members.sum() < LEAST_A_BIN:
            continue
        # Within a bin the curve rises: what is left of a line through it is the scatter.
        here, there = pq.signal_from_light(given[members]), came[members]
        middle = float(np.median(here))
        slope = _slope(here, there)
        level = float(np.median(there - slope * (here - middle)))
        xs.append(float(pq.light_from_signal(middle)))
        ys.append(level)
        errors.append(float(np.median(np.abs(there - level - slope * (here - middle)))))
    if len(xs) < LEAST_BINS:
        return None
    ups = np.maximum.accumulate(np.array(ys))
    falls = float(np.max(ups - np.array(ys)))
    return _Curve(np.array(xs), ups, float(np.sqrt(np.mean(np.square(errors)))) + falls)


def _slope(here: Vector, there: Vector) -> float:
    spread = float(np.var(here))
    return float(np.cov(here, there, bias=True)[0, 1] / spread) if spread > 1e-9 else 0.0


def _hues(read: _Read, primaries: int) -> tuple[float | None, float | None]:
    """Return by how many degrees hues turned in the middle, and chroma that is left, relative."""
    step = between(primaries, 9).T
    one, other = (
        ictcp_from_light(np.maximum(light @ step, 0)) for light in (read.given, read.came)
    )
    chromas = [np.hypot(colour[:, 1] / 2, colour[:, 2]) for colour in (one, other)]
    angles = [np.arctan2(colour[:, 2], colour[:, 1] / 2) for colour in (one, other)]
    turns = (angles[1] - angles[0] + np.pi) % (2 * np.pi) - np.pi
    coloured = (chromas[0] > LEAST_CHROMA) & (chromas[1] > LEAST_CHROMA / 2)
    if coloured.sum() < LEAST_COLOURED:
        return _weak_turn(turns[np.minimum(*chromas) > WEAK_CHROMA]), None
    kept = chromas[1][coloured] / chromas[0][coloured]
    return float(np.degrees(np.median(np.abs(turns[coloured])))), float(np.median(kept))


def _weak_turn(turns: Vector) -> float | None:
    """Return the degrees by which all but grey places turned alike; None where nobody can tell."""
    if len(turns) < LEAST_COLOURED:
        return None
    mean = np.exp(1j * turns).mean()
    turn = float(np.degrees(np.abs(np.angle(mean))))
    return turn if np.abs(mean) >= STEADY and turn >= WEAK_TURN else None


def _flat(read: _Read, curve: _Curve, primaries: int) -> tuple[float | None, float]:
    """Return the light above which all became one level, and how many cells lie above it."""
    top = curve.came[-1]
    level = np.flatnonzero(curve.came >= top - FLAT_WIDTH)
    if top < FLAT_SIGNAL or len(level) < 3:
        return None, 0.0
    # Up to there the signal rises as light does in SDR: from the bin before, to where it meets it.
    before = max(int(level[0]) - 1, 0)
    above = float(curve.given[before] * (top / curve.came[before]) ** 2.4)
    bright = read.given @ xyz_from_rgb(primaries)[1]
    return above, float((bright > above).mean())


def _white(curve: _Curve) -> float | None:
    """Return the light that would be SDR's white, were nothing rolled off; None where no factor."""
    darks = (curve.came > 0.1) & (curve.came < DARKS)
    if darks.sum() < 3:
        return None
    factors = curve.given[darks] / curve.came[darks] ** 2.4
    middle = float(np.median(factors))
    return middle if float(np.median(np.abs(factors / middle - 1))) < LINEAR_SPREAD else None
