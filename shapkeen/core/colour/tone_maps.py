"""Ordinary ways to fold HDR light into a smaller range, for grey: curves from light to light.

Sources: ITU-R BT.2390-8 5.4.1; ITU-R BT.2446-1 method A; Reinhard et al., Photographic Tone
Reproduction (2002), equation 4; the filmic curve of games and the Moebius roll-off are common
practice, no source. All but the first from memory.
"""

from collections.abc import Callable, Mapping

import numpy as np
import numpy.typing as npt

from . import pq

Real = npt.NDArray[np.float64]
ToneMap = Callable[[Real, float], Real]
MOBIUS_KNEE = 0.3


def rolled_off(light: Real, *, source: float, goal: float) -> Real:
    """Return the PQ signal of light rolled off from one peak to another (cd/m²), black at 0.

    Where the other peak is no lower, nothing is rolled off.
    Source: ITU-R BT.2390-8 5.4.1 (EETF), applied to each of R, G, B.
    """
    white = float(pq.signal_from_light(source))
    e1 = pq.signal_from_light(light) / white
    most = float(pq.signal_from_light(goal)) / white
    if most >= 1:
        return np.asarray(e1 * white)
    knee = max(1.5 * most - 0.5, 0.0)
    t = np.clip((e1 - knee) / (1 - knee), 0.0, 1.0)
    spline = (
        (2 * t**3 - 3 * t**2 + 1) * knee
        + (t**3 - 2 * t**2 + t) * (1 - knee)
        + (-2 * t**3 + 3 * t**2) * most
    )
    return np.asarray(np.where(e1 < knee, e1, spline) * white)


def folded_light(light: Real, *, white: float, peak: float) -> Real:
    """Return HDR light (cd/m², any shape) rolled off so that white is the most there is.

    white: the light that becomes SDR's white; peak: the brightest that is told apart, above white.
    Each of R, G and B for itself, as ITU-R BT.2390-8 5.4.1 has it.
    """
    signal = rolled_off(np.minimum(light, peak), source=peak, goal=white)
    return np.asarray(pq.light_from_signal(signal))


def _bt2390(x: Real, most: float) -> Real:
    white = 100.0
    return np.asarray(
        pq.light_from_signal(rolled_off(x * white, source=most * white, goal=white)) / white
    )


def _bt2446(x: Real, most: float) -> Real:
    rho, rho_sdr = (1 + 32 * (nits / 10_000) ** (1 / 2.4) for nits in (most * 100, 100.0))
    y = np.log(1 + (rho - 1) * np.clip(x / most, 0, 1) ** (1 / 2.4)) / np.log(rho)
    bent = -1.1510 * y**2 + 2.7811 * y - 0.6302
    folded = np.where(y <= 0.7399, 1.0770 * y, np.where(y < 0.9909, bent, 0.5 * y + 0.5))
    return np.asarray(((rho_sdr**folded - 1) / (rho_sdr - 1)) ** 2.4)


def _reinhard(x: Real, most: float) -> Real:
    return np.asarray(x * (1 + x / most**2) / (1 + x))


def _filmic(x: Real, most: float) -> Real:
    def curve(v: Real) -> Real:
        return np.asarray((v * (0.15 * v + 0.05) + 0.004) / (v * (0.15 * v + 0.5) + 0.06) - 1 / 15)

    return np.asarray(curve(x) / curve(np.array(most)))


def _mobius(x: Real, most: float) -> Real:
    knee = MOBIUS_KNEE
    a = -(knee**2) * (most - 1) / (knee**2 - 2 * knee + most)
    b = (knee**2 - 2 * knee * most + most) / max(most - 1, 1e-6)
    bent = (b**2 + 2 * b * knee + knee**2) / (b - a) * (x + a) / (x + b)
    return np.asarray(np.where(x <= knee, x, bent))


TONE_MAPS: Mapping[str, ToneMap] = {
    "BT.2390": _bt2390,
    "BT.2446": _bt2446,
    "Reinhard": _reinhard,
    "filmic": _filmic,
    "Moebius": _mobius,
}
"""Name → curve from light ÷ that of SDR's white, and the most of it, to light ÷ white, 0..1."""


def folded_signal(name: str, light: Real, *, white: float, peak: float) -> Real:
    """Return the BT.1886 signal 0..1 of grey light (cd/m²) that a tone map folds.

    white: light that would be SDR's white were nothing rolled off; peak: the most there is, above
    white. Raises KeyError for an unknown name.
    """
    x = np.minimum(light, peak) / white
    return np.asarray(np.clip(TONE_MAPS[name](x, peak / white), 0.0, 1.0) ** (1 / 2.4))
