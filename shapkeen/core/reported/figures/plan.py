"""Plan: the master with its cut, and the frame that will be delivered, to one scale as shown.

The scale is that of samples made square, so an enlargement is seen as one.
"""

from dataclasses import dataclass
from fractions import Fraction

from ...geometry.framing import Area, Size
from ...geometry.words import ratio_words, size_words
from ...promised.planning import Layout
from . import svg

ROOM_WIDTH, ROOM_HEIGHT, GAP, HEAD, EDGE = 1180.0, 252.0, 60.0, 20.0, 4.0


@dataclass(frozen=True, slots=True)
class Box:
    """A rectangle of the drawing."""

    left: float
    top: float
    width: float
    height: float


def plan_figure(layout: Layout, *, still: str, inputs: tuple[str, str], label: str) -> str:
    """Return the drawing. still: address of a picture of the master; inputs: ids of the fields
    that hold where the cut lies, in per cent across and down."""
    master = _shown(layout.source, layout.source_aspect)
    frame = _shown(layout.cell, layout.stretch)
    scale = min(
        (ROOM_WIDTH - GAP) / (master[0] + frame[0]),
        (ROOM_HEIGHT - HEAD - 2 * EDGE) / max(master[1], frame[1]),
    )
    wide, high = master[0] * scale, master[1] * scale
    whole = (ROOM_WIDTH - wide - frame[0] * scale - GAP) / 2
    source = Box(whole, HEAD, wide, high)
    goal = Box(whole + wide + GAP, HEAD, frame[0] * scale, frame[1] * scale)
    total = HEAD + max(high, goal.height) + EDGE
    parts = [*_master(layout, source, still, inputs), *_delivered(layout, goal, still)]
    return svg.drawing(ROOM_WIDTH, total, *parts, label=label, class_="sk-figure sk-planned")


def _shown(size: tuple[int, int], aspect: Fraction) -> tuple[float, float]:
    return size[0] * float(aspect), float(size[1])


def _master(layout: Layout, box: Box, still: str, inputs: tuple[str, str]) -> list[str]:
    title = f"master {size_words(layout.source)}, as shown"
    parts = [
        svg.text(title, box.left, HEAD - 6, class_="axis"),
        _still(still, box),
        svg.rect(box.left, box.top, box.width, box.height, class_="frame"),
    ]
    if not layout.is_cut:
        return parts
    cut, scale = _inside(box, layout.crop, layout.source)
    return [*parts, _shade(box, cut), _cut(layout, cut, scale, inputs)]


def _inside(box: Box, area: Area, raster: Size) -> tuple[Box, tuple[float, float]]:
    """Return where an area of a raster is drawn, which fills a box; and the drawing's scale."""
    across, down = box.width / raster[0], box.height / raster[1]
    left, top = box.left + area.left * across, box.top + area.top * down
    return Box(left, top, area.width * across, area.height * down), (across, down)


def _shade(box: Box, cut: Box) -> str:
    """Return what is left out, darkened: the whole with the cut as a hole."""
    outer = f"M{_at(box.left, box.top)}h{svg.number(box.width)}v{svg.number(box.height)}"
    outer += f"h{svg.number(-box.width)}z"
    inner = f"M{_at(cut.left, cut.top)}v{svg.number(cut.height)}h{svg.number(cut.width)}"
    inner += f"v{svg.number(-cut.height)}z"
    return svg.element("path", d=outer + inner, class_="left-out", fill_rule="evenodd")


def _at(x: float, y: float) -> str:
    return f"{svg.number(x)} {svg.number(y)}"


def _cut(layout: Layout, cut: Box, scale: tuple[float, float], inputs: tuple[str, str]) -> str:
    """Return the cut: dragged, or moved by arrow keys (parts/plan.js reads the data)."""
    crop, free = layout.crop, layout.free
    words = f"{size_words(crop.size)} at x {crop.left}, y {crop.top}"
    return svg.element(
        "g",
        svg.rect(cut.left, cut.top, cut.width, cut.height),
        svg.text(words, cut.left + 6, cut.top + 15, class_="axis"),
        class_="cut",
        id="cut",
        tabindex=0,
        role="slider",
        aria_label="Place of the cut; arrow keys move it, with Shift ten times as far",
        aria_valuetext=words,
        aria_valuenow=crop.left + crop.top,
        aria_valuemin=0,
        aria_valuemax=free[0] + free[1],
        data_free=f"{free[0]} {free[1]}",
        data_scale=f"{scale[0]:.6f} {scale[1]:.6f}",
        data_offset=f"{crop.left} {crop.top}",
        data_inputs=" ".join(inputs),
    )


def _delivered(layout: Layout, box: Box, still: str) -> list[str]:
    h, v = layout.aspect
    flagged = f", pixel aspect {h}:{v}" if (h, v) != (1, 1) else ""
    whose = "each eye" if layout.frame != layout.cell else "delivered"
    shape = ratio_words(layout.shape)
    title = f"{whose} {size_words(layout.cell)}{flagged}, shown {shape}:1"
    picture, _ = _inside(box, layout.picture, layout.cell)
    return [
        svg.text(title, box.left, HEAD - 6, class_="axis"),
        svg.rect(box.left, box.top, box.width, box.height, class_="bars"),
        _cropped(layout, picture, still),
        svg.rect(picture.left, picture.top, picture.width, picture.height, class_="picture-edge"),
        svg.rect(box.left, box.top, box.width, box.height, class_="frame"),
    ]


def _still(still: str, box: Box) -> str:
    return svg.element(
        "image",
        href=still,
        x=box.left,
        y=box.top,
        width=box.width,
        height=box.height,
        preserveAspectRatio="none",
    )


def _cropped(layout: Layout, picture: Box, still: str) -> str:
    """Return the kept part of the still, laid into the picture's place."""
    crop, source = layout.crop, layout.source
    return svg.element(
        "svg",
        svg.element(
            "image",
            href=still,
            x=0,
            y=0,
            width=source[0],
            height=source[1],
            preserveAspectRatio="none",
        ),
        x=picture.left,
        y=picture.top,
        width=picture.width,
        height=picture.height,
        viewBox=f"{crop.left} {crop.top} {crop.width} {crop.height}",
        preserveAspectRatio="none",
    )
