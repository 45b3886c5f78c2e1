"""Spans joined to one file: packets as they were coded, counted on, with the sound beside them."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from ...errors import InternalError
from .encoders import FORMATS
from .order import Order
from .sound import CodedSound, Level, Packet, open_sound
from .spans import Span


@dataclass(frozen=True, slots=True)
class _Coded:
    """One span's packets in coding order: each one's frame within the span."""

    path: Path
    span: Span
    shown: tuple[int, ...]

    @property
    def delay(self) -> int:
        """Return by how many frames decoding runs ahead of showing."""
        return max((at - frame for at, frame in enumerate(self.shown)), default=0)


def join_spans(
    parts: Sequence[tuple[Span, Path]], order: Order, master: Path, goal: Path, level: Level
) -> None:
    """Write the file of these spans, in order, and of the master's sound as the recipe has it.

    Raises InternalError where a span lacks a frame, or was coded with other headers.
    """
    coded = [_read(span, path, order.rate) for span, path in parts]
    delay = max(one.delay for one in coded)
    with (
        av.open(str(parts[0][1])) as first,
        av.open(
            str(goal), "w", format=FORMATS[order.recipe.wrapper], options=_wanted(order)
        ) as out,
    ):
        stream = out.add_stream_from_template(first.streams.video[0], opaque=True)
        stream.time_base, stream.codec_context.framerate = 1 / order.rate, order.rate
        if order.encoder.tag and order.recipe.wrapper in ("mp4", "mov"):
            stream.codec_context.codec_tag = order.encoder.tag
        head = first.streams.video[0].codec_context.extradata
        with open_sound(master, order, out, level) as sound:
            for packet in _interleaved(_video(coded, delay, order, stream, head), sound):
                out.mux(packet)


def _wanted(order: Order) -> dict[str, str]:
    # The fields for colours are asked for by name: some multiplexers write none of their own.
    if order.recipe.wrapper not in ("mp4", "mov"):
        return {}
    more = "+frag_keyframe+empty_moov+default_base_moof" if order.recipe.fragments else ""
    return {"movflags": f"+write_colr{more}"}


def _read(span: Span, path: Path, rate: Fraction) -> _Coded:
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        # Matroska's times are whole milliseconds, which frames are told by all the same.
        tick = (stream.time_base or Fraction(1, 1000)) * rate
        shown = [
            round(packet.pts * tick)
            for packet in container.demux(stream)
            if packet.size and packet.pts is not None
        ]
    if sorted(shown) != list(range(span.frames)):
        raise InternalError(
            f"A span of {span.frames} frames came out with {len(shown)}: nothing was joined. Make "
            "the version again; report this if it comes back.",
            code="span-broken",
            where=path.name,
        )
    return _Coded(path, span, tuple(shown))


def _video(
    coded: Iterable[_Coded], delay: int, order: Order, stream: Any, head: bytes | None
) -> Iterator[Packet]:
    """Yield every span's packets with the times of the whole."""
    for one in coded:
        with av.open(str(one.path)) as container:
            source = container.streams.video[0]
            if source.codec_context.extradata != head:
                raise InternalError(
                    "Two spans were coded with other headers, so they cannot be joined. Make the "
                    "version again from its beginning.",
                    code="span-unlike",
                    where=one.path.name,
                )
            packets = (packet for packet in container.demux(source) if packet.size)
            for at, (packet, shown) in enumerate(zip(packets, one.shown, strict=True)):
                packet.stream = stream
                packet.time_base = 1 / order.rate
                packet.pts = one.span.first + shown
                packet.dts = one.span.first + at - delay
                packet.duration = 1
                yield packet


def _interleaved(video: Iterator[Packet], sound: CodedSound | None) -> Iterator[Packet]:
    """Yield pictures, and before each the sound up to its time."""
    if sound is None:
        yield from video
        return
    due = next(sound.packets, None)
    for packet in video:
        while due is not None and due.dts * due.time_base <= packet.dts * packet.time_base:
            yield due
            due = next(sound.packets, None)
        yield packet
    if due is not None:
        yield due
    yield from sound.packets
