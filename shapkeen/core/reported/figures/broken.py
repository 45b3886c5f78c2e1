"""Where a film is broken: the whole of it as a strip, stretches that cannot be relied on filled."""

from collections.abc import Sequence

from . import svg

WIDTH, HEIGHT, LEFT, GAP, TOP = 300.0, 34.0, 60.0, 14.0, 10.0
LEAST_WIDTH = 1.5
"""A single frame of a long film must be seen."""

Stretches = Sequence[tuple[int, int]]


def broken_figure(frames: int, export: Stretches, master: Stretches) -> str:
    """Return the drawing: a strip for the export, and one for the master where it is broken too.

    frames: how many the longer of the two has. Stretches: first and last frame number.
    """
    strips = [("export", export)] + ([("master", master)] if master else [])
    parts = []
    for row, (name, stretches) in enumerate(strips):
        y = TOP + row * (HEIGHT + GAP)
        parts.append(svg.text(name, LEFT - 7, y + HEIGHT / 2 + 4, class_="axis end"))
        parts.append(svg.rect(LEFT, y, WIDTH, HEIGHT, class_="frame"))
        for first, last in stretches:
            x, end = (LEFT + WIDTH * at / frames for at in (first, min(last + 1, frames)))
            parts.append(svg.rect(x, y, max(end - x, LEAST_WIDTH), HEIGHT, class_="broken"))
    bottom = TOP + len(strips) * (HEIGHT + GAP)
    parts.append(svg.text("0", LEFT, bottom + 2, class_="tick"))
    parts.append(svg.text(f"{frames - 1}", LEFT + WIDTH, bottom + 2, class_="tick end"))
    label = f"Frames that cannot be relied on: {len(export)} stretches of the export"
    return svg.drawing(
        LEFT + WIDTH + 10,
        bottom + 12,
        *parts,
        label=label,
        class_="sk-figure",
    )
