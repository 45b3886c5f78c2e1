"""NAL units: cutting samples into units, and taking out emulation prevention bytes.

Source: ITU-T H.264 7.3.1, H.265 7.3.1; length prefixes: ISO/IEC 14496-15.
"""

from collections.abc import Iterator

MAX_UNITS = 256
START_CODE = b"\0\0\1"
MAX_HEADER_BYTES = 64 * 1024


def units_of_sample(data: bytes, length_bytes: int) -> Iterator[bytes]:
    """Yield the units of a sample, each after its length; the last may be cut off.

    `length_bytes` 0: the units stand behind start codes instead.
    """
    if not length_bytes:
        # A unit ends with a stop bit: zeros behind it belong to the next start code.
        whole = (unit.rstrip(b"\0") for unit in units_behind_start_codes(data))
        yield from (unit for unit in whole if unit)
        return
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


def units_behind_start_codes(data: bytes) -> Iterator[bytes]:
    """Yield what stands behind each start code 00 00 01 (H.264 annex B; H.262 5.2.3).

    Zeros that pad a unit's end stay; the last unit may be cut off.
    """
    start = data.find(START_CODE)
    for _ in range(MAX_UNITS):
        if start < 0:
            return
        start += len(START_CODE)
        end = data.find(START_CODE, start)
        unit = data[start : end if end >= 0 else len(data)]
        if unit:
            yield unit
        start = end


def payload(unit: bytes) -> bytes:
    """Return the unit without its emulation prevention bytes (00 00 03 → 00 00)."""
    # Zeros begin to be counted anew behind each such byte: so does replacing, which never overlaps.
    return unit[:MAX_HEADER_BYTES].replace(b"\0\0\3", b"\0\0")


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
