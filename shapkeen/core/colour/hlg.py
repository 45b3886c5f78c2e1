"""HLG, hybrid log-gamma. Source: ITU-R BT.2100-2 table 5."""

import numpy as np
import numpy.typing as npt

A = 0.17883277
B = 1 - 4 * A
C = 0.5 - A * float(np.log(4 * A))
LUMINANCE = (0.2627, 0.6780, 0.0593)
"""Weights of scene-linear R, G, B in the OOTF: BT.2100-2 table 5, note 5b."""


def scene_from_signal(signal: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return scene light for an HLG signal (the inverse OETF).

    signal: any shape, 0..1 and above; negative values are clipped. Returns scene-linear light,
    0..1 for nominal signals.
    """
    s = np.maximum(np.asarray(signal, dtype=np.float64), 0.0)
    return np.asarray(np.where(s <= 0.5, s**2 / 3, (np.exp((s - C) / A) + B) / 12))


def signal_from_scene(scene: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return the HLG signal for scene light (the OETF); scene 0..1, any shape."""
    e = np.maximum(np.asarray(scene, dtype=np.float64), 0.0)
    log = A * np.log(np.maximum(12 * e - B, 1e-12)) + C
    return np.asarray(np.where(e <= 1 / 12, np.sqrt(3 * e), log))


def system_gamma(peak_nits: float) -> float:
    """Return the OOTF's exponent for a display of this peak, meant for 400..2000 cd/m²."""
    return 1.2 + 0.42 * float(np.log10(peak_nits / 1000))


def display_from_scene(
    scene_rgb: npt.ArrayLike, *, peak_nits: float = 1000.0
) -> npt.NDArray[np.float64]:
    """Return display light for scene light (the OOTF), black at 0 cd/m².

    scene_rgb: (…, 3) scene-linear BT.2020 R, G, B, 0..1. Returns the same shape in cd/m².
    """
    scene = np.asarray(scene_rgb, dtype=np.float64)
    luminance = np.maximum(scene @ np.asarray(LUMINANCE), 0.0)
    factor = np.zeros_like(luminance)
    lit = luminance > 0
    factor[lit] = luminance[lit] ** (system_gamma(peak_nits) - 1)
    return np.asarray(peak_nits * factor[..., np.newaxis] * scene)


def scene_from_display(
    light_rgb: npt.ArrayLike, *, peak_nits: float = 1000.0
) -> npt.NDArray[np.float64]:
    """Return scene light (…, 3), 0..1, for display light in cd/m² (the inverse OOTF)."""
    light = np.maximum(np.asarray(light_rgb, dtype=np.float64), 0.0) / peak_nits
    luminance = light @ np.asarray(LUMINANCE)
    factor = np.zeros_like(luminance)
    lit = luminance > 0
    gamma = system_gamma(peak_nits)
    factor[lit] = luminance[lit] ** ((1 - gamma) / gamma)
    return np.asarray(factor[..., np.newaxis] * light)
