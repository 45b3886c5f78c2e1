"""Time: which frame of the export is which of the master's, frame for frame."""

from ...measured import TimeFindings
from . import svg
from .axes import Axis, axes_attribute

WIDTH, HEIGHT, LEFT, TOP = 300.0, 200.0, 46.0, 10.0
EVENTS = 12
"""More marks would run into each other; the first ones tell where to look."""


def time_figure(timing: TimeFindings) -> str:
    """Return the drawing: a straight line where every frame follows, steps where some are gone."""
    first, last = timing.way[0], timing.way[-1]
    low, high = min(first[1], first[0]), max(last[1], last[0])
    across, up = max(last[0] - first[0], 1), max(high - low, 1)

    def place(export: float, master: float) -> tuple[float, float]:
        return LEFT + (export - first[0]) / across * WIDTH, TOP + HEIGHT * (1 - (master - low) / up)

    parts = [svg.rect(LEFT, TOP, WIDTH, HEIGHT, class_="frame")]
    parts.append(svg.path([place(*first), place(last[0], first[1] + across)], class_="ideal"))
    parts.append(svg.path([place(*pair) for pair in timing.way], class_="series"))
    for events, word in ((timing.dropped, "missing"), (timing.repeated, "again")):
        for event in events[:EVENTS]:
            x, y = place(event.export_frame, event.master_frame)
            parts.append(svg.line(x, y - 12, x, y + 12, class_="mark"))
            right = x > LEFT + WIDTH * 0.7
            words = f"{event.count} {word} at {event.export_frame}"
            aside = -5 if right else 5
            parts.append(
                svg.text(words, x + aside, y + 16, class_=f"axis{' end' if right else ''}")
            )
    parts.append(svg.text("master's frame", LEFT + 5, TOP + 14, class_="axis"))
    ends = f"frames {first[0]} to {last[0]} of the export"
    parts.append(svg.text(ends, LEFT + WIDTH / 2, TOP + HEIGHT + 16, class_="axis middle"))
    for number in (low, high):
        y = TOP + HEIGHT * (1 - (number - low) / up)
        parts.append(svg.text(f"{number}", LEFT - 7, y + 4, class_="tick end"))
    label = f"Time: {timing.missing} missing, {timing.shown_again} shown again"
    return svg.drawing(
        LEFT + WIDTH + 10,
        TOP + HEIGHT + 24,
        *parts,
        label=label,
        class_="sk-figure",
        data_axes=axes_attribute(
            Axis(
                "export",
                "",
                LEFT,
                LEFT + WIDTH,
                lambda x: first[0] + (x - LEFT) / WIDTH * across,
                0,
            ),
            Axis(
                "master", "", TOP + HEIGHT, TOP, lambda y: low + (TOP + HEIGHT - y) / HEIGHT * up, 0
            ),
        ),
    )
