"""Two eyes in one picture. Source: ISO/IEC 23008-2 D.3.16 (frame packing)."""

from dataclasses import dataclass
from fractions import Fraction

from .framing import Size


@dataclass(frozen=True, slots=True)
class Packing:
    """How two eyes share a picture. across, down: how many eyes lie side by side and above.

    half: each eye is squeezed, so that both together are as large as one.
    """

    name: str
    stereo: str
    across: int
    down: int
    half: bool

    def frame(self, eye: Size) -> Size:
        """Return the raster of the packed picture for eyes of this raster."""
        if self.half:
            return eye
        return eye[0] * self.across, eye[1] * self.down

    def eye(self, frame: Size) -> Size:
        """Return the samples that each eye has in a packed picture."""
        return frame[0] // self.across, frame[1] // self.down

    def stretch(self) -> Fraction:
        """Return by how much an eye's samples are shown wider than high."""
        return Fraction(self.across, self.down) if self.half else Fraction(1)


PACKINGS = (
    Packing("one eye", "mono", 1, 1, half=False),
    Packing("side by side, full", "left-right", 2, 1, half=False),
    Packing("side by side, half", "left-right", 2, 1, half=True),
    Packing("top and bottom, full", "top-bottom", 1, 2, half=False),
    Packing("top and bottom, half", "top-bottom", 1, 2, half=True),
)


def packing_of(name: str) -> Packing | None:
    """Return a packing by its name."""
    return next((one for one in PACKINGS if one.name == name), None)


MONO, SIDE_BY_SIDE, TOP_BOTTOM, FRAME_SEQUENTIAL = "mono", "beside", "stacked", "in turn"
"""How eyes share a file: one alone, side by side, one over the other, frame after frame."""
_WAYS = {
    "mono": (MONO, True),
    "left-right": (SIDE_BY_SIDE, True),
    "right-left": (SIDE_BY_SIDE, False),
    "top-bottom": (TOP_BOTTOM, True),
    "bottom-top": (TOP_BOTTOM, False),
    "frame-sequential": (FRAME_SEQUENTIAL, True),
}


def way_of(stereo: object) -> tuple[str, bool] | None:
    """Return how a stated stereo layout shares the picture, and whether the left eye comes first.

    None for layouts that are not in one picture, and for anything else.
    """
    return _WAYS.get(stereo) if isinstance(stereo, str) else None


def parts_of(way: str) -> tuple[int, int]:
    """Return how many eyes a way lays beside each other, and over each other."""
    return 1 + (way == SIDE_BY_SIDE), 1 + (way == TOP_BOTTOM)


SQUEEZED, FLATTENED = 1.2, 2.5
"""Shapes of an eye that no flat picture has: half as wide, or half as high, as it is shown. Common
practice, no source."""


def shown_eye(shape: float, way: str) -> float:
    """Return the shape at which an eye of a flat picture is shown, half eyes made whole."""
    if way == SIDE_BY_SIDE and shape < SQUEEZED:
        return shape * 2
    return shape / 2 if way == TOP_BOTTOM and shape > FLATTENED else shape


def stereo_of(way: str, *, left_first: bool) -> str:
    """Return the stereo layout of a way to share the picture; with one eye, or in turn, its own."""
    found = (name for name, told in _WAYS.items() if told == (way, left_first))
    return next(found, next(name for name, told in _WAYS.items() if told[0] == way))
