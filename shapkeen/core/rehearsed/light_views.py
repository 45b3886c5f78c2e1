"""Ways of looking that show light and gamut in place of a screen: steps of cd/m², colours outside.

All in greys, so that no tint of ours lies over a picture; every second step is hatched.
"""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..colour.primaries import xyz_from_rgb

Real = npt.NDArray[np.float32]
STEPS_NITS = (0.1, 1.0, 10.0, 50.0, 100.0, 203.0, 400.0, 600.0, 1000.0, 4000.0)
"""Where a step begins: 203 is HDR's diffuse white (ITU-R BT.2408), the others are round."""
HATCH = 6
"""Samples from line to line of the pattern."""
INSIDE = 0.3
"""How light what lies inside a gamut stays, as a grey."""
BLACK_STEP = 1.5 / 219
"""One and a half codes of 8 bits (219 of them from black to white, ITU-R BT.709)."""
LEAST_NITS, BEYOND = 0.05, 0.002
"""Darker colours have none that anyone sees; and how far below nought a channel lies outside."""


@lru_cache(maxsize=1)
def step_greys() -> Real:
    """Return the grey of each step, the darkest first: one more than steps begin."""
    return np.linspace(0.04, 0.96, len(STEPS_NITS) + 1).astype(np.float32)


def luminance(light: Real, primaries: int) -> Real:
    """Return cd/m² of light in cd/m² of each channel (row, column, channel)."""
    weights = xyz_from_rgb(primaries)[1].astype(np.float32)
    return np.asarray(light @ weights, dtype=np.float32)


def in_steps(light: Real, primaries: int) -> Real:
    """Return light as greys in steps of cd/m², every second one hatched; in three channels."""
    nits = luminance(light, primaries)
    steps = np.searchsorted(np.asarray(STEPS_NITS, dtype=np.float32), nits, side="right")
    greys = step_greys()[steps]
    rows, columns = np.ogrid[: nits.shape[0], : nits.shape[1]]
    lines = ((rows + columns) % HATCH == 0) & (steps % 2 == 1)
    greys = np.where(lines, np.where(greys > 0.5, greys - 0.25, greys + 0.25), greys)
    return np.repeat(greys[..., None], 3, axis=2).astype(np.float32)


def only_where(shown: Real, there: npt.NDArray[np.bool_]) -> Real:
    """Return a picture 0 to 1 where something holds (row, column); all else as a dark grey."""
    grey = shown.mean(axis=2, keepdims=True) * np.float32(INSIDE)
    return np.where(there[..., None], shown, grey).astype(np.float32)


def below_black(signals: Real, primaries: int) -> Real:
    """Return what lies below black as a hatched light grey; all else as a dark grey.

    signals: R'G'B', not clipped. Luma counts, so that a saturated colour is none (ITU-R BT.2100
    and BT.709: black is E' = 0); BLACK_STEP below, for a code of 8 bits beside it is noise.
    """
    luma = luminance(signals, primaries)
    rows, columns = np.ogrid[: luma.shape[0], : luma.shape[1]]
    hatched = np.where((rows + columns) % HATCH < HATCH // 2, 0.9, 0.55).astype(np.float32)
    painted = np.repeat(hatched[..., None], 3, axis=2)
    dark = np.clip(signals, 0, 1).mean(axis=2, keepdims=True) * np.float32(INSIDE)
    return np.where((luma < -BLACK_STEP)[..., None], painted, dark).astype(np.float32)


def only_outside(light: Real, shown: Real, to_goal: npt.NDArray[np.float64]) -> Real:
    """Return what a picture shows of colours outside a gamut; all else as a dark grey.

    light: cd/m². shown: as this screen shows it, 0 to 1. to_goal: from light to the gamut's own.
    """
    found = light @ to_goal.T.astype(np.float32)
    most = np.abs(found).max(axis=2)
    outside = (found.min(axis=2) < -BEYOND * most) & (most > LEAST_NITS)
    return only_where(shown, outside)
