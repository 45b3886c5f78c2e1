"""The tables that say what a transport stream holds. Source: ITU-T H.222.0 2.4.4 and 2.6."""

from collections.abc import Iterator
from dataclasses import dataclass

from ...layout import FieldError, Layout, fields
from ...model import TraitValue
from ...sampling import CHROMA_FORMATS
from .packets import H222, Packets, section_of

PAT_PID = 0
PROGRAM = Layout("program", fields(number=16, reserved=3, pid=13), source=f"{H222} 2.4.4.3")
PMT_HEAD = Layout(
    "program map",
    fields(reserved=3, clock_pid=13, reserved2=4, info_length=12),
    source=f"{H222} 2.4.4.8",
)
STREAM = Layout(
    "elementary stream",
    fields(stream_type=8, reserved=3, pid=13, reserved2=4, info_length=12),
    source=f"{H222} 2.4.4.8",
)
CODECS = {
    # stream_type → codec. Source: H.222.0 table 2-34; 0x06 is settled by its registration.
    0x01: "mpeg1video",
    0x02: "mpeg2",
    0x10: "mpeg4",
    0x1B: "h264",
    0x24: "h265",
}
REGISTERED = {b"AV01": "av1", b"VP09": "vp9", b"HEVC": "h265"}
SOUND_CODECS = {0x03: "mp2", 0x04: "mp2", 0x0F: "aac", 0x11: "aac", 0x81: "ac3", 0x87: "eac3"}
PRIVATE = 0x06
VIDEO_DESCRIPTOR, REGISTRATION, HEVC_DESCRIPTOR = 0x02, 0x05, 0x38
LANGUAGE_DESCRIPTOR = 0x0A
VIDEO = Layout(
    "video_stream_descriptor",
    fields(
        multiple_frame_rate=1,
        frame_rate_code=4,
        mpeg_1_only=1,
        constrained=1,
        still=1,
        profile_and_level=8,
        chroma_format=2,
        frame_rate_extension=1,
        reserved=5,
    ),
    source=f"{H222} 2.6.2",
)
HEVC = Layout(
    "HEVC_video_descriptor",
    fields(
        profile_space=2,
        tier_flag=1,
        profile_idc=5,
        compatibility=32,
        progressive_source=1,
        interlaced_source=1,
        non_packed=1,
        frame_only=1,
        reserved=44,
        level_idc=8,
    ),
    source=f"{H222} 2.6.95",
)
RATES = {
    1: (24000, 1001),
    2: (24, 1),
    3: (25, 1),
    4: (30000, 1001),
    5: (30, 1),
    6: (50, 1),
    7: (60000, 1001),
    8: (60, 1),
}
MAX_STREAMS = 64
MAX_SECTION_BYTES = 1024


@dataclass(frozen=True, slots=True)
class Elementary:
    """One elementary stream of the program: number, type, codec, and its descriptors."""

    pid: int
    stream_type: int
    codec: str | None
    is_sound: bool
    descriptors: tuple[tuple[int, bytes], ...]


def find_streams(packets: Packets) -> list[Elementary]:
    """Return the first program's streams; none where its tables are not among the packets."""
    for place in packets.starting(PAT_PID):
        map_pid = _map_pid(packets.unit_at(place, MAX_SECTION_BYTES))
        if map_pid is None:
            continue
        for start in packets.starting(map_pid):
            section = section_of(packets.unit_at(start, MAX_SECTION_BYTES))
            if section is not None:
                return list(_streams(section[1]))
        return []
    return []


def _map_pid(payload: bytes) -> int | None:
    section = section_of(payload)
    if section is None:
        return None
    body = section[1]
    for offset in range(0, len(body) - PROGRAM.size_bytes + 1, PROGRAM.size_bytes):
        program = PROGRAM.read(body, offset)
        if program["number"]:  # 0 is the network's own table
            return program["pid"]
    return None


def _streams(body: bytes) -> Iterator[Elementary]:
    try:
        offset = PMT_HEAD.size_bytes + PMT_HEAD.read(body)["info_length"]
        for _ in range(MAX_STREAMS):
            head = STREAM.read(body, offset)
            offset += STREAM.size_bytes
            inside = tuple(_descriptors(body[offset : offset + head["info_length"]]))
            offset += head["info_length"]
            kind = head["stream_type"]
            yield Elementary(
                pid=head["pid"],
                stream_type=kind,
                codec=_codec(kind, inside),
                is_sound=kind in SOUND_CODECS,
                descriptors=inside,
            )
    except FieldError:
        return


def _codec(kind: int, descriptors: tuple[tuple[int, bytes], ...]) -> str | None:
    if kind == PRIVATE:
        for tag, data in descriptors:
            if tag == REGISTRATION and data[:4] in REGISTERED:
                return REGISTERED[data[:4]]
    return CODECS.get(kind)


def _descriptors(data: bytes) -> Iterator[tuple[int, bytes]]:
    offset = 0
    while offset + 2 <= len(data):
        size = data[offset + 1]
        yield data[offset], data[offset + 2 : offset + 2 + size]
        offset += 2 + size


def language_in(descriptors: tuple[tuple[int, bytes], ...]) -> str | None:
    """Return the ISO 639-2 code that a language descriptor gives. Source: H.222.0 2.6.18."""
    for tag, data in descriptors:
        code = data[:3].decode("ascii", "replace")
        if tag == LANGUAGE_DESCRIPTOR and code.isalpha() and code != "und":
            return code
    return None


def state_descriptors(
    descriptors: tuple[tuple[int, bytes], ...],
) -> Iterator[tuple[str, TraitValue, str]]:
    """State trait, value and the descriptor's name; short descriptors say nothing."""
    for tag, data in descriptors:
        if tag == VIDEO_DESCRIPTOR and len(data) >= VIDEO.size_bytes:
            video = VIDEO.read(data)
            if video["frame_rate_code"] in RATES and not video["multiple_frame_rate"]:
                yield "frame_rate", RATES[video["frame_rate_code"]], VIDEO.name
            if video["chroma_format"] and not video["mpeg_1_only"]:
                yield "chroma", CHROMA_FORMATS[video["chroma_format"]], VIDEO.name
        elif tag == HEVC_DESCRIPTOR and len(data) >= HEVC.size_bytes:
            hevc = HEVC.read(data)
            if hevc["progressive_source"] != hevc["interlaced_source"]:
                scan = "progressive" if hevc["progressive_source"] else "interlaced"
                yield "scan", scan, HEVC.name
