"""What became of fine structure."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

HALF = 0.5
HEALTHY_TRANSFER = 0.72
"""Of fine structure, between ½ and ¾ of Nyquist. Healthy exports of photographs at CRF 14 to 24
show 0.43 (fur, CRF 24) to 0.93; below this something may have happened."""
RESIZED = 0.01
"""Scales closer to 1 than this are the same size."""
WEAKENED = (0.3, 0.8)


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
        told = self._told()
        if not told or told[0][1] < HALF:
            return None
        crossed = self.crossing(HALF)
        return crossed if crossed is not None else (1.0 if told[-1][0] > 0.9 else None)

    def crossing(self, level: float) -> float | None:
        """Return the frequency, of Nyquist, where the transfer first falls below a level."""
        for (before, above), (after, below) in pairwise(self._told()):
            if above >= level > below:
                return before + (above - level) / (above - below) * (after - before)
        return None

    def _told(self) -> list[tuple[float, float]]:
        pairs = zip(self.frequency, self.transfer, strict=True)
        return [(f, t) for f, t in pairs if t is not None]


@dataclass(frozen=True, slots=True)
class DetailFit:
    """One act tried on the expected picture, and what it leaves unexplained.

    residual: root mean square of fine structure, in codes. values: sigma (samples), amount,
    across and down (share of the raster), ratio. kernel: of an enlargement.
    """

    act: str
    residual: float
    values: Mapping[str, float]
    kernel: str = ""


@dataclass(frozen=True, slots=True)
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

    @property
    def follows(self) -> float | None:
        """Return whether weaker structure still follows the expected one: 1 wholly, 0 not at all.

        A blur weakens all structure alike: what is left follows, and coherence stays near 1.
        Coding keeps some and drops the rest: then coherence is what came through. None where no
        frequency is weakened by a middling part.
        """
        found = [
            (c - t) / (1 - t)
            for curve in (self.across, self.down)
            for t, c in zip(curve.transfer, curve.coherence, strict=True)
            if t is not None and c is not None and WEAKENED[0] < t < WEAKENED[1]
        ]
        return sum(found) / len(found) if found else None

    @property
    def steepness(self) -> float | None:
        """Return where a fifth came through ÷ where three quarters did, the mean of both axes.

        A blur falls gently (2.2 and more); a smaller raster ends at a cliff (less than 2.15, but
        for linear kernels, whose fall is a blur's).
        """
        found = []
        for curve in (self.across, self.down):
            low, high = curve.crossing(0.2), curve.crossing(0.75)
            if low is not None and high is not None:
                found.append(low / high)
        return sum(found) / len(found) if found else None

    @property
    def is_resized(self) -> bool:
        """Return whether the export has another number of samples for the same picture."""
        return any(abs(side - 1) > RESIZED for side in self.scale)

    @property
    def is_enlarged(self) -> bool:
        """Return whether it has more, by the same ratio across and down."""
        across, down = self.scale
        return min(across, down) > 1 + RESIZED and abs(across / down - 1) < RESIZED

    def fit(self, act: str) -> DetailFit | None:
        """Return the fit of an act; None for one that was not tried."""
        return next((fit for fit in self.fits if fit.act == act), None)

    def residual(self, act: str) -> float | None:
        """Return what an act leaves unexplained; None for one that was not tried."""
        return next((fit.residual for fit in self.fits if fit.act == act), None)
