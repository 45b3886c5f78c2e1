"""Verdict glyphs: a straight line, one with a kink, one cut with a gap, a dotted one."""

from functools import cache

from . import svg

WIDTH, HEIGHT = 28.0, 12.0


@cache
def verdict_glyph(verdict: str) -> str:
    """Return the small drawing that stands for a verdict, everywhere the same."""
    middle = HEIGHT / 2
    if verdict == "bent":
        points = [(1.0, middle), (10.0, middle), (14.0, 2.0), (17.0, 9.5), (19.0, middle)]
        parts = [svg.path([*points, (27.0, middle)], class_="ink")]
    elif verdict == "lost":
        parts = [
            svg.line(1, middle, 10, middle, class_="ink"),
            svg.line(10, 2, 10, 10, class_="ink"),
            svg.line(18, middle, 27, middle, class_="ink"),
            svg.line(18, 2, 18, 10, class_="ink"),
        ]
    else:
        dotted = "dotted" if verdict == "unproven" else None
        parts = [svg.line(1, middle, 27, middle, class_=f"ink {dotted or ''}".strip())]
    return svg.drawing(WIDTH, HEIGHT, *parts, label=verdict, class_=f"sk-glyph {verdict}")
