"""Which of the master's channels are heard in which of the export's: least squares of samples."""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import numpy.typing as npt

from ..model.sound import SoundMix, SoundMoment
from .correlation import fast_length
from .finding import ALIKE
from .levels import FLOOR_DB, LEVELS_A_SECOND, Levels
from .reading import Samples, read_sound

STRETCHES, STRETCH_S = 4, 2.0
AROUND_S = 0.02
"""How far samples are looked for round the place that levels tell."""
ALIKE_SHARE = 0.02
"""Of the power of two channels the least part in which they must differ to be told apart."""
QUIET_DB = FLOOR_DB + 10
UNBENT = 0.5
"""Below this share of a stretch's peak nothing is held down by a limiter."""


@dataclass(frozen=True, slots=True)
class Pair:
    """The same stretch of both, sample by sample, (channel, time) each."""

    master: Samples
    export: Samples


def find_mix(
    paths: tuple[Path, Path], levels: Levels, moments: Sequence[SoundMoment], rate: int
) -> SoundMix | None:
    """Return how the export's channels are mixed of the master's; None where none are alike.

    paths: master, export. levels: the master's. rate: at which both are compared, samples a second.
    """
    pairs = [
        pair
        for moment in _loudest(levels, moments)
        if (pair := _pair_at(paths, moment, rate)) is not None
    ]
    if not pairs:
        return None
    master = np.concatenate([pair.master for pair in pairs], axis=1).astype(np.float64)
    export = np.concatenate([pair.export for pair in pairs], axis=1).astype(np.float64)
    gains = _gains(master, export)
    left = np.mean((export - gains @ master) ** 2, axis=1)
    power = np.mean(export**2, axis=1)
    unexplained = np.divide(left, power, out=np.zeros_like(left), where=power > 1e-10)
    return SoundMix(
        gains=tuple(tuple(round(float(gain), 3) for gain in row) for row in gains),
        unexplained=tuple(round(float(share), 3) for share in unexplained),
        alike=_are_alike(master),
        held_down_db=_held_down(master, export),
    )


def _loudest(levels: Levels, moments: Sequence[SoundMoment]) -> list[SoundMoment]:
    """Return the loudest moments that were surely found."""
    sure = [moment for moment in moments if moment.likeness >= ALIKE]

    def loudness(moment: SoundMoment) -> float:
        at, half = moment.master_s * LEVELS_A_SECOND, STRETCH_S * LEVELS_A_SECOND / 2
        stretch = levels[:, max(int(at - half), 0) : int(at + half)]
        return float(stretch.max()) if stretch.size else FLOOR_DB

    return sorted(sure, key=loudness, reverse=True)[:STRETCHES]


def _pair_at(paths: tuple[Path, Path], moment: SoundMoment, rate: int) -> Pair | None:
    """Return the stretch round a moment of both, laid over each other to the sample."""
    begin = max(moment.master_s - STRETCH_S / 2, 0.0, -moment.late_s)
    one = _samples(paths[0], begin, rate)
    other = _samples(paths[1], begin + moment.late_s, rate)
    size = min(one.shape[1], other.shape[1])
    one, other = one[:, :size], other[:, :size]
    if not one.any() or not other.any():
        return None
    later = _later(one, other, round(AROUND_S * rate))
    if later > 0:
        return Pair(one[:, : size - later], other[:, later:])
    return Pair(one[:, -later:], other[:, : size + later])


def _samples(path: Path, begin_s: float, rate: int) -> Samples:
    begin = Fraction(begin_s).limit_denominator(1_000_000)
    with av.open(str(path), metadata_errors="replace") as container:
        part = begin, begin + Fraction(STRETCH_S)
        return np.concatenate(list(read_sound(container, part, rate=rate)), axis=1)


def _later(one: Samples, other: Samples, most: int) -> int:
    """Return by how many samples the other is later, over whichever channels agree best."""
    size = fast_length(one.shape[1] + most)
    own, came = np.fft.rfft(one, size, axis=1), np.fft.rfft(other, size, axis=1)
    best, found = 0.0, 0
    for line in came:
        tables = np.abs(np.fft.irfft(line * np.conj(own), size, axis=1))
        # negative lags stand at the end of a circular correlation
        near = np.concatenate([tables[:, -most:], tables[:, : most + 1]], axis=1)
        top = near.max(axis=0)
        if top.max() > best:
            best, found = float(top.max()), int(np.argmax(top)) - most
    return found


def _gains(
    master: npt.NDArray[np.float64], export: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    """Return the export's channels as mixes of the master's; silent ones of these give nothing."""
    quiet = 10 * np.log10(np.mean(master**2, axis=1) + 1e-12) < QUIET_DB
    heard = np.flatnonzero(~quiet)
    gains = np.zeros((export.shape[0], master.shape[0]))
    if heard.size:
        gains[:, heard] = np.linalg.lstsq(master[heard].T, export.T, rcond=1e-3)[0].T
    return gains


def _are_alike(master: npt.NDArray[np.float64]) -> bool:
    """Return whether some two sounding channels of the master differ too little to tell apart."""
    power = np.mean(master**2, axis=1)
    heard = np.flatnonzero(10 * np.log10(power + 1e-12) >= QUIET_DB)
    for at, one in enumerate(heard):
        for other in heard[at + 1 :]:
            apart = min(np.mean((master[one] - sign * master[other]) ** 2) for sign in (1.0, -1.0))
            if apart < ALIKE_SHARE * (power[one] + power[other]):
                return True
    return False


def _held_down(master: npt.NDArray[np.float64], export: npt.NDArray[np.float64]) -> float | None:
    """Return by how many decibels the loudest peak falls short of what quieter samples tell."""
    worst: float | None = None
    for line in export:
        gains = _gains_below(master, line)
        expected = gains @ master
        peak, came = float(np.abs(expected).max()), float(np.abs(line).max())
        if peak < 10 ** (QUIET_DB / 20) or came <= 0:
            continue
        short = 20 * float(np.log10(peak / came))
        worst = short if worst is None else max(worst, short)
    return None if worst is None else round(worst, 2)


def _gains_below(
    master: npt.NDArray[np.float64], line: npt.NDArray[np.float64]
) -> npt.NDArray[np.float64]:
    top = np.abs(line).max() * UNBENT
    below = np.abs(line) < top
    found: npt.NDArray[np.float64] = _gains(master[:, below], line[None, below])[0]
    return found
