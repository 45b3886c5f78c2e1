"""NAL units: cutting samples into units, and taking out emulation prevention bytes.

Source: ITU-T H.264 7.3.1, H.265 7.3.1; length prefixes: ISO/IEC 14496-15.
"""

from collections.abc import Iterator

MAX_UNITS = 256
MAX_HEADER_BYTES = 64 * 1024


def units_of_sample(data: bytes, length_bytes: int) -> Iterator[bytes]:
    """Yield the units of a sample, each after its length; the last may be cut off."""
    offset = 0
    for _ in range(MAX_UNITS):
        if offset + length_bytes > len(data):
            return
        size = int.from_bytes(data[offset : offset + length_bytes], "big")
        offset += length_bytes
        unit = data[offset : offset + size]
        if unit:
            yield unit
        offset += size


def payload(unit: bytes) -> bytes:
    """Return the unit without its emulation prevention bytes (00 00 03 → 00 00)."""
    unit = unit[:MAX_HEADER_BYTES]
    if b"\0\0\3" not in unit:
        return unit
    out = bytearray()
    zeros = 0
    for byte in unit:
        if zeros >= 2 and byte == 3:
            zeros = 0
            continue
        out.append(byte)
        zeros = zeros + 1 if byte == 0 else 0
    return bytes(out)


def with_prevention(raw: bytes) -> bytes:
    """Return a unit with emulation prevention bytes put in: the inverse of `payload`."""
    out = bytearray()
    zeros = 0
    for byte in raw:
        if zeros >= 2 and byte <= 3:
            out.append(3)
            zeros = 0
        out.append(byte)
        zeros = zeros + 1 if byte == 0 else 0
    return bytes(out)
