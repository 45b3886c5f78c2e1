"""A trait as a thread through its stations, and a family as a bundle of threads.

The form of the line carries the verdict: straight = kept, kinked where the value changes =
bent, cut with a gap round the station where it is lost, dotted where nobody can tell. Values
stand on the line only where they differ from the station before.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from . import svg

WIDTH, HEIGHT = 880.0, 28.0
MIDDLE = HEIGHT / 2
LEFT, RIGHT = 6.0, WIDTH - 6.0
STATIONS = ("Promise", "Master", "Wrapper", "Stream", "Picture")
PLACES = dict(zip(STATIONS, (90.0, 265.0, 440.0, 615.0, 790.0), strict=True))
HALF_STEP = (265.0 - 90.0) / 2
LETTER = 7.9
"""Advance of the value face at 13 px, for the gap that a value leaves in its line."""
MOST_LETTERS = 19

AGREES, DIFFERS, SILENCE, UNKNOWN = "agrees", "differs", "silent", "unknown"


@dataclass(frozen=True, slots=True)
class Station:
    """One station of a thread: what stands there, and how that relates to the promise."""

    name: str
    value: str
    state: str


def thread(stations: Sequence[Station], *, verdict: str, label: str) -> str:
    """Return the drawing of one trait's thread, in WIDTH × HEIGHT."""
    parts = [svg.line(x, 0, x, HEIGHT, class_="station") for x in PLACES.values()]
    before = ""
    for number, station in enumerate(stations):
        shown = _shown(station, before, verdict)
        parts += _span(station, shown, verdict, first=number == 0, last=number == 4)
        before = station.value or before
    return svg.drawing(WIDTH, HEIGHT, *parts, label=label, class_=f"sk-thread {verdict}")


def _shown(station: Station, before: str, verdict: str) -> str:
    """Return the text at a station: what is new there; silence only where it matters."""
    if station.state == SILENCE:
        return "silent" if verdict == "lost" else ""
    if station.state == DIFFERS:
        text = station.value or "changed"
    else:
        text = station.value if station.value != before else ""
    return text if len(text) <= MOST_LETTERS else text[: MOST_LETTERS - 1] + "…"


def _span(station: Station, shown: str, verdict: str, *, first: bool, last: bool) -> list[str]:
    """Return the piece of the thread round one station, half way to each neighbour."""
    x = PLACES[station.name]
    start = LEFT if first else x - HALF_STEP
    end = RIGHT if last else x + HALF_STEP
    gap = len(shown) * LETTER / 2 + 7 if shown else 0.0
    broken = station.state == DIFFERS or (station.state == SILENCE and verdict == "lost")
    kind = "ink"
    if station.state in (SILENCE, UNKNOWN):
        kind = "ink dotted"
    if broken and verdict in ("bent", "lost"):
        kind = f"{kind} mark"
    parts: list[str] = []
    if broken and verdict == "lost":
        parts += _cut(start + 14, x - gap, kind, bar=start + 14)
        parts += _cut(x + gap, end - 14, kind, bar=end - 14)
        parts.append(svg.line(start, MIDDLE, start + 4, MIDDLE, class_="ink"))
        if not last:
            parts.append(svg.line(end - 4, MIDDLE, end, MIDDLE, class_="ink"))
    elif broken and verdict == "bent":
        parts.append(_kinked(start, x - gap, kind))
        parts.append(svg.line(x + gap, MIDDLE, end, MIDDLE, class_=kind))
    else:
        parts.append(svg.line(start, MIDDLE, x - gap, MIDDLE, class_=kind))
        parts.append(svg.line(x + gap, MIDDLE, end, MIDDLE, class_=kind))
    if shown:
        mark = " mark" if broken else ""
        parts.append(svg.text(shown, x, MIDDLE + 4.5, class_=f"value{mark}"))
    return parts


def _cut(start: float, end: float, kind: str, *, bar: float) -> list[str]:
    return [
        svg.line(start, MIDDLE, end, MIDDLE, class_=kind),
        svg.line(bar, MIDDLE - 5, bar, MIDDLE + 5, class_=kind.replace(" dotted", "")),
    ]


def _kinked(start: float, end: float, kind: str) -> str:
    at = start + 16
    points = [(start, MIDDLE), (at, MIDDLE), (at + 5, MIDDLE - 7), (at + 10, MIDDLE + 7)]
    return svg.path([*points, (at + 14, MIDDLE), (end, MIDDLE)], class_=kind)


def bundle(count: int, *, label: str, seen: bool = True) -> str:
    """Return a folded family: `count` threads lying close together.

    seen: whether the picture was looked at; else they end before its station.
    """
    right = RIGHT if seen else (PLACES[STATIONS[-2]] + PLACES[STATIONS[-1]]) / 2
    lines = min(max(count, 1), 7)
    top = MIDDLE - (lines - 1) * 1.5
    parts = [svg.line(x, 0, x, HEIGHT, class_="station") for x in PLACES.values()]
    parts += [
        svg.line(LEFT, top + 3 * i, right, top + 3 * i, class_="ink thin") for i in range(lines)
    ]
    return svg.drawing(WIDTH, HEIGHT, *parts, label=label, class_="sk-thread bundle")


def station_heads() -> str:
    """Return the names of the stations, standing over the threads."""
    parts = [svg.text(name, x, 15, class_="head") for name, x in PLACES.items()]
    return svg.drawing(
        WIDTH, 22, *parts, label="Stations: " + ", ".join(STATIONS), class_="sk-heads"
    )
