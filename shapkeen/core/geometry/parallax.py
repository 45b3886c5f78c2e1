"""Parallax: how far apart both eyes' views of a thing stand on the screen, and what it does.

Parallax in % of the picture's width: positive = behind the screen, 0 = at it, negative = in front.
Ordinary geometry; the rules of thumb are common practice, no source, and vary by house.
"""

from dataclasses import dataclass
from math import atan, degrees, inf, radians, tan

INTEROCULAR_MM, CHILDREN_MM = 65.0, 50.0
"""Distance between the eyes: adults' mean, and the least that children have. Common practice, no
source."""
COMFORT_DEG = 1.0
"""Disparity that most viewers bear for long, in front of and behind the screen. Common practice,
no source."""
MOST_VERTICAL_PERCENT = 0.5
"""Of the height; well below it eyes fuse without strain. Common practice, no source."""


@dataclass(frozen=True, slots=True)
class Screen:
    """Where a picture is seen: its width, and how far away viewers sit, in mm."""

    width_mm: float
    distance_mm: float

    def mm(self, percent: float) -> float:
        """Return parallax on this screen in mm."""
        return percent / 100 * self.width_mm

    def percent(self, mm: float) -> float:
        """Return parallax of so many mm in % of the width."""
        return mm / self.width_mm * 100

    @property
    def divergence_percent(self) -> float:
        """Return the largest parallax behind the screen: beyond, eyes must turn outwards."""
        return self.percent(INTEROCULAR_MM)

    @property
    def comfort(self) -> tuple[float, float]:
        """Return the least and the largest parallax of the comfort zone in % of the width."""
        reach = self.percent(self.distance_mm * tan(radians(COMFORT_DEG)))
        return -reach, min(reach, self.divergence_percent)

    def angle_deg(self, percent: float) -> float:
        """Return the disparity that a viewer has at this parallax."""
        return degrees(atan(self.mm(percent) / self.distance_mm))

    def seen_at_mm(self, percent: float) -> float:
        """Return how far from the viewer a thing with this parallax seems to stand.

        D e / (e - p); infinite where eyes are parallel or turn outwards.
        """
        left = INTEROCULAR_MM - self.mm(percent)
        return self.distance_mm * INTEROCULAR_MM / left if left > 1e-9 else inf


def samples_from_percent(percent: float, width: int) -> float:
    """Return parallax in samples of a picture of this width."""
    return percent / 100 * width
