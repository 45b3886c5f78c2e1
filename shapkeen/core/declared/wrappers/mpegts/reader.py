"""A whole transport stream: its tables, and the first pictures at which decoding can start."""

from dataclasses import dataclass, field, replace
from itertools import pairwise

from ...coded import CodedHeaders, HeaderUnit
from ...model import AudioTrack, Notice, Said, VideoTrack
from ...outline import FieldValue, Part, as_fields
from ...sound_heads import SoundHead, read_adts
from ...window import Window
from ..decoder import read_other
from ..model import WrapperReading
from .packets import CLOCK_HZ, CLOCK_WRAP, Packets, packet_form, pes_time_and_body, read_packets
from .tables import (
    HEVC,
    HEVC_DESCRIPTOR,
    REGISTRATION,
    SOUND_CODECS,
    VIDEO,
    VIDEO_DESCRIPTOR,
    Elementary,
    find_streams,
    language_in,
    state_descriptors,
)

FRONT_BYTES, BACK_BYTES = 1024 * 1024, 512 * 1024
"""How much is looked through for tables and random-access points, and for the last time."""
HEAD_BYTES = 64 * 1024
WANTED_PICTURES = 2
PAYLOAD_BYTES = 184
ADTS_TYPE, SOUND_HEAD_BYTES = 0x0F, 1024
LAYOUTS = {VIDEO_DESCRIPTOR: VIDEO, HEVC_DESCRIPTOR: HEVC}


def starts_mpegts(head: bytes) -> bool:
    """Return whether the first bytes start a transport stream; wants three packets or more."""
    return packet_form(head) is not None


@dataclass(slots=True)
class _Follow:
    """What goes by of the picture's stream: times, packets, and first pictures."""

    pid: int
    times: list[int] = field(default_factory=list)
    packets: int = 0
    pictures: list[HeaderUnit] = field(default_factory=list)

    def take(self, packets: Packets, where: str) -> None:
        self.packets += packets.pids.count(self.pid)
        for place in packets.starting(self.pid):
            packet = packets.at(place)
            found = pes_time_and_body(packet.payload)
            if found is None:
                continue
            if found[0] is not None:
                self.times.append(found[0])
            wanted = len(self.pictures) < WANTED_PICTURES
            if wanted and (packet.random_access or not self.pictures):
                unit = pes_time_and_body(packets.unit_at(place, HEAD_BYTES))
                if unit is not None:
                    self.pictures.append(HeaderUnit(unit[1], f"picture {where}"))


def read_mpegts(window: Window) -> WrapperReading:
    """Return what tables and descriptors say, and the coded headers of the first pictures.

    Raises UnreadableFileError where no picture stream is found.
    """
    front = _front(window)
    streams = find_streams(front)
    pictures = [s for s in streams if s.codec]
    if not pictures:  # types and registrations are many: the decoder knows more of them
        return replace(read_other(window), wrapper="mpegts")
    chosen = pictures[0]
    follow = _followed(window, front, chosen.pid)
    said = {
        trait: Said(value=value, where=f"program map/{name}")
        for trait, value, name in state_descriptors(chosen.descriptors)
    }
    code = f"stream type {chosen.stream_type:#04x}"
    return WrapperReading(
        wrapper="mpegts",
        index_first=None,
        video=_video(window, front.size, follow, chosen.codec or "", code),
        audio=tuple(_sound(front, stream) for stream in streams if stream.is_sound),
        witness=said,
        coded=CodedHeaders(
            codec=chosen.codec or "", length_bytes=0, config=(), samples=tuple(follow.pictures)
        ),
        notices=tuple(
            Notice("other-picture", "Another picture stream; it is not described.", f"PID {s.pid}")
            for s in pictures[1:]
        ),
    )


def _sound(front: Packets, stream: Elementary) -> AudioTrack:
    """Return a sound stream in short: no table says its rate, its first frame does."""
    head = SoundHead()
    for place in front.starting(stream.pid):
        unit = pes_time_and_body(front.unit_at(place, SOUND_HEAD_BYTES))
        if unit is not None and stream.stream_type == ADTS_TYPE:
            head = read_adts(unit[1])
        break
    return AudioTrack(
        codec=SOUND_CODECS[stream.stream_type],
        sample_rate_hz=head.sample_rate_hz,
        channels=head.channels,
        language=language_in(stream.descriptors),
    )


def _front(window: Window) -> Packets:
    form = packet_form(window.read(0, min(window.size, 2048)))
    assert form is not None  # noqa: S101  (told by starts_mpegts)
    return read_packets(window, 0, FRONT_BYTES, form)


def _followed(window: Window, front: Packets, pid: int) -> _Follow:
    follow, size = _Follow(pid), front.size
    follow.take(front, "near the start")
    if window.size > FRONT_BYTES:
        whole = window.size // size
        start = max(whole - BACK_BYTES // size, FRONT_BYTES // size) * size
        follow.take(read_packets(window, start, BACK_BYTES, (size, front.offset)), "near the end")
    return follow


def _video(window: Window, size: int, follow: _Follow, codec: str, code: str) -> VideoTrack:
    times = _unwrapped(follow.times)
    step = _step(times)
    duration = (max(times) - min(times) + step) / CLOCK_HZ if step else None
    rate = None
    if duration:
        # The picture's share of what was looked through stands for the whole file.
        seen = min(window.size, FRONT_BYTES + BACK_BYTES) / size
        payload = follow.packets / seen * window.size / size * PAYLOAD_BYTES
        rate = round(payload * 8 / duration)
    return VideoTrack(
        codec=codec,
        codec_tag=code,
        frame_count=round(duration * CLOCK_HZ / step) if duration and step else None,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=rate,
    )


def _unwrapped(times: list[int]) -> list[int]:
    """Return times that go on where the 33-bit clock starts over."""
    if not times:
        return []
    first = times[0]
    return [time + CLOCK_WRAP if time + CLOCK_WRAP // 2 < first else time for time in times]


def _step(times: list[int]) -> int | None:
    """Return the usual distance of two pictures in clock ticks, None where there are not two."""
    ordered = sorted(set(times))
    steps = sorted(b - a for a, b in pairwise(ordered))
    return steps[len(steps) // 2] if steps else None


def outline_mpegts(window: Window) -> tuple[Part, ...]:
    """Return the program's streams with their descriptors."""
    front = _front(window)
    packet = Part(
        name="packets",
        where="",
        start=0,
        size=window.size,
        fields=as_fields({"packet_size": front.size, "packets": window.size // front.size}),
    )
    return (packet, *(_outlined(stream) for stream in find_streams(front)))


def _outlined(stream: Elementary) -> Part:
    where = f"program map/PID {stream.pid}"
    inside = []
    for tag, data in stream.descriptors:
        layout = LAYOUTS.get(tag)
        values: dict[str, FieldValue] = {"descriptor_tag": tag}
        if layout is not None and len(data) >= layout.size_bytes:
            values |= dict(layout.read(data))
        elif tag == REGISTRATION:
            values["format_identifier"] = data[:4].decode("latin-1")
        name = layout.name if layout else f"descriptor {tag:#04x}"
        inside.append(
            Part(name=name, where=f"{where}/{name}", size=len(data), fields=as_fields(values))
        )
    values = {"stream_type": stream.stream_type, "pid": stream.pid}
    return Part(
        name="elementary stream",
        where=where,
        size=0,
        fields=as_fields(values),
        parts=tuple(inside),
    )
