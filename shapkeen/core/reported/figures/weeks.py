"""Counts week by week as bars, small enough to stand in a row of a table."""

from collections.abc import Sequence

from . import svg

EACH, HEIGHT, GAP = 14.0, 30.0, 2.0


def weeks_figure(counts: Sequence[int], *, label: str) -> str:
    """Return the drawing: one bar a week, the earliest at the left, its count over it."""
    most = max(*counts, 1)
    parts = [svg.line(0, HEIGHT, EACH * len(counts), HEIGHT, class_="frame")]
    for week, count in enumerate(counts):
        if not count:
            continue
        high = (HEIGHT - 12) * count / most
        left = week * EACH
        parts.append(svg.rect(left, HEIGHT - high, EACH - GAP, high, class_="bar"))
        middle = left + (EACH - GAP) / 2
        parts.append(svg.text(str(count), middle, HEIGHT - high - 3, class_="tick middle"))
    return svg.drawing(
        EACH * len(counts), HEIGHT + 1, *parts, label=label, class_="sk-figure sk-weeks"
    )
