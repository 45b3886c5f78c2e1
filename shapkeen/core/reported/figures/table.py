"""A look-up table: what greys become, and what hues become, in signals from 0 to 1."""

import numpy as np

from ...colour.lookup import LookUpTable, Triples, lattice
from . import svg
from .axes import Axis, axes_attribute

SIZE, MARGIN, TOP = 200.0, 40.0, 8.0
TICKS = (0.0, 0.25, 0.5, 0.75, 1.0)
POINTS = 33
GREY = np.array([0.2627, 0.6780, 0.0593])
"""Weights of luma: ITU-R BT.2020; near enough to other matrices' for a drawing."""
CLASSES = ("fitted", "fitted second", "fitted third")
"""Of red, green and blue, by their dashes."""


def _x(signal: float) -> float:
    return MARGIN + signal * SIZE


def _y(signal: float) -> float:
    return TOP + SIZE - signal * SIZE


def table_figure(table: LookUpTable) -> str:
    """Return the drawing: signal in across, signal out up; a line for each channel."""
    parts = [svg.rect(MARGIN, TOP, SIZE, SIZE, class_="frame")]
    for tick in TICKS:
        parts.append(svg.line(_x(tick), TOP + SIZE, _x(tick), TOP + SIZE + 4, class_="frame"))
        parts.append(svg.text(f"{tick:g}", _x(tick), TOP + SIZE + 16, class_="tick middle"))
        parts.append(svg.text(f"{tick:g}", MARGIN - 5, _y(tick) + 4, class_="tick end"))
    parts.append(svg.line(_x(0), _y(0), _x(1), _y(1), class_="ideal"))
    greys = lattice(POINTS)[:: POINTS * POINTS + POINTS + 1]
    made = table.apply(greys)
    for channel, kind in enumerate(CLASSES):
        points = [
            (_x(float(g[0])), _y(float(m[channel]))) for g, m in zip(greys, made, strict=True)
        ]
        parts.append(svg.path(points, class_=kind))
    parts.append(svg.text("signal in", MARGIN + SIZE / 2, TOP + SIZE + 32, class_="axis middle"))
    parts.append(svg.text("signal out", MARGIN + 6, TOP + 16, class_="axis"))
    return svg.drawing(
        MARGIN + SIZE + 14,
        TOP + SIZE + 40,
        *parts,
        label="What the table makes of greys, from black to white",
        class_="sk-figure table",
        data_axes=axes_attribute(
            Axis("in", "", MARGIN, MARGIN + SIZE, lambda x: (x - MARGIN) / SIZE),
            Axis("out", "", TOP + SIZE, TOP, lambda y: (TOP + SIZE - y) / SIZE),
        ),
    )


HUES = 48
RINGS = (0.12, 0.24)
"""How far hues lie from grey, in signal."""
WIDE = 0.4
"""Of the drawing, from grey to its edge."""


def hues_figure(table: LookUpTable) -> str:
    """Return the drawing: rings of hues round middle grey, dashed, and what the table makes of
    them. Across: blue against grey; up: red against grey."""
    scale, middle = SIZE / 2 / WIDE, (MARGIN + SIZE / 2, TOP + SIZE / 2)

    def place(signal: Triples) -> tuple[float, float]:
        grey = float(signal @ GREY)
        return (
            middle[0] + (float(signal[2]) - grey) * scale,
            middle[1] - (float(signal[0]) - grey) * scale,
        )

    parts = [svg.rect(MARGIN, TOP, SIZE, SIZE, class_="frame")]
    parts.append(svg.line(MARGIN, middle[1], MARGIN + SIZE, middle[1], class_="frame"))
    parts.append(svg.line(middle[0], TOP, middle[0], TOP + SIZE, class_="frame"))
    turns = np.linspace(0.0, 2 * np.pi, HUES + 1)
    for far in RINGS:
        red, blue = 0.5 + far * np.sin(turns), 0.5 + far * np.cos(turns)
        green = (0.5 - GREY[0] * red - GREY[2] * blue) / GREY[1]
        ring = np.stack([red, green, blue], axis=-1)
        parts.append(svg.path([place(one) for one in ring], class_="ideal"))
        parts.append(svg.path([place(one) for one in table.apply(ring)], class_="fitted"))
    label = "blue − grey"
    parts.append(svg.text(label, MARGIN + SIZE / 2, TOP + SIZE + 16, class_="axis middle"))
    parts.append(svg.text("red − grey", MARGIN + 6, TOP + 16, class_="axis"))
    return svg.drawing(
        MARGIN + SIZE + 14,
        TOP + SIZE + 40,
        *parts,
        label="What the table makes of hues round middle grey",
        class_="sk-figure table",
    )
