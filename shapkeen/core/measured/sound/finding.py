"""When the master's sound is heard in the export: correlation of levels over time.

Levels in decibels, 200 a second: they outlive coding, resampling and gain, and a correlation's
peak is placed between them to about a millisecond.
"""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ..model.sound import SoundMoment
from .correlation import correlated, correlated_inside
from .levels import FLOOR_DB, LEVELS_A_SECOND, Levels

LEAST_MOVING_DB = 1.0
"""Spread of levels below which one moment is like the next."""
CLEARLY_BETTER = 0.05
"""By so much another place must be more alike than the one that the picture tells."""
NEAR_S, FOLLOWED_S = 0.5, 1.0
LONGEST_WINDOW_S, SHORTEST_WINDOW_S, MOST_WINDOWS = 10.0, 1.0, 60
ALIKE = 0.6
MOST_SILENT = 0.1
"""Share of a stretch that may be silent in the export, where it is not in the master."""

Line = npt.NDArray[np.float32]
"""Levels of all channels together, dBFS."""


def line_of(levels: Levels) -> Line:
    """Return the mean power of all channels, as a level."""
    if not levels.size:
        return np.zeros(0, np.float32)
    power = np.mean(10 ** (levels.astype(np.float64) / 10), axis=0)
    line: Line = (10 * np.log10(power)).astype(np.float32)  # the floor of each is that of all
    return line


def _sped(line: Line, speed: float) -> Line:
    """Return a line as it is when played so many times as fast."""
    if speed == 1 or not line.size:
        return line
    at = np.arange(int(line.size / speed)) * speed
    fast: Line = np.interp(at, np.arange(line.size), line).astype(np.float32)
    return fast


@dataclass(frozen=True, slots=True)
class PictureClock:
    """When the master's moments are shown in the export: (master's second, export's second).

    speed: master's seconds that are shown in one of the export's.
    """

    speed: float
    way: tuple[tuple[float, float], ...]

    def late_at(self, master_s: float, speed: float) -> float:
        """Return by how much later a moment is shown than a sound of this speed is heard."""
        (begin, shown), (end, gone) = self.way[0], self.way[-1]
        if master_s <= begin:
            at = shown - (begin - master_s) / self.speed
        elif master_s >= end:
            at = gone + (master_s - end) / self.speed
        else:
            times = np.array(self.way)
            at = float(np.interp(master_s, times[:, 0], times[:, 1]))
        return at - master_s / speed


def find_moments(
    master: Line, export: Line, clock: PictureClock, speed: float = 1.0
) -> tuple[SoundMoment, ...]:
    """Return where stretches of the master's sound are heard in the export, played at a speed.

    clock: of the picture, by which sound is looked for first. A repeating sound
    fits in many places: another one is taken only where it fits clearly better.
    """
    master = _sped(master, speed)
    middle = master.size / LEVELS_A_SECOND / 2 * speed
    found = _whole_shift(master, export, clock.late_at(middle, speed))
    if found is None:
        return ()
    third = min(master.size, export.size) / LEVELS_A_SECOND / 3  # of a clip: of what is there
    size = int(LEVELS_A_SECOND * min(max(third, SHORTEST_WINDOW_S), LONGEST_WINDOW_S))
    # What the export does not reach, it cannot hold: of a film a clip shows a small part.
    slack = round(FOLLOWED_S * LEVELS_A_SECOND)
    first = max(-found - slack, 0)
    last = min(master.size, export.size - found + slack) - size
    step = max(size // 2, (last - first) // MOST_WINDOWS, 1)
    moments: list[SoundMoment] = []
    shift = found
    for begin in range(first, max(last, first) + 1, step):
        moment = _moment(master, export, begin, size, shift)
        if moment is None:
            continue
        at = moment.master_s * speed
        moments.append(
            replace(moment, master_s=round(at, 3), picture_s=round(clock.late_at(at, speed), 4))
        )
        if moment.likeness >= ALIKE:
            shift = round(moment.late_s * LEVELS_A_SECOND)
    return tuple(moments)


def likeness_of(moments: tuple[SoundMoment, ...]) -> float:
    """Return how alike most moments are; -1 for none."""
    return float(np.median([moment.likeness for moment in moments])) if moments else -1.0


def _whole_shift(master: Line, export: Line, expected_s: float) -> int | None:
    """Return by how many steps all of the export's sound is later; None where levels don't tell."""
    if min(master.size, export.size) < LEVELS_A_SECOND // 2:
        return None
    if min(np.std(master), np.std(export)) < LEAST_MOVING_DB:
        return None
    table = correlated(export - export.mean(), master - master.mean())
    zero = master.size - 1
    near = round(expected_s * LEVELS_A_SECOND)
    best = int(np.argmax(table)) - zero
    reach = round(NEAR_S * LEVELS_A_SECOND)
    low, high = max(zero + near - reach, 0), min(zero + near + reach + 1, table.size)
    if low >= high:
        return best
    close = low + int(np.argmax(table[low:high])) - zero
    return (
        best
        if _likeness_at(master, export, best) > _likeness_at(master, export, close) + CLEARLY_BETTER
        else close
    )


def _likeness_at(master: Line, export: Line, shift: int) -> float:
    """Return how alike two lines are where they overlap, the export's being so much later."""
    low, high = max(0, -shift), min(master.size, export.size - shift)
    if high - low < LEVELS_A_SECOND // 2:
        return -1.0
    return _correlation(master[low:high], export[low + shift : high + shift])


def _correlation(one: Line, other: Line) -> float:
    spread = float(np.std(one) * np.std(other))
    if spread < LEAST_MOVING_DB**2 / 4:
        return 0.0
    return float(np.mean((one - one.mean()) * (other - other.mean())) / spread)


def _moment(master: Line, export: Line, begin: int, size: int, shift: int) -> SoundMoment | None:
    """Return where one stretch is heard, looked for round a shift; None where it hardly moves."""
    stretch = master[begin : begin + size]
    if np.std(stretch) < LEAST_MOVING_DB:
        return None
    reach = round(FOLLOWED_S * LEVELS_A_SECOND)
    low = max(begin + shift - reach, 0)
    field = export[low : begin + shift + reach + size]
    if field.size < size:
        return None
    table = _normalised(field, stretch)
    best = int(np.argmax(table))
    here = begin + shift - low
    # Ticks are alike: of places as good as each other the one nearest to the last is meant.
    good = np.flatnonzero(table >= table[best] - CLEARLY_BETTER / 2)
    at = int(good[np.argmin(np.abs(good - here))])
    at = _summit(table, at)
    if np.mean(field[at : at + size] <= FLOOR_DB) > MOST_SILENT > np.mean(stretch <= FLOOR_DB):
        return None  # what dropped out is told as that, and tells no moment
    late = low + at + _between(table, at) - begin
    return SoundMoment(
        master_s=round((begin + size / 2) / LEVELS_A_SECOND, 3),
        late_s=round(late / LEVELS_A_SECOND, 4),
        picture_s=0.0,
        likeness=round(float(table[at]), 3),
    )


def _normalised(field: Line, stretch: Line) -> npt.NDArray[np.float64]:
    """Return the correlation of a stretch with every place of a longer field."""
    size = stretch.size
    plain = (stretch - stretch.mean()).astype(np.float64)
    sums = np.cumsum(np.concatenate([[0.0], field.astype(np.float64)]))
    squares = np.cumsum(np.concatenate([[0.0], field.astype(np.float64) ** 2]))
    mean = (sums[size:] - sums[:-size]) / size
    spread = np.sqrt(np.maximum((squares[size:] - squares[:-size]) / size - mean**2, 0))
    table = correlated_inside(field.astype(np.float64), plain) / size
    flat = spread < LEAST_MOVING_DB / 2
    return np.where(flat, 0.0, table / np.maximum(spread * stretch.std(), 1e-9))


def _summit(table: npt.NDArray[np.float64], at: int) -> int:
    """Return the top of the hill that a place lies on."""
    while at + 1 < table.size and table[at + 1] > table[at]:
        at += 1
    while at > 0 and table[at - 1] > table[at]:
        at -= 1
    return at


def _between(table: npt.NDArray[np.float64], at: int) -> float:
    """Return by how much of a step a summit lies beside a place: a parabola through three."""
    if not 0 < at < table.size - 1:
        return 0.0
    before, here, after = table[at - 1 : at + 2]
    bend = before - 2 * here + after
    return float(0.5 * (before - after) / bend) if bend < 0 else 0.0
