"""Framing: how a picture of one shape comes into a frame of another, in whole samples.

Source: ordinary geometry; display aspect = raster × sample aspect (ITU-T H.273, H.264 annex E).
That coded sides and offsets keep to whole chroma samples: ITU-T H.264 6.2 and 7.4.2.1.1 (crop
units). Checked against tests/reference/geometry.json.
"""

from dataclasses import dataclass
from fractions import Fraction

Size = tuple[int, int]
"""Width and height in samples."""

STEPS = {"4:2:0": (2, 2), "4:2:2": (2, 1), "4:4:4": (1, 1), "4:0:0": (1, 1)}
"""Whole chroma samples: sides and offsets are multiples of these, across and down."""


class ImpossibleError(ValueError):
    """A geometry that no file can have; the text says why and what would do."""


@dataclass(frozen=True, slots=True)
class Area:
    """A rectangle in samples, x right and y down; sides above 0."""

    left: int
    top: int
    width: int
    height: int

    @property
    def size(self) -> Size:
        """Return width and height."""
        return self.width, self.height

    def lies_in(self, raster: Size) -> bool:
        """Return whether all of it lies in a raster."""
        inside = self.left >= 0 and self.top >= 0 and self.width > 0 and self.height > 0
        right, bottom = self.left + self.width, self.top + self.height
        return inside and right <= raster[0] and bottom <= raster[1]


def shown_shape(raster: Size, aspect: Size = (1, 1)) -> Fraction:
    """Return shown width ÷ shown height; raises ImpossibleError where a side is not above 0."""
    if min(*raster, *aspect) <= 0:
        raise ImpossibleError(
            f"A picture of {raster[0]}×{raster[1]} samples with a pixel aspect of "
            f"{aspect[0]}:{aspect[1]} cannot be shown: every number must be above 0."
        )
    return Fraction(raster[0] * aspect[0], raster[1] * aspect[1])


def to_step(value: Fraction | int, step: int) -> int:
    """Return the nearest multiple of a step, at least one step; halves go up."""
    return max(int(Fraction(value) / step + Fraction(1, 2)), 1) * step


def broken_steps(raster: Size, chroma: str) -> str:
    """Return what is wrong with a raster's sides for a chroma sampling; "" where nothing is."""
    across, down = STEPS[chroma]
    if raster[0] % across or raster[1] % down:
        sides = "an even width and height" if down == 2 else "an even width"
        return f"{chroma} needs {sides}; {raster[0]}×{raster[1]} has not."
    return ""


def fill_zoom(source: Fraction, goal: Fraction) -> Fraction:
    """Return by how much a picture that fits a frame is enlarged to fill it.

    source, goal: shown shapes. Its inverse is the share of the picture that is kept.
    """
    return max(source / goal, goal / source)


def cut_to(raster: Size, aspect: Size, goal: Fraction, chroma: str = "4:2:0") -> Size:
    """Return the largest part of a raster that has a shown shape, sides to whole chroma samples.

    goal: shown width ÷ height. Keeps the full width or the full height.
    """
    across, down = STEPS[chroma]
    width, height = raster
    stretch = Fraction(*aspect)
    if goal < shown_shape(raster, aspect):
        return min(to_step(height * goal / stretch, across), width), height
    return width, min(to_step(width * stretch / goal, down), height)


def placed(outer: Size, inner: Size, position: tuple[float, float], chroma: str) -> Area:
    """Return a smaller rectangle inside a larger one, its offsets to whole chroma samples.

    position: across and down, 0 = left or top, 0.5 = middle, 1 = right or bottom.
    """
    offsets = []
    for whole, part, at, step in zip(outer, inner, position, STEPS[chroma], strict=True):
        free = whole - part
        wanted = int(Fraction(free * min(max(at, 0.0), 1.0)) / step + Fraction(1, 2)) * step
        offsets.append(wanted if wanted <= free else free // step * step)
    return Area(offsets[0], offsets[1], *inner)


def fit_inside(shape: Fraction, frame: Size, aspect: Size = (1, 1), chroma: str = "4:2:0") -> Area:
    """Return where a picture of a shown shape lies in a frame with bars, centred.

    The bars of both sides are alike and whole chroma samples, so what they take together is a
    multiple of two steps.
    """
    width, height = frame
    across, down = (2 * step for step in STEPS[chroma])
    stretch = Fraction(*aspect)
    if shape > shown_shape(frame, aspect):
        free = to_step_or_nothing(height - width * stretch / shape, down)
        return Area(0, free // 2, width, height - free)
    free = to_step_or_nothing(width - height * shape / stretch, across)
    return Area(free // 2, 0, width - free, height)


def to_step_or_nothing(value: Fraction, step: int) -> int:
    """Return the nearest multiple of a step, which may be none at all."""
    return int(value / step + Fraction(1, 2)) * step


def widened(raster: Size, aspect: Size, chroma: str = "4:2:0") -> Size:
    """Return the raster of square samples at the same height."""
    return to_step(raster[0] * Fraction(*aspect), STEPS[chroma][0]), raster[1]


def lowered(raster: Size, aspect: Size, chroma: str = "4:2:0") -> Size:
    """Return the raster of square samples at the same width."""
    return raster[0], to_step(raster[1] / Fraction(*aspect), STEPS[chroma][1])


def is_whole(ratio: Fraction) -> bool:
    """Return whether an enlargement keeps the grid of samples: 1, 2, 3 and so on."""
    return ratio >= 1 and ratio.denominator == 1
