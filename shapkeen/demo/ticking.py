"""The sound of the demo's gear train: ticks, strikes of a bell, and the room; and acts on it."""

from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from typing import Any

import av
import numpy as np
import numpy.typing as npt
from av.audio.frame import AudioFrame

RATE_HZ = 48_000
Wave = npt.NDArray[np.float32]
"""(channel, time), 1.0 = full scale."""
GEARS = (
    # teeth a second, pitch in Hz, level, place from left 0 to right 1
    (5.3, 2600.0, 0.30, 0.15),
    (3.7, 1900.0, 0.26, 0.80),
    (1.9, 3400.0, 0.22, 0.45),
)
STRIKES = ((0.9, 523.0, 0.25), (3.1, 659.0, 0.7), (4.4, 523.0, 0.4), (6.3, 784.0, 0.8))
"""Second, pitch, and place of each stroke of the bell."""


def ticking(seconds: float) -> Wave:
    """Return two channels of a gear train that ticks; a tooth is worn, a bell strikes."""
    count = round(seconds * RATE_HZ)
    made = np.zeros((2, count), np.float64)
    chance = np.random.default_rng(12)
    for a_second, pitch, level, place in GEARS:
        for number in range(int(seconds * a_second)):
            worn = 0.35 if number % 7 == 3 else 1.0
            at = number / a_second + chance.uniform(0, 0.012)
            _add(made, at, _ring(pitch, 0.05, 90.0) * level * worn, place)
    for at, pitch, place in STRIKES:
        if at < seconds:
            _add(made, at, (_ring(pitch, 1.2, 3.5) + _ring(pitch * 2.76, 1.2, 8.0) / 3) / 3, place)
    room = np.stack([np.convolve(chance.standard_normal(count), np.ones(64) / 64, "same")] * 2)
    return (made + room * 0.004).astype(np.float32)


def _ring(pitch: float, seconds: float, damping: float) -> npt.NDArray[np.float64]:
    at = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    rise = np.minimum(at / 0.001, 1.0)
    made: npt.NDArray[np.float64] = np.sin(2 * np.pi * pitch * at) * np.exp(-damping * at) * rise
    return made


def _add(made: npt.NDArray[np.float64], second: float, wave: Any, place: float) -> None:
    at = round(second * RATE_HZ)
    wave = wave[: max(made.shape[1] - at, 0)]
    for channel, share in enumerate((np.sqrt(1 - place), np.sqrt(place))):
        made[channel, at : at + len(wave)] += share * wave


def _late(wave: Wave) -> Wave:
    """Put the sound three frames of 24 behind its picture."""
    return np.concatenate([np.zeros((2, RATE_HZ // 8), np.float32), wave], axis=1)


def _muted(wave: Wave) -> Wave:
    """Take out the bell's second stroke, as a muted clip does."""
    made = wave.copy()
    made[:, 3 * RATE_HZ : round(4.2 * RATE_HZ)] = 0
    return made


SOUND_CHANGES: Mapping[str, Callable[[Wave], Wave]] = {
    "late": _late,
    "muted for a moment": _muted,
    "exchanged channels": lambda wave: wave[::-1],
    "far too loud": lambda wave: np.clip(wave * 4.0, -1.0, 1.0),
}


def coded(stream: Any, wave: Wave) -> Iterator[Any]:
    """Yield coded packets of a wave for a file's sound stream."""
    for at in range(0, wave.shape[1], RATE_HZ):
        part = np.ascontiguousarray(wave[:, at : at + RATE_HZ])
        frame = AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
        frame.rate, frame.pts, frame.time_base = RATE_HZ, at, Fraction(1, RATE_HZ)
        yield from stream.encode(frame)
    yield from stream.encode(None)


def add_stream(container: Any, *, pcm: bool) -> Any:
    """Return a new stereo stream of a file that is being written."""
    stream: Any = container.add_stream("pcm_s16le" if pcm else "aac", rate=RATE_HZ)
    stream.codec_context.layout = av.AudioLayout("stereo").name
    if not pcm:
        stream.bit_rate = 160_000
    return stream
