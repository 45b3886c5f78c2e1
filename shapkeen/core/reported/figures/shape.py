"""Shape: the promised and the delivered picture to scale, as viewers see them.

Each shows the frame, the master's picture in it and where it reaches beyond (dashed: cut off), and
a circle that the master's circle becomes.
"""

from dataclasses import dataclass

from . import svg

ROOM_WIDTH, ROOM_HEIGHT, GAP, HEAD, EDGE = 250.0, 128.0, 40.0, 18.0, 10.0


@dataclass(frozen=True, slots=True)
class ShownPicture:
    """One picture as shown: the frame's shape, and the master's place in it in fractions."""

    caption: str
    frame_ratio: float
    left: float = 0.0
    top: float = 0.0
    width: float = 1.0
    height: float = 1.0

    def reach(self) -> tuple[float, float, float, float]:
        """Return left, top, right and bottom of frame and master together, in frame heights."""
        right, bottom = self.left + self.width, self.top + self.height
        return (
            min(self.left, 0.0) * self.frame_ratio,
            min(self.top, 0.0),
            max(right, 1.0) * self.frame_ratio,
            max(bottom, 1.0),
        )


def shape_figure(promised: ShownPicture, delivered: ShownPicture, *, circle: float) -> str:
    """Return both pictures one over the other, to one scale (equal heights of frame).

    circle: width ÷ height of what was a circle in the promised picture.
    """
    reaches = [picture.reach() for picture in (promised, delivered)]
    widest = max(right - left for left, _, right, _ in reaches)
    highest = max(bottom - top for _, top, _, bottom in reaches)
    high = min(ROOM_HEIGHT / highest, ROOM_WIDTH / widest)
    parts: list[str] = []
    below = HEAD
    for picture, shown, reach in zip((promised, delivered), (1.0, circle), reaches, strict=True):
        parts += _picture(picture, high, below, reach, shown)
        below += (reach[3] - reach[1]) * high + GAP
    label = f"Shape: {promised.caption}; {delivered.caption}"
    total = below - GAP + EDGE
    return svg.drawing(ROOM_WIDTH + 2 * EDGE, total, *parts, label=label, class_="sk-figure shape")


def _picture(
    picture: ShownPicture,
    high: float,
    below: float,
    reach: tuple[float, float, float, float],
    circle: float,
) -> list[str]:
    wide = high * picture.frame_ratio
    first, upper = reach[0] * high, reach[1] * high
    # Frame and master together stand in the middle of the room.
    left = EDGE + (ROOM_WIDTH - (reach[2] - reach[0]) * high) / 2 - first
    top = below - upper
    x, y = left + picture.left * wide, top + picture.top * high
    inner_w, inner_h = picture.width * wide, picture.height * high
    x1, y1 = max(x, left), max(y, top)
    x2, y2 = min(x + inner_w, left + wide), min(y + inner_h, top + high)
    parts = [
        svg.rect(left, top, wide, high, class_="frame"),
        svg.rect(x1, y1, max(x2 - x1, 0.0), max(y2 - y1, 0.0), class_="picture"),
    ]
    if (x1, y1, x2, y2) != (x, y, x + inner_w, y + inner_h):
        parts.append(svg.rect(x, y, inner_w, inner_h, class_="beyond"))
    radius = inner_h * 0.36
    middle = {"cx": x + inner_w / 2, "cy": y + inner_h / 2}
    return [
        *parts,
        svg.element("ellipse", **middle, rx=radius * circle, ry=radius, class_="circle"),
        svg.text(picture.caption, EDGE, below - 5, class_="axis"),
    ]
