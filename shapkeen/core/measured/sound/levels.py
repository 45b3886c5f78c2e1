"""A track's levels over time: what it is found again by, and where it is silent."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import numpy.typing as npt

from ..model.sound import SoundTrack
from .loudness import Meter
from .reading import Samples, Stretch, read_sound

LEVELS_A_SECOND = 200
FLOOR_DB = -70.0
"""Below it is silence: of 16 bits, the four lowest are left."""
MOST_DRAWN = 600
"""Points of the drawn loudness."""

Levels = npt.NDArray[np.float32]
"""(channel, time) in dBFS, LEVELS_A_SECOND of them a second, FLOOR_DB or more."""


@dataclass(frozen=True, slots=True)
class Heard:
    """A track that was listened to once: what it holds, and its levels."""

    track: SoundTrack
    levels: Levels


def listen_to(path: Path, part: Stretch) -> Heard | None:
    """Return what a file's first sound track holds in a part; None without one.

    Raises av.FFmpegError or ValueError where it cannot be decoded.
    """
    with av.open(str(path), metadata_errors="replace") as container:
        if not container.streams.audio:
            return None
        source = container.streams.audio[0]
        if not source.rate or not source.layout.channels:
            raise ValueError("nothing tells how often it is sampled, or its channels")
        ear = _Ear(source.rate, source.layout.name, len(source.layout.channels))
        for block in _gathered(read_sound(container, part), source.rate // 2):
            ear.hear(block)
    return ear.result()


def _gathered(blocks: Iterator[Samples], least: int) -> Iterator[Samples]:
    """Yield blocks put together to so many samples: decoders give a fiftieth of a second each."""
    held: list[Samples] = []
    count = 0
    for block in blocks:
        held.append(block)
        count += block.shape[1]
        if count >= least:
            yield np.concatenate(held, axis=1)
            held, count = [], 0
    if held:
        yield np.concatenate(held, axis=1)


class _Ear:
    """Takes blocks of samples, and keeps what has to be known of them."""

    def __init__(self, rate: int, layout: str, channels: int) -> None:
        self._rate, self._layout, self._channels = rate, layout, channels
        self._heard, self._peak = 0, 0.0
        self._left: Samples = np.zeros((channels, 0), np.float32)
        self._levels: list[Levels] = []
        self._meter = _meter(rate, layout)

    def hear(self, block: Samples) -> None:
        if block.shape[1] == 0:
            return
        if self._meter:
            self._meter.add(block)
        self._peak = max(self._peak, float(np.abs(block).max()))
        joined = np.concatenate([self._left, block], axis=1)
        begin = self._heard - self._left.shape[1]
        self._heard += block.shape[1]
        first = -(-begin * LEVELS_A_SECOND // self._rate)
        last = self._heard * LEVELS_A_SECOND // self._rate
        # A step is rarely a whole number of samples: its bounds are rounded, never added up.
        bounds = [k * self._rate // LEVELS_A_SECOND - begin for k in range(first, last + 1)]
        if len(bounds) > 1:
            self._levels.append(_levels(joined, np.array(bounds)))
            self._left = joined[:, bounds[-1] :]
        else:
            self._left = joined

    def result(self) -> Heard:
        levels = np.concatenate([np.zeros((self._channels, 0), np.float32), *self._levels], axis=1)
        silent = float(np.mean(levels.max(axis=0) <= FLOOR_DB)) if levels.size else 1.0
        told = self._meter.result() if self._meter else None
        sounds = told is not None and np.isfinite(told.true_peak_dbtp)
        track = SoundTrack(
            channels=self._channels,
            sample_rate_hz=self._rate,
            layout=self._layout,
            seconds=round(self._heard / self._rate, 4),
            silent=round(silent, 4),
            peak_dbfs=round(20 * float(np.log10(self._peak)), 2) if self._peak > 0 else None,
            integrated_lufs=round(told.integrated_lufs, 1) if told and sounds else None,
            range_lu=round(told.range_lu, 1) if told and sounds else None,
            true_peak_dbtp=round(told.true_peak_dbtp, 1) if told and sounds else None,
            series=_thinned(told.series) if told else (),
        )
        return Heard(track, levels)


def _meter(rate: int, layout: str) -> Meter | None:
    """Return a meter, None for channels that the standard does not weigh."""
    try:
        return Meter(rate, layout)
    except (av.FFmpegError, ValueError):
        return None


def _levels(samples: Samples, bounds: npt.NDArray[np.int64]) -> Levels:
    power = np.add.reduceat(np.square(samples[:, : bounds[-1]]), bounds[:-1], axis=1)
    mean = power / np.diff(bounds)
    levels: Levels = np.maximum(10 * np.log10(mean + 1e-12), FLOOR_DB).astype(np.float32)
    return levels


def _thinned(series: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
    """Return a loudness for drawing: of each stretch the loudest moment."""
    step = -(-len(series) // MOST_DRAWN) or 1
    stretches = [series[at : at + step] for at in range(0, len(series), step)]
    loudest = [max(stretch, key=lambda point: point[1]) for stretch in stretches]
    return tuple((round(at, 2), round(max(lufs, FLOOR_DB), 1)) for at, lufs in loudest)


def part_until(seconds: float | None) -> Stretch:
    """Return the part from the picture's first frame on: so many seconds, or all."""
    return Fraction(0), None if seconds is None else Fraction(seconds).limit_denominator(1000)
