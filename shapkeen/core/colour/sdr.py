"""SDR curves: BT.709 camera curve, BT.1886 display curve, sRGB.

Sources: ITU-R BT.709-6 item 1.2; ITU-R BT.1886 annex 1; IEC 61966-2-1.
"""

import numpy as np
import numpy.typing as npt

BT1886_EXPONENT = 2.4


def bt709_signal_from_scene(scene: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return the BT.709 signal for scene light 0..1 (the OETF), any shape."""
    light = np.maximum(np.asarray(scene, dtype=np.float64), 0.0)
    return np.asarray(np.where(light < 0.018, 4.5 * light, 1.099 * light**0.45 - 0.099))


def bt1886_light_from_signal(
    signal: npt.ArrayLike, *, white_nits: float = 100.0, black_nits: float = 0.0
) -> npt.NDArray[np.float64]:
    """Return display light in cd/m² for a signal 0..1 on a BT.1886 display, any shape."""
    white = white_nits ** (1 / BT1886_EXPONENT)
    black = black_nits ** (1 / BT1886_EXPONENT)
    gain = (white - black) ** BT1886_EXPONENT
    lift = black / (white - black)
    base = np.maximum(np.asarray(signal, dtype=np.float64) + lift, 0.0)
    return np.asarray(gain * base**BT1886_EXPONENT)


def bt1886_signal_from_light(
    light_nits: npt.ArrayLike, *, white_nits: float = 100.0
) -> npt.NDArray[np.float64]:
    """Return the signal 0..1 for display light on a BT.1886 display with black at 0."""
    share = np.maximum(np.asarray(light_nits, dtype=np.float64) / white_nits, 0.0)
    return np.asarray(share ** (1 / BT1886_EXPONENT))


def srgb_light_from_signal(signal: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return relative light 0..1 for an sRGB signal 0..1, any shape."""
    s = np.maximum(np.asarray(signal, dtype=np.float64), 0.0)
    return np.asarray(np.where(s <= 0.04045, s / 12.92, ((s + 0.055) / 1.055) ** 2.4))


def srgb_signal_from_light(light: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return the sRGB signal 0..1 for relative light 0..1, any shape."""
    v = np.maximum(np.asarray(light, dtype=np.float64), 0.0)
    return np.asarray(np.where(v <= 0.0031308, 12.92 * v, 1.055 * v ** (1 / 2.4) - 0.055))
