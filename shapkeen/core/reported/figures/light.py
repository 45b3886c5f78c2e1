"""Light: brightest and average light of each surveyed frame along time, PQ-spaced."""

from ...colour.pq import light_from_signal, signal_from_light
from ...measured import LightLevels
from . import svg
from .axes import Axis, axes_attribute

WIDTH, HEIGHT, LEFT, TOP = 300.0, 200.0, 46.0, 10.0
MARKS_NITS = (0.1, 1, 10, 100, 203, 1000, 4000, 10000)


def light_y(nits: float) -> float:
    """Return the height of a light on the axis; equal steps are equal steps of PQ."""
    return TOP + HEIGHT * (1 - float(signal_from_light(nits)))


def light_figure(
    light: LightLevels,
    *,
    master: LightLevels | None = None,
    promised_nits: float | None,
    peak_nits: float | None,
) -> str:
    """Return the drawing, with the promised MaxCLL and the mastering display's peak.

    master: the master's own light, drawn thin behind the export's.
    """
    parts = [svg.rect(LEFT, TOP, WIDTH, HEIGHT, class_="frame")]
    for nits in MARKS_NITS:
        y = light_y(nits)
        parts.append(svg.line(LEFT - 4, y, LEFT, y, class_="frame"))
        parts.append(svg.text(f"{nits:g}", LEFT - 7, y + 4, class_="tick end"))
    for level, name in ((promised_nits, "promised MaxCLL"), (peak_nits, "display peak")):
        if level:
            y = light_y(level)
            up = -4 if name == "display peak" else 13
            parts.append(svg.line(LEFT, y, LEFT + WIDTH, y, class_="limit"))
            parts.append(svg.text(f"{name} {level:g}", LEFT + WIDTH - 4, y + up, class_="tick end"))
    times = [time for time, _, _ in light.series]
    start, span = times[0], (times[-1] - times[0]) or 1.0
    for column, name in ((1, "brightest"), (2, "average")):
        if master is not None:
            behind = _points(master, column, start, span)
            parts.append(svg.path(behind, class_="series of-master"))
        points = _points(light, column, start, span)
        parts.append(svg.path(points, class_=f"series {name}"))
        above = max(points[0][1] - 5, TOP + 22)  # not over the frame's upper edge
        parts.append(svg.text(name, LEFT + 6, above, class_="axis"))
    parts.append(svg.text("cd/m²", LEFT + 4, TOP + HEIGHT - 6, class_="axis"))
    ends = f"{start:.2f} s to {times[-1]:.2f} s"
    parts.append(svg.text(ends, LEFT + WIDTH / 2, TOP + HEIGHT + 16, class_="axis middle"))
    label = f"Light: brightest {light.max_cll:.0f}, highest average {light.max_fall:.0f} cd/m²"

    def nits_at(y: float) -> float:
        return float(light_from_signal((TOP + HEIGHT - y) / HEIGHT))

    def time_at(x: float) -> float:
        return start + (x - LEFT) / WIDTH * span

    return svg.drawing(
        LEFT + WIDTH + 10,
        TOP + HEIGHT + 24,
        *parts,
        label=label,
        class_="sk-figure",
        data_axes=axes_attribute(
            Axis("at", "s", LEFT, LEFT + WIDTH, time_at, 2),
            Axis("light", "cd/m²", TOP + HEIGHT, TOP, nits_at, 1),
        ),
    )


def _points(
    light: LightLevels, column: int, start: float, span: float
) -> list[tuple[float, float]]:
    """Return one series as places; a single frame becomes a level line."""
    points = [
        (LEFT + min(max((item[0] - start) / span, 0.0), 1.0) * WIDTH, light_y(item[column]))
        for item in light.series
    ]
    return points if len(points) > 1 else [*points, (LEFT + WIDTH, points[0][1])]
