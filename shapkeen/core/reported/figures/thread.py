"""A trait as a thread through its stations, and a family as a bundle of threads.

The form of the line carries the verdict: straight = kept, kinked where the value changes =
bent, cut with a gap round the station where it is lost, dotted where nobody can tell. Values
stand on the line only where they differ from the station before.
"""

from dataclasses import dataclass
from functools import cache, lru_cache

from . import svg

WIDTH, HEIGHT = 880.0, 28.0
MIDDLE = HEIGHT / 2
LEFT, RIGHT = 6.0, WIDTH - 6.0
STATIONS = ("Promise", "Master", "Wrapper", "Stream", "Picture")
RECEIVED = "As received"
"""The last station, once an export was rehearsed."""
LETTER = 7.9
"""Advance of the value face at 13 px, for the gap that a value leaves in its line."""
ROOM = 24.0
"""Between the values of neighbouring stations, for the line to be seen."""

KEPT_DRAWINGS = 2000
"""Of threads: those of what somebody works on; each is some 2 kB."""

AGREES, DIFFERS, SILENCE, UNKNOWN = "agrees", "differs", "silent", "unknown"


@dataclass(frozen=True, slots=True)
class Station:
    """One station of a thread: what stands there, and how that relates to the promise."""

    name: str
    value: str
    state: str


@dataclass(frozen=True, slots=True)
class Grid:
    """Where stations stand: so many, evenly."""

    count: int = len(STATIONS)

    @property
    def step(self) -> float:
        """Return how far neighbours are apart."""
        return (WIDTH - 5) / self.count

    @property
    def letters(self) -> int:
        """Return how many letters of a value find room."""
        return int((self.step - ROOM) / LETTER)

    def place(self, number: int) -> float:
        """Return where a station stands, counted from 0."""
        return (WIDTH - 175.0 * 4) / 2 * 5 / self.count + self.step * number

    def lines(self) -> list[str]:
        """Return an upright line at every station."""
        places = map(self.place, range(self.count))
        return [svg.line(x, 0, x, HEIGHT, class_="station") for x in places]


@lru_cache(KEPT_DRAWINGS)
def thread(stations: tuple[Station, ...], *, verdict: str, label: str) -> str:
    """Return the drawing of one trait's thread, in WIDTH × HEIGHT.

    A station called RECEIVED may stand last: the verdict is not about it; where it differs, the
    thread is cut there.
    """
    grid = Grid(len(stations))
    parts = grid.lines()
    before = ""
    for number, station in enumerate(stations):
        state = "lost" if station.name == RECEIVED else verdict
        shown = _shown(station, before, state, grid.letters)
        parts += _span(station, shown, state, grid, number)
        before = station.value or before
    return svg.drawing(WIDTH, HEIGHT, *parts, label=label, class_=f"sk-thread {verdict}")


def _shown(station: Station, before: str, verdict: str, most: int) -> str:
    """Return the text at a station: what is new there; silence only where it matters."""
    if station.state == SILENCE:
        return "silent" if verdict == "lost" else ""
    if station.state == DIFFERS:
        text = station.value or "changed"
    else:
        text = station.value if station.value != before else ""
    return text if len(text) <= most else text[: most - 1] + "…"


def _span(station: Station, shown: str, verdict: str, grid: Grid, number: int) -> list[str]:
    """Return the piece of the thread round one station, half way to each neighbour."""
    x, last = grid.place(number), number == grid.count - 1
    start = LEFT if number == 0 else x - grid.step / 2
    end = RIGHT if last else x + grid.step / 2
    gap = len(shown) * LETTER / 2 + 7 if shown else 0.0
    broken = station.state == DIFFERS or (station.state == SILENCE and verdict == "lost")
    kind = "ink"
    if station.state in (SILENCE, UNKNOWN):
        kind = "ink dotted"
    if broken and verdict in ("bent", "lost"):
        kind = f"{kind} mark{' received' if station.name == RECEIVED else ''}"
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
        mark = (" mark received" if station.name == RECEIVED else " mark") if broken else ""
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


@lru_cache(KEPT_DRAWINGS)
def bundle(count: int, *, label: str, seen: bool = True, received: bool = False) -> str:
    """Return a folded family: `count` threads lying close together.

    seen: whether the picture was looked at; else they end before its station. received: whether
    there is a station behind it.
    """
    grid = Grid(len(STATIONS) + received)
    right = RIGHT if seen else (grid.place(len(STATIONS) - 2) + grid.place(len(STATIONS) - 1)) / 2
    lines = min(max(count, 1), 7)
    top = MIDDLE - (lines - 1) * 1.5
    parts = grid.lines()
    parts += [
        svg.line(LEFT, top + 3 * i, right, top + 3 * i, class_="ink thin") for i in range(lines)
    ]
    return svg.drawing(WIDTH, HEIGHT, *parts, label=label, class_="sk-thread bundle")


@cache
def station_heads(*, received: bool = False) -> str:
    """Return the names of the stations, standing over the threads; with RECEIVED if asked for."""
    names = (*STATIONS, RECEIVED) if received else STATIONS
    grid = Grid(len(names))
    parts = [svg.text(name, grid.place(i), 15, class_="head") for i, name in enumerate(names)]
    return svg.drawing(WIDTH, 22, *parts, label="Stations: " + ", ".join(names), class_="sk-heads")
