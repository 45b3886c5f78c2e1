"""Writing AVI, FLV and MPEG transport streams, as small as they can be."""

import struct

from shapkeen.core.declared.wrappers.avi import chunks
from shapkeen.core.declared.wrappers.mpegts import packets, tables

from .boxes import SAMPLE, avcc
from .headers import h264_sps, mpeg2_sequence, mpeg4_layer


def chunk(name: bytes, body: bytes) -> bytes:
    """Return a chunk, padded to an even size."""
    return name + struct.pack("<I", len(body)) + body + b"\0" * (len(body) & 1)


def avi(*, height: int = 480, code: bytes = b"FMP4", more: bytes = b"") -> bytes:
    """Return a whole small AVI file with one picture stream."""
    head = chunks.STRH.write(
        type=int.from_bytes(b"vids", "little"), scale=1001, rate=30000, length=60
    )
    form = chunks.PICTURE_FORMAT.write(
        size=40, width=640, height=height, compression=int.from_bytes(code, "little")
    )
    stream = chunk(b"LIST", b"strl" + chunk(b"strh", head) + chunk(b"strf", form) + more)
    headers = chunk(b"LIST", b"hdrl" + chunk(b"avih", chunks.AVIH.write(streams=1)) + stream)
    movi = chunk(b"LIST", b"movi" + chunk(b"00dc", mpeg4_layer(size=(640, 480))))
    return chunk(b"RIFF", b"AVI " + headers + movi)


def amf(value: object) -> bytes:
    """Return a value as script data."""
    if isinstance(value, float):
        return b"\0" + struct.pack(">d", value)
    if isinstance(value, str):
        return b"\2" + struct.pack(">H", len(value)) + value.encode()
    if isinstance(value, dict):
        items = b"".join(struct.pack(">H", len(k)) + k.encode() + amf(v) for k, v in value.items())
        return b"\3" + items + b"\0\0\x09"
    return b"\5"


def tag(kind: int, data: bytes) -> bytes:
    """Return an FLV tag with the pointer behind it."""
    return struct.pack(">B3s7x", kind, len(data).to_bytes(3, "big")) + data + bytes(4)


SCRIPT = {"width": 1280.0, "height": 720.0, "framerate": 23.976, "duration": 2.0}


def flv(*tags: bytes, script: dict | None = None) -> bytes:
    """Return an FLV file of script data and these tags."""
    head = b"FLV\1\1\0\0\0\x09" + bytes(4)
    return head + tag(18, amf("onMetaData") + amf(script or SCRIPT)) + b"".join(tags)


def flv_picture() -> tuple[bytes, bytes]:
    """Return the two tags of an H.264 picture: its configuration, and one key frame."""
    record = avcc(h264_sps())[8:]
    return tag(9, b"\x17\0\0\0\0" + record), tag(9, b"\x17\1\0\0\0" + SAMPLE)


def section(table: int, body: bytes) -> bytes:
    """Return a section behind its pointer."""
    head = packets.SECTION.write(
        table_id=table, syntax=1, reserved=3, length=len(body) + 9, id=1, current=1
    )
    return b"\0" + head + body + bytes(4)


def packet(pid: int, payload: bytes, *, starts: bool = False, key: bool = False) -> bytes:
    """Return a transport packet, stuffed to its size."""
    room = 184 - len(payload)
    head = packets.PACKET.write(
        sync_byte=0x47,
        payload_unit_start=starts,
        pid=pid,
        has_adaptation=room > 0,
        has_payload=1,
    )
    if not room:
        return head + payload
    field = bytes([room - 1]) + (bytes([0x40 * key]) + b"\xff" * (room - 2) if room > 1 else b"")
    return head + field + payload


def pes(time: int, data: bytes) -> bytes:
    """Return an elementary packet with a presentation time."""
    parts = (time >> 30 & 7) << 33 | (time >> 15 & 0x7FFF) << 17 | (time & 0x7FFF) << 1
    stamp = (parts | 2 << 36 | 1 << 32 | 1 << 16 | 1).to_bytes(5, "big")
    return b"\0\0\1\xe0\0\0\x80\x80\x05" + stamp + data


def transport(*, kind: int = 2, descriptors: bytes = b"", unit: bytes | None = None) -> bytes:
    """Return a transport stream of one program with six pictures."""
    program = tables.PROGRAM.write(number=1, pid=256)
    stream = tables.STREAM.write(stream_type=kind, pid=257, info_length=len(descriptors))
    program_map = tables.PMT_HEAD.write(clock_pid=257) + stream + descriptors
    data = packet(0, section(0, program), starts=True)
    data += packet(256, section(2, program_map), starts=True)
    for number in range(6):
        coded = (unit or mpeg2_sequence())[:150]
        data += packet(257, pes(900_000 + 3600 * number, coded), starts=True, key=number == 3)
    return data
