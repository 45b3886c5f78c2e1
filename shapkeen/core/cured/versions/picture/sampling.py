"""Where samples lie, and the weights that make samples of one grid from those of another.

The kernel is Lanczos's with three lobes, widened where a picture becomes smaller, so that fine
structure is averaged and does not alias. Source: C. E. Duchon, Lanczos Filtering in One and Two
Dimensions (1979); widened for reduction: common practice, no source.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

LOBES = 3
NO_WEIGHT = 1e-9
"""What rounding leaves where the kernel is 0."""
Real = npt.NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Grid:
    """Samples along one side of a picture: how many, and where their centres lie.

    first: the first one's centre in luma samples from the picture's edge (0.5 for luma itself);
    step: from one to the next, in luma samples.
    """

    count: int
    first: float = 0.5
    step: float = 1.0


@dataclass(frozen=True, slots=True, eq=False)
class Weights:
    """Of each new sample: where its window starts in the source, and the weight of each sample.

    starts: (n,), of factors' (n, taps). Windows that hang over an edge are cut and weigh 1 in all.
    """

    starts: npt.NDArray[np.int32]
    factors: Real

    @property
    def is_plain(self) -> bool:
        """Return whether every new sample is a source sample as it is."""
        return bool(self.factors.shape[1] == 1)


def lanczos(x: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Return the kernel at distances x in samples: sinc(x) · sinc(x ÷ 3), 0 from 3 on."""
    return np.where(np.abs(x) < LOBES, np.sinc(x) * np.sinc(x / LOBES), 0.0)


def weights_between(source: Grid, goal: Grid, *, start: float, scale: float) -> Weights:
    """Return the weights that make a goal's samples from a source's.

    start: where the goal's edge lies in the source, in the source's luma samples. scale: source's
    luma samples ÷ goal's, above 0. Samples outside the source are never asked for.
    """
    places = start + (goal.first + goal.step * np.arange(goal.count)) * scale
    centres = (places - source.first) / source.step
    wide = max(scale * goal.step / source.step, 1.0)
    reach = LOBES * wide
    lows = np.clip(np.ceil(centres - reach), 0, source.count - 1).astype(np.int64)
    highs = np.clip(np.floor(centres + reach), 0, source.count - 1).astype(np.int64)
    taps = min(int((highs - lows).max()) + 1, source.count)
    lows = np.minimum(lows, source.count - taps)
    indices = lows[:, None] + np.arange(taps)
    held = np.clip(centres, -0.5, source.count - 0.5)[:, None]
    factors = lanczos((indices - held) / wide)
    factors[np.abs(factors) < NO_WEIGHT] = 0.0
    factors /= factors.sum(axis=1, keepdims=True)
    if bool((factors == 1.0).any(axis=1).all()):
        lows, factors = lows + factors.argmax(axis=1), np.ones((goal.count, 1))
    return Weights(lows.astype(np.int32), factors.astype(np.float32))
