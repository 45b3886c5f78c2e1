"""Writing MXF: partitions, primer, descriptors and picture essence. Layout: SMPTE ST 377-1."""

import struct

from shapkeen.core.declared.wrappers.mxf import klv

DYNAMIC = 0x8001
CDCI = 0x28
RGBA = 0x29


def unit(key: bytes, value: bytes) -> bytes:
    """Return key, length in long form, and value."""
    return key.ljust(16, b"\0") + b"\x83" + len(value).to_bytes(3, "big") + value


def partition(kind: int, *, start: int = 0, footer: int = 0, status: int = 4) -> bytes:
    """Return a partition pack."""
    pack = klv.PARTITION_PACK.write(
        major=1, minor=3, this_partition=start, footer_partition=footer, container_size=16
    )
    return unit(klv.PARTITION + bytes([kind, status, 0]), pack)


def primer(labels: dict[int, bytes]) -> bytes:
    """Return a primer pack: local tag → label."""
    items = b"".join(struct.pack(">H", tag) + label for tag, label in labels.items())
    return unit(klv.PRIMER, struct.pack(">II", len(labels), 18) + items)


def properties(values: dict[int, bytes]) -> bytes:
    """Return the properties of a set."""
    return b"".join(struct.pack(">HH", tag, len(v)) + v for tag, v in values.items())


def descriptor(values: dict[int, bytes], *, kind: int = CDCI) -> bytes:
    """Return a set of header metadata."""
    return unit(klv.SET + b"\x01" + bytes([kind, 0]), properties(values))


def label(text: str) -> bytes:
    """Return a label from the hexadecimal of its last half, the register's version set to 13."""
    return bytes.fromhex("060E2B340401010D" + text)


def whole(value: int, size: int = 4) -> bytes:
    """Return a whole number."""
    return (value & ((1 << 8 * size) - 1)).to_bytes(size, "big")


def ratio(n: int, d: int) -> bytes:
    """Return a rational."""
    return struct.pack(">II", n, d)


PICTURE = {
    0x3001: ratio(25, 1),
    0x3002: whole(10, 8),
    0x3201: label("0401020271260000"),
    0x3203: whole(1920),
    0x3202: whole(1088),
    0x3205: whole(1920),
    0x3204: whole(1080),
    0x3209: whole(1920),
    0x3208: whole(1080),
    0x320C: whole(0, 1),
    0x320E: ratio(16, 9),
    0x3301: whole(10),
    0x3302: whole(2),
    0x3308: whole(1),
    0x3304: whole(64),
    0x3305: whole(940),
    0x3306: whole(897),
}


def mxf(
    essence: bytes,
    *,
    values: dict[int, bytes] | None = None,
    labels: dict[int, bytes] | None = None,
    kind: int = CDCI,
    in_footer: bool = False,
    index: bytes = b"",
) -> bytes:
    """Return a whole small file with one picture element."""
    described = primer(labels or {}) + descriptor({**PICTURE, **(values or {})}, kind=kind)
    key = klv.ESSENCE + bytes([0x15, 1, 5, 1])
    body = partition(3) + unit(key, essence)
    head = b"" if in_footer else described
    start = len(partition(2)) + len(head) + len(body)
    opened = partition(2, footer=start, status=1 if in_footer else 4)
    footer = partition(4, start=start) + (described if in_footer else b"")
    segment = unit(klv.INDEX_SEGMENT + b"\0", index) if index else b""
    return opened + head + body + footer + segment
