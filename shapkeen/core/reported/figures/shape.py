"""Shape: the promised and the delivered picture to scale, as viewers see them.

Each shows the raster's edge, the picture inside it, and a circle that the master's circle
becomes.
"""

from dataclasses import dataclass

from . import svg

ROOM_WIDTH, ROOM_HEIGHT, GAP = 250.0, 128.0, 40.0


@dataclass(frozen=True, slots=True)
class ShownPicture:
    """One picture as shown: the frame's shape, and the picture's place in it in fractions."""

    caption: str
    frame_ratio: float
    left: float = 0.0
    top: float = 0.0
    width: float = 1.0
    height: float = 1.0


def shape_figure(promised: ShownPicture, delivered: ShownPicture, *, circle: float) -> str:
    """Return both pictures one over the other, to one scale (equal heights of frame).

    circle: width ÷ height of what was a circle in the promised picture.
    """
    widest = max(promised.frame_ratio, delivered.frame_ratio)
    high = min(ROOM_HEIGHT, ROOM_WIDTH / widest)
    parts = [
        *_picture(promised, high, top=18.0, circle=1.0),
        *_picture(delivered, high, top=18.0 + high + GAP, circle=circle),
    ]
    label = f"Shape: {promised.caption}; {delivered.caption}"
    total = 18.0 + 2 * high + GAP + 10
    return svg.drawing(ROOM_WIDTH + 20, total, *parts, label=label, class_="sk-figure shape")


def _picture(picture: ShownPicture, high: float, *, top: float, circle: float) -> list[str]:
    wide = high * picture.frame_ratio
    left = 10 + (ROOM_WIDTH - wide) / 2
    x, y = left + picture.left * wide, top + picture.top * high
    inner_w, inner_h = picture.width * wide, picture.height * high
    radius = inner_h * 0.36
    # What lies outside the frame is cut off, so it is drawn only up to the edge.
    x2, y2 = min(x + inner_w, left + wide), min(y + inner_h, top + high)
    x1, y1 = max(x, left), max(y, top)
    return [
        svg.rect(left, top, wide, high, class_="frame"),
        svg.rect(x1, y1, x2 - x1, y2 - y1, class_="picture"),
        svg.element(
            "ellipse",
            cx=x + inner_w / 2,
            cy=y + inner_h / 2,
            rx=radius * circle,
            ry=radius,
            class_="circle",
        ),
        svg.text(picture.caption, left, top - 5, class_="axis"),
    ]
