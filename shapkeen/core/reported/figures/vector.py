"""Vector: colours on the plane of Cb and Cr, with the places of the pure colours."""

from ...colour.matrix import WEIGHTS, ycbcr_from_rgb
from ...measured import ColourUse
from . import svg
from .axes import Axis, axes_attribute
from .gamut import GAP, LEFT, SIZE, TOP, cells

TARGETS = {
    "R": (1, 0, 0),
    "Y": (1, 1, 0),
    "G": (0, 1, 0),
    "C": (0, 1, 1),
    "B": (0, 0, 1),
    "M": (1, 0, 1),
}
TARGET_SHARE = 0.75
"""Pure colours at three quarters of full signal: the trade's usual bars."""
CODES = 1024


def vector_figure(master: ColourUse, export: ColourUse, *, matrix: int, full_range: bool) -> str:
    """Return the drawing; matrix and full_range tell where the pure colours stand."""
    parts = []
    for panel, (name, use) in enumerate((("master", master), ("export", export))):
        left = LEFT + panel * (SIZE + GAP)
        parts.append(svg.text(name, left + 2, TOP - 8, class_="axis"))
        parts.append(svg.rect(left, TOP, SIZE, SIZE, class_="frame"))
        turned = tuple(zip(*use.vector, strict=True))  # rows become Cr
        parts += cells(turned, left=left, top=TOP, size=SIZE)
        parts.append(svg.line(left, TOP + SIZE / 2, left + SIZE, TOP + SIZE / 2, class_="ideal"))
        parts.append(svg.line(left + SIZE / 2, TOP, left + SIZE / 2, TOP + SIZE, class_="ideal"))
        parts += targets((left, TOP, SIZE), matrix, full_range=full_range)
        parts.append(svg.text("Cb code", left + SIZE / 2, TOP + SIZE + 16, class_="axis middle"))
    parts.append(svg.text("Cr", LEFT - 22, TOP + SIZE / 2 + 4, class_="axis"))

    def across(at: float) -> float:
        return (at - LEFT) / SIZE * CODES

    def up(at: float) -> float:
        return (TOP + SIZE - at) / SIZE * CODES

    return svg.drawing(
        LEFT + 2 * SIZE + GAP + 10,
        TOP + SIZE + 24,
        *parts,
        label="Vector: colours of master and export by Cb and Cr, with the pure colours marked",
        class_="sk-figure wide",
        data_axes=axes_attribute(
            Axis("Cb", "of 1023", LEFT, LEFT + SIZE, across), Axis("Cr", "", TOP + SIZE, TOP, up)
        ),
        data_period=f"{SIZE + GAP:g}",
    )


def targets(square: tuple[float, float, float], matrix: int, *, full_range: bool) -> list[str]:
    """Return the marks of the pure colours over a square: left, top and size."""
    left, top, size = square
    step = ycbcr_from_rgb(matrix if matrix in WEIGHTS else 1)
    span = 1023 if full_range else 896
    parts = []
    for name, rgb in TARGETS.items():
        _, cb, cr = step @ [TARGET_SHARE * part for part in rgb]
        x = left + (512 + cb * span) / CODES * size
        y = top + size * (1 - (512 + cr * span) / CODES)
        parts.append(svg.rect(x - 4, y - 4, 8, 8, class_="target"))
        parts.append(svg.text(name, x + 7, y + 4, class_="tick"))
    return parts
