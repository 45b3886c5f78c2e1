"""Writing what a picture's layout is into an MP4 that the encoding library leaves unflagged.

Source: Spherical Video V2 RFC (st3d, sv3d); ISO/IEC 14496-12 for the boxes round them.
"""

import struct
from pathlib import Path

STEREO = {"mono": 0, "top-bottom": 1, "left-right": 2}
AROUND = (b"moov", b"trak", b"mdia", b"minf", b"stbl", b"stsd")
ENTRIES = (b"avc1", b"hvc1")
ENTRY_BYTES = 78
"""Fixed fields of a picture's sample entry, behind its header."""


def flag_layout(path: Path, *, stereo: str = "", projection: str = "") -> None:
    """Put st3d and sv3d boxes into the sample entry of an MP4 or MOV of one picture track."""
    more = _boxes(stereo, projection)
    if not more:
        return
    made = bytearray(path.read_bytes())
    starts, at = [], 0
    for kind in AROUND:
        at = made.index(kind, at) - 4
        starts.append(at)
    entry = min(place for kind in ENTRIES if (place := made.find(kind, at)) > 0) - 4
    for start in (*starts, entry):
        size = struct.unpack_from(">I", made, start)[0] + len(more)
        struct.pack_into(">I", made, start, size)
    place = entry + 8 + ENTRY_BYTES
    made[place:place] = more
    if made.index(b"moov") < made.index(b"mdat"):
        _move_offsets(made, starts[0], len(more))
    path.write_bytes(made)


def _boxes(stereo: str, projection: str) -> bytes:
    made = _full(b"st3d", bytes([STEREO[stereo]])) if stereo else b""
    if projection:
        head, kind = _full(b"prhd", bytes(12)), _full(b"equi", bytes(16))
        made += _box(b"sv3d", _full(b"svhd", b"Shapkeen demo\0") + _box(b"proj", head + kind))
    return made


def _box(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I4s", 8 + len(body), kind) + body


def _full(kind: bytes, body: bytes) -> bytes:
    return _box(kind, bytes(4) + body)


def _move_offsets(made: bytearray, index: int, by: int) -> None:
    """Move the places of the picture data, which stands behind the index that grew."""
    table = made.index(b"stco", index)
    count = struct.unpack_from(">I", made, table + 8)[0]
    for at in range(table + 12, table + 12 + 4 * count, 4):
        struct.pack_into(">I", made, at, struct.unpack_from(">I", made, at)[0] + by)
