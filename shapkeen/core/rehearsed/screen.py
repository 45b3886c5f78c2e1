"""What one of several screens would show of a picture.

plain: a screen that ignores tags; signals go to it as they are. toned: HDR tone-mapped into this
screen's range by the EETF of ITU-R BT.2390 (from memory), colours brought to BT.709. peak300,
peak600: a screen of that peak, everything above cut, its peak put at this screen's white.
gamma22, gamma196: a player that takes the power 2.2 or 1.96 where BT.1886 has 2.4 (common
practice, no source). steps, outside709, outsidep3, abovepeak, belowblack: light and gamut
(light_views.py).
"""

from collections.abc import Mapping
from functools import lru_cache
from typing import Any, Protocol

import cv2
import numpy as np
import numpy.typing as npt

from ..colour import hlg, pq
from ..colour.codepoints import HLG, PQ
from ..colour.primaries import CHROMATICITIES, between
from ..colour.sdr import BT1886_EXPONENT, srgb_signal_from_light
from ..colour.tone_maps import rolled_off
from ..measured import Reading
from .light_views import below_black, in_steps, only_outside, only_where

Real = npt.NDArray[np.float32]
SOURCE_PEAK_NITS = 1000.0
TABLE = 1 << 16
SCREEN_PEAK_NITS = 203.0
"""HDR reference white (ITU-R BT.2408) is put at this screen's white."""


class Renderer(Protocol):
    """One way of looking: from signals to what this screen is sent, both 0..1."""

    def __call__(self, signals: Real, reading: Reading) -> Real:
        """Return this screen's signals for a picture's R'G'B' (row, column, channel)."""


def render_plain(signals: Real, reading: Reading) -> Real:
    """Return the signals as they are: what a screen shows that ignores tags."""
    return np.clip(signals, 0.0, 1.0)


def tone_mapped(
    light: npt.NDArray[np.float64], *, source_nits: float, goal_nits: float
) -> npt.NDArray[np.float64]:
    """Return light in cd/m² with highlights rolled off to a smaller peak; any shape.

    By the curve of measured/candidates.py, black at 0.
    """
    cut = np.minimum(light, source_nits)
    return pq.light_from_signal(rolled_off(cut, source=source_nits, goal=goal_nits))


def render_tone_mapped(signals: Real, reading: Reading) -> Real:
    """Return an HDR picture tone-mapped into this screen's range; SDR is shown as it is."""
    light = _light(signals, reading)
    if light is None:
        return render_plain(signals, reading)
    # The curve rises: the brightest channel's signal is the brightest one, no light is turned back.
    brightest = _brightest(signals if reading.transfer == PQ else _pq_signal(light))
    return _srgb(light * _looked_up(_tables()[1], brightest)[..., None], SCREEN_PEAK_NITS)


def prepare() -> None:
    """Make what drawing needs, so that the first picture does not wait for it."""
    _tables()


@lru_cache
def _tables() -> tuple[Real, Real, Real]:
    """Return PQ light by signal, the fold's factor by PQ signal, and sRGB by root of light.

    Even steps: a hundredth of what eight bits can show, and many times as fast.
    """
    steps = np.arange(TABLE) / (TABLE - 1)
    light = pq.light_from_signal(steps)
    rolled = tone_mapped(light, source_nits=SOURCE_PEAK_NITS, goal_nits=SCREEN_PEAK_NITS)
    factor = rolled / np.maximum(light, 1e-4)
    factor[light < 1e-4] = 1.0
    tables = (light, factor, srgb_signal_from_light(steps**2))
    return tables[0].astype(np.float32), tables[1].astype(np.float32), tables[2].astype(np.float32)


def _looked_up(table: Real, share: npt.NDArray[Any]) -> Real:
    """Return table values at the steps nearest to shares 0..1."""
    places = np.clip(share, 0.0, 1.0)
    places *= np.float32(TABLE - 1)
    places += np.float32(0.5)
    return np.asarray(table.take(places.astype(np.uint16)), dtype=np.float32)


def _brightest(signals: Real) -> Real:
    red, green, blue = (signals[..., channel] for channel in range(3))
    return np.maximum(np.maximum(red, green), blue)


def _pq_signal(light: Real) -> Real:
    return pq.signal_from_light(light).astype(np.float32)


def _srgb(light: Real, peak_nits: float) -> Real:
    """Return this screen's signals for BT.2020 light, its white at the peak."""
    to_709 = (between(9, 1) / peak_nits).astype(np.float32)
    shown = np.maximum(cv2.transform(light, to_709), np.float32(0))
    return _looked_up(_tables()[2], cv2.sqrt(shown))


def _light(signals: Real, reading: Reading) -> Real | None:
    """Return an HDR picture's display light; None for SDR."""
    if reading.transfer == PQ:
        return _looked_up(_tables()[0], signals)
    if reading.transfer == HLG:
        scene = np.clip(hlg.scene_from_signal(signals), 0.0, 1.0)
        return np.asarray(hlg.display_from_scene(scene), dtype=np.float32)
    return None


def render_at_peak(peak_nits: float) -> Renderer:
    """Return the picture on a screen of this peak that cuts what is brighter."""

    def render(signals: Real, reading: Reading) -> Real:
        light = _light(signals, reading)
        if light is None:
            return render_plain(signals, reading)
        return _srgb(np.minimum(light, np.float32(peak_nits)), peak_nits)

    return render


def render_rolled_off(peak_nits: float) -> Renderer:
    """Return the picture on a screen of this peak that rolls off what is brighter (BT.2390)."""

    def render(signals: Real, reading: Reading) -> Real:
        light = _light(signals, reading)
        if light is None:
            return render_plain(signals, reading)
        most = max(reading.peak_nits or SOURCE_PEAK_NITS, SOURCE_PEAK_NITS)
        if most <= peak_nits:
            return _srgb(np.minimum(light, np.float32(peak_nits)), peak_nits)
        steps = np.linspace(0.0, 1.0, 4096) ** 2 * most
        folded = tone_mapped(steps, source_nits=most, goal_nits=peak_nits)
        brightest = _brightest(light)
        rolled = np.interp(brightest, steps, folded).astype(np.float32)
        factor = rolled / np.maximum(brightest, np.float32(1e-4))
        shown: Real = np.asarray(light * factor[..., None], dtype=np.float32)
        return _srgb(shown, peak_nits)

    return render


def render_with_power(exponent: float) -> Renderer:
    """Return the picture on a player that assumes another power than BT.1886's 2.4."""

    def render(signals: Real, reading: Reading) -> Real:
        # This screen undoes 2.4, so what it is sent must hold the other power's light.
        shown = np.clip(signals, 0.0, 1.0) ** (exponent / BT1886_EXPONENT)
        return np.asarray(shown, dtype=np.float32)

    return render


PEAK_ROOM = 1.02
"""Of light over a peak: codes are steps, and what lies on the peak itself is none."""
SDR_PEAK_NITS = 100.0
"""Of a reference display for SDR (ITU-R BT.2035)."""


def display_light(signals: Real, reading: Reading) -> Real:
    """Return a picture's light in cd/m²: HDR's own, SDR's on a BT.1886 display of 100 cd/m²."""
    light = _light(signals, reading)
    if light is not None:
        return light
    shown = np.clip(signals, 0.0, 1.0) ** BT1886_EXPONENT * SDR_PEAK_NITS
    return np.asarray(shown, dtype=np.float32)


def render_steps(signals: Real, reading: Reading) -> Real:
    """Return the picture's light in steps of cd/m², as greys."""
    return in_steps(display_light(signals, reading), _primaries(reading))


def render_outside(goal: int) -> Renderer:
    """Return only what lies outside a gamut (a code of ITU-T H.273); all else as a dark grey."""

    def render(signals: Real, reading: Reading) -> Real:
        light = display_light(signals, reading)
        shown = render_tone_mapped(signals, reading)
        return only_outside(light, shown, between(_primaries(reading), goal))

    return render


def render_above_peak(signals: Real, reading: Reading) -> Real:
    """Return only what is brighter than the mastering display's peak; all else as a dark grey.

    1000 cd/m² where nobody declares a peak in HDR, 100 in SDR. The brightest channel counts.
    """
    usual = SOURCE_PEAK_NITS if reading.transfer in (PQ, HLG) else SDR_PEAK_NITS
    light = _brightest(display_light(signals, reading))
    shown = render_tone_mapped(signals, reading)
    return only_where(shown, light > (reading.peak_nits or usual) * PEAK_ROOM)


def render_below_black(signals: Real, reading: Reading) -> Real:
    """Return what lies below black, hatched; all else as a dark grey."""
    return below_black(signals, _primaries(reading))


def _primaries(reading: Reading) -> int:
    """Return the primaries that a picture is read by; BT.709's where nothing usable is said."""
    return reading.primaries if reading.primaries in CHROMATICITIES else 1


RENDERERS: Mapping[str, Renderer] = {
    "plain": render_plain,
    "toned": render_tone_mapped,
    "peak600": render_at_peak(600.0),
    "peak300": render_at_peak(300.0),
    "gamma22": render_with_power(2.2),
    "gamma196": render_with_power(1.96),
    "steps": render_steps,
    "outside709": render_outside(1),
    "outsidep3": render_outside(12),
    "abovepeak": render_above_peak,
    "belowblack": render_below_black,
}
