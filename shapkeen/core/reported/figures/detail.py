"""Detail: how much of the master's structure came through, from coarse to finest, on both axes."""

from ...measured import DetailCurve, DetailFindings
from . import svg
from .axes import Axis, axes_attribute

WIDTH, HEIGHT, LEFT, TOP = 300.0, 200.0, 40.0, 10.0
MOST = 1.5
"""Above, structure is drawn at the upper edge: edges that overshoot."""
LEVELS = (0.0, 0.5, 1.0, 1.5)


def detail_figure(detail: DetailFindings, *, size: tuple[int, int]) -> str:
    """Return the drawing. size: the export's raster, for the frequencies in samples."""
    parts = [svg.rect(LEFT, TOP, WIDTH, HEIGHT, class_="frame")]
    for level in LEVELS:
        y = _y(level)
        parts.append(svg.text(f"{level:g}", LEFT - 7, y + 4, class_="tick end"))
        if level in (0.5, 1.0):
            parts.append(
                svg.line(LEFT, y, LEFT + WIDTH, y, class_="ideal" if level == 1 else "limit")
            )
    for share, name in ((0.25, "¼"), (0.5, "½"), (0.75, "¾"), (1.0, "finest")):
        x = LEFT + share * WIDTH
        place = "tick end" if share == 1 else "tick middle"
        parts.append(svg.text(name, x, TOP + HEIGHT + 14, class_=place))
    for curve, name in ((detail.down, "down"), (detail.across, "across")):
        parts += _drawn(curve, name)
    for name, class_, x in (("across", "axis end", WIDTH - 34), ("down", "axis end", WIDTH - 4)):
        parts.append(svg.text(name, LEFT + x, TOP + 14, class_=class_))
    told = _reach(detail, size)
    parts.append(svg.text(told, LEFT + 6, TOP + HEIGHT - 8, class_="axis"))
    return svg.drawing(
        LEFT + WIDTH + 10,
        TOP + HEIGHT + 24,
        *parts,
        label=f"Detail: {detail.transfer:.0%} of the fine structure came through; {told}",
        class_="sk-figure",
        data_axes=axes_attribute(
            Axis("fineness", "of the finest", LEFT, LEFT + WIDTH, lambda x: (x - LEFT) / WIDTH, 2),
            Axis(
                "came through",
                "",
                TOP + HEIGHT,
                TOP,
                lambda y: MOST * (TOP + HEIGHT - y) / HEIGHT,
                2,
            ),
        ),
    )


def _y(share: float) -> float:
    return TOP + HEIGHT * (1 - min(max(share / MOST, 0.0), 1.0))


def _drawn(curve: DetailCurve, name: str) -> list[str]:
    pairs = zip(curve.frequency, curve.transfer, strict=True)
    points = [(LEFT + f * WIDTH, _y(t)) for f, t in pairs if t is not None]
    if len(points) < 2:
        return []
    return [svg.path(points, class_=f"series {'average' if name == 'down' else 'across'}")]


def _reach(detail: DetailFindings, size: tuple[int, int]) -> str:
    """Return how many samples would hold the structure that came through."""
    reach = detail.across.effective, detail.down.effective
    if reach[0] is None or reach[1] is None:
        return "half comes through up to the finest that is there"
    return f"half comes through up to {size[0] * reach[0]:.0f}×{size[1] * reach[1]:.0f}"
