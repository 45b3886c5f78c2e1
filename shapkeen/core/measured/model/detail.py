"""What became of fine structure."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

HALF = 0.5


@dataclass(frozen=True, slots=True)
class DetailCurve:
    """How much structure came through, by frequency along one axis.

    frequency: of Nyquist. transfer: the part of the expected picture's structure found again,
    None where it has none. coherence: how much of what is there follows it, 0 to 1.
    """

    frequency: tuple[float, ...]
    transfer: tuple[float | None, ...]
    coherence: tuple[float | None, ...]

    @property
    def effective(self) -> float | None:
        """Return the frequency, of Nyquist, up to which half of the structure came through.

        None where that cannot be told, for want of structure.
        """
        told = [(f, t) for f, t in zip(self.frequency, self.transfer, strict=True) if t is not None]
        for (before, above), (after, below) in pairwise(told):
            if above >= HALF > below:
                return before + (above - HALF) / (above - below) * (after - before)
        if not told or told[0][1] < HALF:
            return None
        return 1.0 if told[-1][0] > 0.9 else None


@dataclass(frozen=True, slots=True)
class DetailFit:
    """One act tried on the expected picture, and what it leaves unexplained.

    residual: root mean square of fine structure, in codes. values: sigma (samples), amount,
    across and down (share of the raster), ratio, kernel.
    """

    act: str
    residual: float
    values: Mapping[str, float | str]


@dataclass(frozen=True, slots=True, kw_only=True)
class DetailFindings:
    """What became of fine structure, over parts of a few pairs at full size.

    transfer: between ½ and ¾ of Nyquist, both axes together. fits: best first; just "identity"
    where nothing seems to have happened. structure: of the expected picture, in codes. scale:
    export samples for one of the master, across and down.
    """

    transfer: float
    across: DetailCurve
    down: DetailCurve
    fits: tuple[DetailFit, ...]
    structure: float
    scale: tuple[float, float]

    def residual(self, act: str) -> float | None:
        """Return what an act leaves unexplained; None for one that was not tried."""
        return next((fit.residual for fit in self.fits if fit.act == act), None)
