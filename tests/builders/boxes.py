"""Writing ISO base media files from the same layouts that the reader uses."""

import struct
from collections.abc import Sequence

from shapkeen.core.declared.wrappers import config
from shapkeen.core.declared.wrappers.isobmff import layouts

from .headers import h264_sps

IDENTITY = (1 << 16, 0, 0, 0, 1 << 16, 0, 0, 0, 1 << 30)
PPS = b"\x68\xee\x38\x80"
SAMPLE = b"\0\0\0\x05\x65\x88\x84\0\x10"


def box(kind: str, *bodies: bytes) -> bytes:
    """Return a box with its size."""
    body = b"".join(bodies)
    return struct.pack(">I4s", 8 + len(body), kind.encode("latin-1")) + body


def full(kind: str, *bodies: bytes, version: int = 0, flags: int = 0) -> bytes:
    """Return a full box."""
    return box(kind, struct.pack(">I", version << 24 | flags), *bodies)


def large(kind: str, *bodies: bytes) -> bytes:
    """Return a box with a 64-bit size."""
    body = b"".join(bodies)
    return struct.pack(">I4sQ", 1, kind.encode("latin-1"), 16 + len(body)) + body


def avcc(sps: bytes | None = None, *, high: bool = True) -> bytes:
    """Return an H.264 configuration record."""
    unit = sps or h264_sps()
    head = config.AVCC.write(
        version=1,
        profile=unit[1],
        compatibility=unit[2],
        level=unit[3],
        ones=63,
        length_size_minus1=3,
    )
    body = head + bytes([0xE1]) + struct.pack(">H", len(unit)) + unit
    body += b"\x01" + struct.pack(">H", len(PPS)) + PPS
    if high:
        body += config.AVCC_HIGH.write(ones=63, chroma_format=1, ones2=31, luma_minus8=0, ones3=31)
        body += b"\0"
    return box("avcC", body)


def hvcc(*units: bytes, depth: int = 10) -> bytes:
    """Return an H.265 configuration record holding these units in one array."""
    head = config.HVCC.write(
        version=1,
        profile_idc=2,
        level_idc=153,
        ones=15,
        chroma_format=1,
        luma_minus8=depth - 8,
        chroma_minus8=depth - 8,
        length_size_minus1=3,
        array_count=1,
    )
    array = bytes([0x80 | 33]) + struct.pack(">H", len(units))
    return box("hvcC", head, array, *(struct.pack(">H", len(unit)) + unit for unit in units))


def entry(kind: str, *children: bytes, size: tuple[int, int] = (1920, 1080)) -> bytes:
    """Return a visual sample entry."""
    head = layouts.VISUAL_ENTRY.write(
        data_reference=1, width=size[0], height=size[1], hres=72 << 16, vres=72 << 16, frame_count=1
    )
    return box(kind, head, *children)


def sample_table(
    sample_entry: bytes,
    *,
    deltas: Sequence[tuple[int, int]] = ((2, 1001),),
    sizes: Sequence[int] = (9, 9),
    offset: int = 0,
    wide: bool = False,
) -> bytes:
    """Return stbl with one chunk at `offset`."""
    runs = b"".join(struct.pack(">II", *run) for run in deltas)
    place = (
        full("co64", struct.pack(">IQ", 1, offset))
        if wide
        else full("stco", struct.pack(">II", 1, offset))
    )
    return box(
        "stbl",
        full("stsd", struct.pack(">I", 1), sample_entry),
        full("stts", struct.pack(">I", len(deltas)), runs),
        full("stsc", struct.pack(">IIII", 1, 1, len(sizes), 1)),
        full("stsz", struct.pack(">II", 0, len(sizes)), struct.pack(f">{len(sizes)}I", *sizes)),
        place,
    )


def track(
    stbl: bytes,
    *extra: bytes,
    handler: str = "vide",
    timescale: int = 24_000,
    matrix: Sequence[int] = IDENTITY,
    shown: tuple[int, int] = (1920, 1080),
    enabled: bool = True,
    track_id: int = 1,
) -> bytes:
    """Return a trak box."""
    names = ("a", "b", "u", "c", "d", "v", "tx", "ty", "w")
    tkhd = layouts.TKHD[0].write(
        flags=3 if enabled else 2,
        track_id=track_id,
        width=shown[0] << 16,
        height=shown[1] << 16,
        **dict(zip(names, matrix, strict=True)),
    )
    mdhd = layouts.MDHD[0].write(timescale=timescale, duration=2002, language=0x55C4)
    hdlr = layouts.HDLR.write(handler=int.from_bytes(handler.encode(), "big")) + bytes(13)
    media = box("mdia", box("mdhd", mdhd), box("hdlr", hdlr), box("minf", stbl))
    return box("trak", box("tkhd", tkhd), media, *extra)


def movie(
    *children: bytes,
    size: tuple[int, int] = (1920, 1080),
    brand: bytes = b"isom",
    config: bytes | None = None,
    entry_kind: str = "avc1",
    track_boxes: Sequence[bytes] = (),
    more_tracks: Sequence[bytes] = (),
    index_first: bool = True,
    samples: bytes = SAMPLE * 2,
    **track_options: object,
) -> bytes:
    """Return a whole small MP4: ftyp, moov and mdat, one picture track."""
    sample_entry = entry(entry_kind, config or avcc(), *children, size=size)
    ftyp = box("ftyp", brand, bytes(4), brand)

    def moov(offset: int) -> bytes:
        table = sample_table(sample_entry, offset=offset)
        shown = track_options.get("shown", size)
        options = {**track_options, "shown": shown}
        return box("moov", track(table, *track_boxes, **options), *more_tracks)

    mdat = box("mdat", samples)
    if not index_first:
        return ftyp + mdat + moov(len(ftyp) + 8)
    return ftyp + moov(len(ftyp) + len(moov(0)) + 8) + mdat


ENTRIES = {b"avcC": b"avc1", b"hvcC": b"hvc1", b"av1C": b"av01", b"vpcC": b"vp09"}
"""Configuration record → the sample entry that holds it."""


def into_entry(more: bytes, data: bytes, config: bytes = b"avcC") -> bytes:
    """Return a file with boxes put into its sample entry, before the configuration record.

    All boxes around them grow; picture data must stand before the index, so that no offset moves.
    """
    made = bytearray(data)
    place = made.index(config) - 4
    around, offset = [], made.index(b"moov") - 4
    entry = made.rindex(ENTRIES[config], 0, place)
    for kind in (b"moov", b"trak", b"mdia", b"minf", b"stbl", b"stsd"):
        offset = made.index(kind, offset) - 4
        around.append(offset)
    for start in (*around, entry - 4):
        size = int.from_bytes(made[start : start + 4], "big") + len(more)
        made[start : start + 4] = size.to_bytes(4, "big")
    made[place:place] = more
    return bytes(made)


STEREO = {"mono": 0, "top-bottom": 1, "left-right": 2, "right-left": 4}


def layout_boxes(
    *, stereo: str | None = None, projection: str | None = None, pose=(0, 0, 0), bounds=None
) -> bytes:
    """Return st3d and sv3d boxes. pose: yaw, pitch, roll in degrees; bounds: fractions cut off."""
    made = full("st3d", bytes([STEREO[stereo]])) if stereo else b""
    if projection:
        head = full("prhd", struct.pack(">iii", *(round(angle * 65536) for angle in pose)))
        cut = (round(share * 2**32) for share in bounds or (0, 0, 0, 0))
        kinds = {"equirectangular": full("equi", struct.pack(">IIII", *cut))}
        kinds["cubemap"] = full("cbmp", struct.pack(">II", 0, 0))
        kinds["mesh"] = full("mshp", bytes(8))
        made += box("sv3d", full("svhd", b"x\0"), box("proj", head, kinds[projection]))
    return made


def flagged(path, **layout):
    """Write boxes of a layout into an MP4 of one track, in place, and return its path.

    Works with the index before and after the picture data.
    """
    data, more = path.read_bytes(), layout_boxes(**layout)
    config = next(kind for kind in ENTRIES if kind in data)
    made = bytearray(into_entry(more, data, config))
    if data.index(b"moov") < data.index(b"mdat"):
        place = made.index(b"stco") + 8
        count = int.from_bytes(made[place : place + 4], "big")
        for at in range(place + 4, place + 4 + 4 * count, 4):
            moved = int.from_bytes(made[at : at + 4], "big") + len(more)
            made[at : at + 4] = moved.to_bytes(4, "big")
    path.write_bytes(bytes(made))
    return path
