"""HDR folded into SDR: whether a picture was, and whether one that was promised is ordinary.

How to fold is a matter of taste. What is told is whether the curve lies among the ordinary ones
(colour/tone_maps.py), whether hues stayed, and what was cut flat.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour import pq
from ..colour.tone_maps import TONE_MAPS, folded_signal
from ..measured import FoldFindings
from . import tolerances
from .model import Measure

WHITES_NITS = (100.0, 203.0, 300.0)
"""Light that ordinary folds make SDR's white: BT.1886's display, BT.2408, bright gradings."""
PEAK_NITS = 1000.0
LEAST_RISE = 0.05
Vector = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class FoldFault:
    """What is wrong with a promised fold. kind: milky, dull, bright, clipped or scattered."""

    kind: str
    text: str
    measure: Measure


MILKY = "Between dark and bright there is less contrast than any usual tone mapping leaves: milky."
LIFTED = "All tones are lifted, as no usual tone mapping lifts them: a milky picture."
TEXTS = {
    "milky": "Dark tones came out lighter than any usual tone mapping makes them: a milky picture.",
    "dull": "Bright tones stay darker than any usual tone mapping leaves them: a dull picture.",
    "bright": "Tones came out brighter than any usual tone mapping makes them.",
}


def looks_folded(fold: FoldFindings, *, stated_hdr: bool) -> bool:
    """Return whether HDR became SDR, of a picture that no act in HDR explains.

    stated_hdr: the export calls itself PQ or HLG; then its tones must be SDR's.
    """
    if fold.untouched < max(tolerances.FOLD_MOVED, 2 * fold.scatter):
        return False  # roughly coded, say: hardly anything moved
    if fold.hue is not None and fold.hue > tolerances.FOLD_HUE_FOUND:
        return False
    if not stated_hdr:
        return fold.scatter <= tolerances.FOLD_SCATTER
    nits, signal = fold.curve[-1]
    above = signal - float(pq.signal_from_light(nits))
    return fold.scatter <= tolerances.FOLD_SCATTER / 2 and above >= tolerances.FOLD_ABOVE


def peak_of(fold: FoldFindings) -> float:
    """Return the light that stands for SDR's white: by the dark tones, else 100 cd/m²."""
    low, _, high = WHITES_NITS
    if fold.white is not None and low * 0.8 <= fold.white <= high * 1.2:
        return round(fold.white, 0)
    return low


def fault_of(fold: FoldFindings) -> FoldFault | None:
    """Return what is wrong with the tones of a promised fold; None where it is an ordinary one."""
    cut = fold.flat_above
    if cut is not None and cut < tolerances.FOLD_CUT_NITS and fold.cut > tolerances.FOLD_CUT_SHARE:
        text = f"Everything above {cut:.0f} cd/m² was cut flat, {fold.cut:.0%} of the places."
        return FoldFault(
            "clipped",
            text,
            Measure("cut flat above", round(cut), "cd/m²", tolerances.FOLD_CUT_NITS),
        )
    nits, signal = (np.array(column) for column in zip(*fold.curve, strict=True))
    curves = _ordinary(nits)
    contrast = signal[-1] / max(signal[0], 1e-3)
    least = float(np.min(curves[:, -1] / np.maximum(curves[:, 0], 1e-3)))
    if contrast < least * tolerances.FOLD_CONTRAST:
        name, limit = "contrast left, of the least usual", tolerances.FOLD_CONTRAST
        figure = Measure(name, round(contrast / least, 2), "share", limit)
        return FoldFault("milky", MILKY, figure)
    lift = _lift(signal, curves, is_dark=bool(nits[0] <= tolerances.FOLD_DARKEST))
    if lift >= tolerances.FOLD_LIFT:
        figure = Measure("tones lifted by", round(lift, 3), "of the signal", tolerances.FOLD_LIFT)
        return FoldFault("milky", LIFTED, figure)
    low, high = _bounds(nits, curves)
    below, above = signal < low, signal > high
    share = float((below | above).mean())
    measure = Measure(
        "tones beyond usual tone mapping", round(share, 2), "share", tolerances.FOLD_OUTSIDE
    )
    if share <= tolerances.FOLD_OUTSIDE and float(np.max(low - signal)) < tolerances.FOLD_SHORT:
        return None
    kind = "dull"
    if above.sum() > below.sum():
        darks = nits < np.median(nits)
        kind = "milky" if (above & darks).sum() * 2 >= above.sum() else "bright"
    return FoldFault(kind, TEXTS[kind], measure)


def _lift(signal: Vector, curves: Vector, *, is_dark: bool) -> float:
    """Return by how much of the signal all tones lie above an ordinary fold of less contrast; 0
    where one that is not lifted comes as near.

    It tells of pictures without black, too. is_dark: there are dark tones; light ones alone bend by
    how a fold treats colours, so a lift must explain all but next to nothing of them.
    """
    best, lift = np.inf, 0.0
    for curve in curves:
        if np.ptp(curve) < LEAST_RISE:
            continue  # clipped all along: of that anything is a multiple
        gain, above = np.polyfit(curve, signal, 1)
        left = _rms(signal - above - gain * curve)
        if left < best:
            best, lift = left, float(above)
    plain = min(_rms(signal - curve) for curve in curves)
    least, share, light_share = tolerances.FOLD_UNLIKE
    share = share if is_dark else light_share
    return lift if plain >= least and best <= share * plain else 0.0


def _rms(values: Vector) -> float:
    return float(np.sqrt(np.mean(np.square(values))))


def _ordinary(nits: Vector) -> Vector:
    """Return the signals (curves, n) that ordinary folds make of light (n)."""
    most = float(nits.max())
    return np.array(
        [
            folded_signal(name, nits, white=white, peak=max(peak, white * 1.05))
            for name in TONE_MAPS
            for white in WHITES_NITS
            for peak in {most, PEAK_NITS}
        ]
    )


def _bounds(nits: Vector, curves: Vector) -> tuple[Vector, Vector]:
    """Return the least and the most signal that is ordinary for light."""
    unbent = np.minimum(nits / WHITES_NITS[0], 1.0) ** (1 / 2.4)
    margin = tolerances.FOLD_MARGIN
    return curves.min(axis=0) - margin, np.maximum(curves.max(axis=0), unbent) + margin


def hue_measure(fold: FoldFindings) -> Measure | None:
    """Return by how much hues turned; None where nothing is coloured."""
    if fold.hue is None:
        return None
    return Measure("hues turned by", round(fold.hue, 1), "degrees in ICtCp", tolerances.FOLD_HUE)
