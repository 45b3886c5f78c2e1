"""Light and colours of a version: the promised conversion, tabulated, for every sample in float.

The same formulas that predict the expected picture (measured/alignment/expected.py) are put into
curves once; whole frames then go through them in compiled loops.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ....colour import hlg
from ....colour.codepoints import HDR_TRANSFERS
from ....colour.coding import (
    HLG,
    HLG_PEAK_NITS,
    SDR_WHITE_NITS,
    Coding,
    light_from_signal,
    signal_from_light,
)
from ....colour.matrix import rgb_from_ycbcr, ycbcr_from_rgb
from ....colour.primaries import between
from ....colour.tone_maps import TONE_MAPS, folded_light
from ....measured.alignment.expected import FOLDED_PEAK_NITS, SDR_WHITE_IN_HDR_NITS, folds
from ....measured.decoded.compiled import Array, compiled_real
from .sampling import Real

ENTRIES = 1 << 12
PEAK_NITS = 10_000.0
BT2390 = "BT.2390"
Curve = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fold:
    """How HDR light becomes SDR's: a curve of colour.tone_maps for each of R, G and B.

    peak_nits: the brightest light that is told apart; white_nits: of SDR's white, for BT.2390 as
    the most there is, for the others as what it would be were nothing rolled off.
    """

    method: str = BT2390
    peak_nits: float = FOLDED_PEAK_NITS
    white_nits: float = SDR_WHITE_IN_HDR_NITS

    def apply(self, light: Curve) -> Curve:
        """Return SDR light in cd/m², up to 100, of HDR light in cd/m²."""
        if self.method == BT2390:
            low = folded_light(light, white=self.white_nits, peak=self.peak_nits)
            return low * (SDR_WHITE_NITS / self.white_nits)
        x = np.minimum(light, self.peak_nits) / self.white_nits
        made = TONE_MAPS[self.method](x, self.peak_nits / self.white_nits)
        return np.asarray(np.clip(made, 0.0, 1.0) * SDR_WHITE_NITS)


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Conversion:
    """The way from a master's Y'CbCr signals to a version's R'G'B', or to its light.

    Curves are float32 of ENTRIES: over signals 0..1, or over the fourth root of light ÷ 10 000
    cd/m². opened: signal → light. gained: luminance → factor, or empty. folded: light → light, or
    empty. primaries: (3, 3). scened: luminance → factor, or empty. closed: light → signal.
    """

    rgb: Real
    opened: Real
    gained: Real
    folded: Real
    primaries: Real
    scened: Real
    closed: Real

    def light(self, signals: Real) -> Real:
        """Return the version's light (3, row, column) ÷ 10 000 cd/m² of Y', Cb, Cr of that size."""
        out = np.empty_like(signals)
        curves = (self.opened, self.gained, self.folded)
        _to_light(signals, self.rgb, *curves, self.primaries, out)
        return out

    def close(self, light: Real) -> Real:
        """Return R'G'B' 0..1 of light, in its place."""
        _to_signal(light, self.scened, self.closed)
        return light


def conversion_between(own: Coding, goal: Coding, fold: Fold) -> Conversion:
    """Return the way between two known codings; raises KeyError for an unknown matrix."""
    signals = np.linspace(0.0, 1.0, ENTRIES)
    nits = np.linspace(0.0, 1.0, ENTRIES) ** 4 * PEAK_NITS
    scale = 1.0
    if own.transfer not in HDR_TRANSFERS and goal.transfer in HDR_TRANSFERS:
        scale = SDR_WHITE_IN_HDR_NITS / SDR_WHITE_NITS
    opened, gained = _opened(own.transfer, signals, nits)
    folded = fold.apply(nits) / PEAK_NITS if folds(own, goal) else np.empty(0)
    if len(folded) and own.transfer != HLG:  # each channel for itself: one curve does both
        opened, folded = fold.apply(opened * PEAK_NITS) / PEAK_NITS, np.empty(0)
    closed, scened = _closed(goal.transfer, nits)
    made = between(own.primaries, goal.primaries)
    return Conversion(
        rgb=_single(rgb_from_ycbcr(own.matrix)),
        opened=_single(opened * scale),
        gained=_single(gained),
        folded=_single(folded),
        primaries=_single(made),
        scened=_single(scened),
        closed=_single(closed),
    )


def _single(values: Curve) -> Real:
    return np.ascontiguousarray(values, dtype=np.float32)


def _opened(transfer: int, signals: Curve, nits: Curve) -> tuple[Curve, Curve]:
    """Return light ÷ 10 000 cd/m² of signals, and HLG's factor by luminance (its OOTF)."""
    if transfer != HLG:
        return light_from_signal(signals, transfer) / PEAK_NITS, np.empty(0)
    # Scene light 0..1 stands for 0..1000 cd/m²: then its luminance finds the factor.
    scene = hlg.scene_from_signal(signals)
    gamma = hlg.system_gamma(HLG_PEAK_NITS)
    return scene * HLG_PEAK_NITS / PEAK_NITS, _power(nits / HLG_PEAK_NITS, gamma - 1)


def _closed(transfer: int, nits: Curve) -> tuple[Curve, Curve]:
    """Return signals of light, and the factor by luminance that takes HLG's OOTF back."""
    if transfer != HLG:
        return signal_from_light(nits, transfer), np.empty(0)
    gamma = hlg.system_gamma(HLG_PEAK_NITS)
    signal = np.clip(hlg.signal_from_scene(nits / HLG_PEAK_NITS), 0.0, 1.0)
    return signal, _power(nits / HLG_PEAK_NITS, (1 - gamma) / gamma)


def _power(base: Curve, exponent: float) -> Curve:
    """Return a power; 0 at 0, where a falling one has no value."""
    out = np.zeros_like(base)
    lit = base > 0
    out[lit] = base[lit] ** exponent
    return out


@compiled_real
def _look_up(curve: Array, line: Array) -> None:
    """Exchange places 0..1 for a curve's values there; outside it for that of its end."""
    last, top = np.float32(curve.shape[0] - 1), curve.shape[0] - 2
    for x in range(line.shape[0]):
        at = min(max(line[x], np.float32(0)), np.float32(1)) * last
        low = min(np.int32(at), top)
        line[x] = curve[low] + (at - np.float32(low)) * (curve[low + 1] - curve[low])


@compiled_real
def _look_up_light(curve: Array, line: Array) -> None:
    """Exchange light for the value of a curve over its fourth root."""
    for x in range(line.shape[0]):
        line[x] = np.sqrt(np.sqrt(max(line[x], np.float32(0))))
    _look_up(curve, line)


@compiled_real
def _brighten(curve: Array, rgb: Array, factors: Array) -> None:
    """Multiply light by a curve's value at its luminance: BT.2100-2 table 5, note 5b."""
    red, green, blue = rgb[0], rgb[1], rgb[2]
    for x in range(factors.shape[0]):
        factors[x] = (
            np.float32(0.2627) * red[x]
            + np.float32(0.6780) * green[x]
            + np.float32(0.0593) * blue[x]
        )
    _look_up_light(curve, factors)
    for x in range(factors.shape[0]):
        red[x] *= factors[x]
        green[x] *= factors[x]
        blue[x] *= factors[x]


@compiled_real
def _mix(planes: Array, by: Array, out: Array) -> None:
    """Write a matrix times three lines."""
    one, two, three = planes[0], planes[1], planes[2]
    for i in range(3):
        made = out[i]
        for x in range(made.shape[0]):
            made[x] = by[i, 0] * one[x] + by[i, 1] * two[x] + by[i, 2] * three[x]


@compiled_real
def _to_light(
    signals: Array, rgb: Array, opened: Array, gained: Array, folded: Array, by: Array, out: Array
) -> None:
    width = out.shape[2]
    lines, factors = np.zeros((3, width), np.float32), np.zeros(width, np.float32)
    for row in range(out.shape[1]):
        _mix(signals[:, row], rgb, lines)
        for i in range(3):
            _look_up(opened, lines[i])
        if gained.shape[0]:
            _brighten(gained, lines, factors)
        if folded.shape[0]:
            for i in range(3):
                _look_up_light(folded, lines[i])
        _mix(lines, by, out[:, row])
        for i in range(3):
            made = out[i, row]
            for x in range(width):
                made[x] = max(made[x], np.float32(0))


@compiled_real
def _to_signal(light: Array, scened: Array, closed: Array) -> None:
    factors = np.zeros(light.shape[2], np.float32)
    for row in range(light.shape[1]):
        if scened.shape[0]:
            _brighten(scened, light[:, row], factors)
        for i in range(3):
            _look_up_light(closed, light[i, row])


def ycbcr(signal: Real, matrix: int) -> tuple[Real, Real, Real]:
    """Return Y', Cb, Cr (row, column) of R'G'B' (3, row, column)."""
    made = np.empty_like(signal)
    _mixed(signal, _single(ycbcr_from_rgb(matrix)), made)
    return made[0], made[1], made[2]


@compiled_real
def _mixed(signal: Array, by: Array, out: Array) -> None:
    for row in range(signal.shape[1]):
        _mix(signal[:, row], by, out[:, row])
