"""The sound of a version: the master's first track, copied or coded, cut to the marks."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, TypeAlias

import av
import numpy as np
from av.audio.frame import AudioFrame

from .encoders import SOUND_LIBRARIES
from .order import Order

Packet: TypeAlias = Any
"""A coded packet of the libraries: their own types leave its kind open."""


@dataclass(frozen=True, slots=True)
class SoundTrack:
    """Packets of the version's sound, in order; their times count from the version's start."""

    packets: Iterator[Packet]


@contextmanager
def open_sound(master: Path, order: Order, out: Any) -> Iterator[SoundTrack | None]:
    """Give the sound for a file that is being written; None where there is none, or none wanted."""
    sound = order.recipe.sound
    if sound.codec == "none":
        yield None
        return
    with av.open(str(master), metadata_errors="replace") as container:
        if not container.streams.audio:
            yield None
            return
        source = container.streams.audio[0]
        start, end = (Fraction(mark) / order.rate for mark in (order.first, order.end))
        zero = _beginning(container)
        if sound.codec == "copy":
            stream = out.add_stream_from_template(source)
            yield SoundTrack(_copied(container, source, stream, (start + zero, end + zero)))
            return
        stream = _coded_stream(out, source, order)
        yield SoundTrack(_coded(container, source, stream, (start + zero, end + zero), 1.0))


def _beginning(container: Any) -> Fraction:
    """Return the time of the picture's first frame: what the version's sound counts from."""
    picture = container.streams.video[0]
    return Fraction(picture.start_time or 0) * (picture.time_base or Fraction(1))


def _copied(
    container: Any, source: Any, stream: Any, part: tuple[Fraction, Fraction]
) -> Iterator[Packet]:
    """Yield the packets whose middle lies in a part: whole ones, so half of one may be over."""
    start, end = part
    tick = source.time_base
    if start > 0:
        container.seek(int(start / tick), stream=source, backward=True)
    for packet in container.demux(source):
        if packet.pts is None or not packet.size:
            continue
        middle = (packet.pts + Fraction(packet.duration or 0) / 2) * tick
        if middle >= end:
            return
        if middle >= start:
            by = round(start / tick)
            packet.pts -= by
            packet.dts = packet.pts
            packet.stream = stream
            yield packet


def _coded_stream(out: Any, source: Any, order: Order) -> Any:
    sound = order.recipe.sound
    stream = out.add_stream(SOUND_LIBRARIES[sound.codec], rate=source.rate)
    stream.codec_context.layout = source.layout.name
    if sound.codec != "pcm":
        stream.bit_rate = sound.bit_rate
    return stream


def _coded(
    container: Any, source: Any, stream: Any, part: tuple[Fraction, Fraction], factor: float
) -> Iterator[Packet]:
    """Yield coded packets of a part, its samples times a factor; where it has none, of silence."""
    layout, rate = source.layout, source.rate
    total = round((part[1] - part[0]) * rate)
    at = 0
    for block in _blocks(container, source, part, total):
        made = AudioFrame.from_ndarray(
            np.ascontiguousarray(block * np.float32(factor)), format="fltp", layout=layout.name
        )
        made.rate, made.pts, made.time_base = rate, at, Fraction(1, rate)
        at += block.shape[1]
        yield from stream.encode(made)
    yield from stream.encode(None)


def _blocks(
    container: Any, source: Any, part: tuple[Fraction, Fraction], total: int
) -> Iterator[Any]:
    """Yield float samples (channel, time) that fill a part exactly."""
    resampler = av.AudioResampler(format="fltp", layout=source.layout.name, rate=source.rate)
    channels, due = len(source.layout.channels), 0
    if part[0] > 0:
        container.seek(int((part[0] - 1) / source.time_base), stream=source, backward=True)
    for frame in container.decode(source):
        for piece in resampler.resample(frame):
            assert piece.pts is not None and piece.time_base is not None  # noqa: S101  (decoded)
            samples = piece.to_ndarray()
            begins = round((piece.pts * piece.time_base - part[0]) * source.rate)
            if begins > due:  # a hole: silence, so that what follows stays in step
                yield np.zeros((channels, min(begins, total) - due), np.float32)
                due = min(begins, total)
            samples = samples[:, max(due - begins, 0) : max(total - begins, 0)]
            if samples.shape[1]:
                yield samples
                due += samples.shape[1]
        if due >= total:
            return
    if due < total:
        yield np.zeros((channels, total - due), np.float32)
