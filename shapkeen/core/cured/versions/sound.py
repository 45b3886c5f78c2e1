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

from ...measured.sound.loudness import SILENT_LUFS, measure_loudness
from ...measured.sound.reading import Part, has_sound, picture_start, read_sound
from .encoders import SOUND_LIBRARIES
from .order import Order

Packet: TypeAlias = Any
"""A coded packet of the libraries: their own types leave its kind open."""
LAYOUTS = {1: "mono", 2: "stereo"}
LOSSY, OVERSHOOT_DB = frozenset({"aac", "opus"}), 0.5
"""By so much coding lifts peaks (common practice, no source)."""
MOST_PEAK_DBTP = -1.0
"""Above it coding overshoots full scale. Source: EBU R 128-2020, maximum permitted true peak."""


@dataclass(frozen=True, slots=True)
class CodedSound:
    """Packets of the version's sound, in order; their times count from the version's start."""

    packets: Iterator[Packet]


@dataclass(frozen=True, slots=True)
class Level:
    """By how much sound is made louder; note: why by no more, empty where it is as wanted."""

    gain_db: float = 0.0
    note: str = ""

    @property
    def factor(self) -> float:
        """Return what samples are multiplied by."""
        return float(10 ** (self.gain_db / 20))


def part_of(order: Order) -> Part:
    """Return the stretch of the master's sound, in seconds after its first frame."""
    return Fraction(order.first) / order.rate, Fraction(order.end) / order.rate


def level_of(master: Path, order: Order) -> Level:
    """Return the level that brings the sound to the recipe's loudness.

    One factor for all of it: nothing is squeezed. Where the true peak would go above
    MOST_PEAK_DBTP it is less, and the note says so.
    """
    target = order.recipe.sound.loudness_lufs
    if target is None or not has_sound(master):
        return Level()
    found = measure_loudness(master, part_of(order), _layout(order))
    if found.integrated_lufs <= SILENT_LUFS:
        return Level(note="The sound is silent: no gain brings it to a loudness.")
    most_peak = MOST_PEAK_DBTP - (OVERSHOOT_DB if order.recipe.sound.codec in LOSSY else 0)
    wanted, most = target - found.integrated_lufs, most_peak - found.true_peak_dbtp
    if wanted <= most:
        return Level(wanted)
    text = (
        f"The sound is {found.integrated_lufs + most:.1f} LUFS, not {target:g}: louder, its true "
        f"peak would pass {most_peak:g} dBTP. Bring its peaks down in the mix."
    )
    return Level(most, text)


@contextmanager
def open_sound(master: Path, order: Order, out: Any, level: Level) -> Iterator[CodedSound | None]:
    """Give the sound for a file that is being written; None where there is none, or none wanted."""
    codec = order.recipe.sound.codec
    if codec == "none" or not has_sound(master):
        yield None
        return
    with av.open(str(master), metadata_errors="replace") as container:
        source = container.streams.audio[0]
        if codec == "copy":
            stream = out.add_stream_from_template(source)
            yield CodedSound(_copied(container, source, stream, part_of(order)))
            return
        form = SoundForm(
            _layout(order) or source.layout.name, order.recipe.sound.sample_rate or source.rate
        )
        stream = _coded_stream(out, form, order)
        blocks = read_sound(container, part_of(order), rate=form.rate_hz, layout=form.layout)
        yield CodedSound(_coded(blocks, form, stream, level.factor))


@dataclass(frozen=True, slots=True)
class SoundForm:
    """What samples are mixed down and resampled to."""

    layout: str
    rate_hz: int


def _layout(order: Order) -> str | None:
    """Return the layout that channels are mixed down to; None for the master's own."""
    channels = order.recipe.sound.channels
    return LAYOUTS[channels] if channels else None


def _copied(container: Any, source: Any, stream: Any, part: Part) -> Iterator[Packet]:
    """Yield the packets whose middle lies in a part: whole ones, so half of one may be over."""
    zero = picture_start(container)
    start, end = part[0] + zero, part[1] + zero
    tick = source.time_base
    if part[0] > 0:
        container.seek(int(start / tick), stream=source, backward=True)
    for packet in container.demux(source):
        if packet.pts is None or not packet.size:
            continue
        middle = (packet.pts + Fraction(packet.duration or 0) / 2) * tick
        if middle >= end:
            return
        if middle >= start:
            packet.pts -= round(start / tick)
            packet.dts = packet.pts
            packet.stream = stream
            yield packet


def _coded_stream(out: Any, form: SoundForm, order: Order) -> Any:
    sound = order.recipe.sound
    stream = out.add_stream(SOUND_LIBRARIES[sound.codec], rate=form.rate_hz)
    stream.codec_context.layout = form.layout
    if sound.codec != "pcm":
        stream.bit_rate = sound.bit_rate
    return stream


def _coded(blocks: Iterator[Any], form: SoundForm, stream: Any, factor: float) -> Iterator[Packet]:
    """Yield coded packets of blocks of samples, each sample times a factor."""
    layout, rate, at = form.layout, form.rate_hz, 0
    for block in blocks:
        louder = np.ascontiguousarray(block * np.float32(factor))
        made = AudioFrame.from_ndarray(louder, format="fltp", layout=layout)
        made.rate, made.pts, made.time_base = rate, at, Fraction(1, rate)
        at += block.shape[1]
        yield from stream.encode(made)
    yield from stream.encode(None)
