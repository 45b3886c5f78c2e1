"""Writing EBML elements, for building Matroska files."""

import struct

from shapkeen.core.declared.wrappers.matroska import elements as ids

from .headers import h264_sps


def element(identity: int, *bodies: bytes | int | float | str, unknown: bool = False) -> bytes:
    """Return an element; numbers and words are written by their type."""
    body = b"".join(_value(item) for item in bodies)
    head = identity.to_bytes((identity.bit_length() + 7) // 8, "big")
    size = b"\x01" + b"\xff" * 7 if unknown else (1 << 56 | len(body)).to_bytes(8, "big")
    return head + size + body


def _value(item: bytes | int | float | str) -> bytes:
    if isinstance(item, bytes):
        return item
    if isinstance(item, str):
        return item.encode()
    if isinstance(item, float):
        return struct.pack(">d", item)
    return item.to_bytes(max((item.bit_length() + 7) // 8, 1), "big")


def avc_record() -> bytes:
    """Return CodecPrivate of an H.264 track: a configuration record."""
    from .boxes import avcc

    return avcc(h264_sps())[8:]


def matroska(
    *video: bytes,
    size: tuple[int, int] = (1920, 1080),
    doc_type: str = "matroska",
    codec_id: str = "V_MPEG4/ISO/AVC",
    private: bytes | None = None,
    track: bytes = b"",
    more_tracks: bytes = b"",
    tracks_last: bool = False,
    before_clusters: bytes = b"",
    unknown: bool = False,
    block: bytes = b"\0\0\0\x05\x65\x88\x84\0\x10",
) -> bytes:
    """Return a whole small file with one picture track and one cluster."""
    entry = element(
        ids.TRACK_ENTRY,
        element(ids.TRACK_NUMBER, 1),
        element(ids.TRACK_TYPE, 1),
        element(ids.CODEC_ID, codec_id),
        element(ids.CODEC_PRIVATE, avc_record() if private is None else private),
        element(
            ids.VIDEO, element(ids.PIXEL_WIDTH, size[0]), element(ids.PIXEL_HEIGHT, size[1]), *video
        ),
        track,
    )
    tracks = element(ids.TRACKS, entry, more_tracks)
    info = element(ids.INFO, element(ids.TIMESTAMP_SCALE, 1_000_000), element(ids.DURATION, 2000.0))
    cluster = element(
        ids.CLUSTER,
        element(0xE7, 0),
        element(ids.SIMPLE_BLOCK, b"\x81\0\0\x80" + block),
        unknown=unknown,
    )
    header = element(ids.EBML_HEADER, element(ids.DOC_TYPE, doc_type))
    if not tracks_last:
        return header + element(
            ids.SEGMENT, info, tracks, before_clusters, cluster, unknown=unknown
        )

    def seek(position: int) -> bytes:
        parts = (
            element(ids.SEEK_ID, ids.TRACKS),
            element(ids.SEEK_POSITION, struct.pack(">Q", position)),
        )
        return element(ids.SEEK_HEAD, element(ids.SEEK, *parts))

    position = len(seek(0)) + len(info) + len(cluster)
    return header + element(ids.SEGMENT, seek(position), info, cluster, tracks)
