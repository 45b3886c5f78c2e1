"""PQ, the perceptual quantizer. Source: SMPTE ST 2084:2014; also ITU-R BT.2100-2 table 4."""

import numpy as np
import numpy.typing as npt

# Kept as the published ratios, so that a reader can check them against the page.
M1, M2 = 2610 / 16384, 2523 / 4096 * 128
C1, C2, C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
PEAK_NITS = 10_000.0


def light_from_signal(signal: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return display light for a PQ signal (the EOTF).

    signal: any shape; non-linear, 0..1 after range scaling; clipped outside that.
    Returns the same shape; absolute display light in cd/m², 0..10 000.

    >>> round(float(light_from_signal(0.5080784)), 2)
    100.0
    """
    root = np.clip(np.asarray(signal, dtype=np.float64), 0.0, 1.0) ** (1 / M2)
    return np.asarray(PEAK_NITS * (np.maximum(root - C1, 0.0) / (C2 - C3 * root)) ** (1 / M1))


def signal_from_light(light_nits: npt.ArrayLike) -> npt.NDArray[np.float64]:
    """Return the PQ signal for display light (the inverse EOTF).

    light_nits: any shape; cd/m², clipped to 0..10 000. Returns the same shape, 0..1.
    """
    scaled = np.clip(np.asarray(light_nits, dtype=np.float64) / PEAK_NITS, 0.0, 1.0) ** M1
    return np.asarray(((C1 + C2 * scaled) / (1 + C3 * scaled)) ** M2)
