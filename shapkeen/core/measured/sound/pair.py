"""The sound of a pair: both tracks listened to once, and the one found again in the other."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

from ..model.sound import SoundFindings, SoundMoment
from .finding import ALIKE, PictureClock, find_moments, likeness_of, line_of
from .levels import FLOOR_DB, LEVELS_A_SECOND, Heard, Levels, listen_to, part_until
from .mixing import find_mix

SOUNDING_DB = -50.0
SHORTEST_GAP_S = 0.2
SURELY_DB = 0.1
CLEAR = 0.9
"""Sound that plays as the master's is more alike than this, however it was coded."""
MISTAKEN = (25 / 24, 24 / 25, 1001 / 1000, 1000 / 1001)
"""Speeds of rates that are taken for one another: of film and television (common practice)."""
BETTER_SPEED = 0.1
"""By so much more alike all must be at the picture's speed than at its own."""


def find_sound(
    master: Path, export: Path, clock: PictureClock, *, most_s: float | None = None
) -> SoundFindings | None:
    """Return what the sound of a pair shows; None where neither has any.

    clock: when the picture is shown. most_s: seconds to listen to, None for all. What cannot be
    decoded is a finding, not an error.
    """
    (own, fault), (came, other) = (_listen(path, most_s) for path in (master, export))
    if not (own or came or fault or other):
        return None
    heard = [one.track.seconds for one in (own, came) if one]
    found = SoundFindings(
        master=own.track if own else None,
        export=came.track if came else None,
        faults=(fault, other),
        whole=most_s is None or max(heard, default=0.0) < most_s,
    )
    if own is None or came is None:
        return found
    speed, moments = _best_speed(own, came, clock)
    mix = None
    if speed == 1:
        mix = find_mix((master, export), own.levels, moments, own.track.sample_rate_hz)
    gaps = _gaps(own.levels, came.levels, speed, moments)
    return replace(found, speed=speed, moments=moments, mix=mix, gaps=gaps)


def _listen(path: Path, most_s: float | None) -> tuple[Heard | None, str]:
    try:
        return listen_to(path, part_until(most_s)), ""
    except (av.FFmpegError, ValueError, EOFError) as error:
        return None, str(getattr(error, "strerror", None) or error)


def _best_speed(
    own: Heard, came: Heard, clock: PictureClock
) -> tuple[float, tuple[SoundMoment, ...]]:
    """Return how fast the master's sound plays, and where: at its own speed, or another one."""
    line, export = line_of(own.levels), line_of(came.levels)
    best, moments = 1.0, find_moments(line, export, clock)
    others = [clock.speed] if clock.speed != 1 else []
    if likeness_of(moments) < CLEAR:
        others += [speed for speed in MISTAKEN if speed != clock.speed]
    for speed in others:
        found = find_moments(line, export, clock, speed)
        if likeness_of(found) > likeness_of(moments) + BETTER_SPEED:
            best, moments = speed, found
    return best, moments


def _gaps(
    own: Levels, came: Levels, speed: float, moments: Sequence[SoundMoment]
) -> tuple[tuple[float, float], ...]:
    """Return where the master sounds and the export is silent, in the master's seconds.

    Without a moment found, the two are held against each other as they stand.
    """
    line, export = line_of(own), line_of(came)
    sure = [moment for moment in moments if moment.likeness >= ALIKE]
    times = np.arange(line.size) / LEVELS_A_SECOND
    late = np.zeros(line.size)
    if sure:
        late = np.interp(times, [one.master_s for one in sure], [one.late_s for one in sure])
    at = np.round((times / speed + late) * LEVELS_A_SECOND).astype(int)
    there = (at >= 0) & (at < export.size)
    level = np.where(
        there,
        export[np.clip(at, 0, max(export.size - 1, 0))] if export.size else FLOOR_DB,
        FLOOR_DB,
    )
    silent = level <= FLOOR_DB + SURELY_DB
    edges = np.flatnonzero(np.diff(np.concatenate([[0], silent.astype(int), [0]])))
    gaps: list[tuple[float, float]] = []
    for begin, end in zip(edges[::2], edges[1::2], strict=True):
        sounding = np.flatnonzero(line[begin:end] > SOUNDING_DB)
        if sounding.size < SHORTEST_GAP_S * LEVELS_A_SECOND:
            continue
        start, stop = (
            round(float((begin + at) / LEVELS_A_SECOND), 2)
            for at in (sounding[0], sounding[-1] + 1)
        )
        gaps.append((start, stop))
    return tuple(gaps)
