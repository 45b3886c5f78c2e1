"""Gamut: where the colours of master and export lie on CIE 1931, over the three gamuts."""

from itertools import pairwise

import numpy as np

from ...colour.primaries import CHROMATICITIES
from ...measured import ColourUse
from ...measured.model import CHROMATICITY_TOP
from . import svg
from .axes import Axis, axes_attribute

SIZE, TOP, LEFT, GAP = 240.0, 24.0, 34.0, 46.0
SHADES = 5
GAMUTS = ((9, "BT.2020"), (12, "P3-D65"), (1, "BT.709"))
TICKS = (0.0, 0.2, 0.4, 0.6, 0.8)


def x_of(value: float, panel: int) -> float:
    """Return the place across of a chromaticity x in the first or second panel."""
    return LEFT + panel * (SIZE + GAP) + value / CHROMATICITY_TOP * SIZE


def y_of(value: float) -> float:
    """Return the place down of a chromaticity y."""
    return TOP + SIZE * (1 - value / CHROMATICITY_TOP)


def gamut_figure(master: ColourUse, export: ColourUse) -> str:
    """Return the drawing: one panel for each picture, with the same triangles."""
    parts = []
    for panel, (name, use) in enumerate((("master", master), ("export", export))):
        parts += _panel(name, use, panel)
    width = LEFT + 2 * SIZE + GAP + 10
    return svg.drawing(
        width,
        TOP + SIZE + 34,
        *parts,
        label="Gamut: chromaticities of master and export over BT.2020, P3-D65 and BT.709",
        class_="sk-figure wide",
        data_axes=axes_attribute(_axis_x(), _axis_y()),
        data_period=f"{SIZE + GAP:g}",
    )


def _axis_x() -> Axis:
    return Axis("x", "", LEFT, LEFT + SIZE, lambda at: (at - LEFT) / SIZE * CHROMATICITY_TOP, 3)


def _axis_y() -> Axis:
    def value(at: float) -> float:
        return (TOP + SIZE - at) / SIZE * CHROMATICITY_TOP

    return Axis("y", "", TOP + SIZE, TOP, value, 3)


def _panel(name: str, use: ColourUse, panel: int) -> list[str]:
    left = x_of(0, panel)
    parts = [svg.text(name, left + 2, TOP - 8, class_="axis")]
    parts.append(svg.rect(left, TOP, SIZE, SIZE, class_="frame"))
    parts += cells(use.chromaticity, left=left, top=TOP, size=SIZE)
    for code, title in GAMUTS:
        red, green, blue, _ = CHROMATICITIES[code]
        corners = [(x_of(x, panel), y_of(y)) for x, y in (red, green, blue, red)]
        parts.append(svg.path(corners, class_=f"gamut g{code}"))
        parts.append(svg.text(title, corners[1][0] + 4, corners[1][1] - 4, class_="tick"))
    for value in TICKS:
        parts.append(
            svg.text(f"{value:g}", x_of(value, panel), TOP + SIZE + 14, class_="tick middle")
        )
        if value and not panel:
            parts.append(svg.text(f"{value:g}", left - 5, y_of(value) + 4, class_="tick end"))
    parts.append(svg.text("CIE 1931 x", left + SIZE / 2, TOP + SIZE + 30, class_="axis middle"))
    return parts


def cells(
    density: tuple[tuple[int, ...], ...],
    *,
    left: float,
    top: float,
    size: float,
    width: float | None = None,
) -> list[str]:
    """Return the cells that hold samples, in five steps of ink by the logarithm of their count.

    density: rows from the bottom up. All of one ink are one path, neighbours in a row one piece of
    it: a waveform has thousands, and each element costs a page and a PDF more than its shape. size:
    the drawing's height, and its width where none is told.
    """
    counts = np.array(density)
    most = max(int(counts.max()), 1)
    inks = np.where(counts, 1 + ((SHADES - 1) * np.log1p(counts) / np.log1p(most)).astype(int), 0)
    step = size / len(density)
    wide = (width or size) / len(density[0])
    drawn: list[list[str]] = [[] for _ in range(SHADES + 1)]
    for up, row in enumerate(inks):
        y = svg.number(top + size - (up + 1) * step)
        edges = [0, *(np.flatnonzero(np.diff(row)) + 1).tolist(), len(row)]
        for start, end in pairwise(edges):
            x, across = svg.number(left + start * wide), svg.number((end - start) * wide)
            drawn[row[start]].append(f"M{x} {y}h{across}v{svg.number(step)}h-{across}z")
    return [
        svg.element("path", d="".join(pieces), class_=f"density d{ink}")
        for ink, pieces in enumerate(drawn)
        if ink and pieces
    ]
