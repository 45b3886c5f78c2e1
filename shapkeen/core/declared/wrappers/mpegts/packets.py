"""Transport packets, sections and elementary packets. Source: ITU-T H.222.0 (ISO/IEC 13818-1) 2.4.

Packets come in three sizes: bare, with an arrival time before them, with error correction behind.
"""

from dataclasses import dataclass

from ...layout import Layout, fields
from ...window import Window

H222 = "ITU-T H.222.0"
PACKET = Layout(
    "transport_packet",
    fields(
        sync_byte=8,
        error=1,
        payload_unit_start=1,
        priority=1,
        pid=13,
        scrambling=2,
        has_adaptation=1,
        has_payload=1,
        counter=4,
    ),
    source=f"{H222} 2.4.3.2",
)
ADAPTATION = Layout(
    "adaptation_field",
    fields(length=8, discontinuity=1, random_access=1, rest=6),
    source=f"{H222} 2.4.3.4",
)
SECTION = Layout(
    "section",
    fields(
        table_id=8,
        syntax=1,
        reserved=3,
        length=12,
        id=16,
        reserved2=2,
        version=5,
        current=1,
        number=8,
        last=8,
    ),
    source=f"{H222} 2.4.4",
)
PES = Layout(
    "PES_packet",
    fields(start_code=24, stream_id=8, length=16, flags=8, has_times=2, rest=6, header_size=8),
    source=f"{H222} 2.4.3.6",
)
SYNC = 0x47
BODY_BYTES = 188
SIZES = ((188, 0), (192, 4), (204, 0))
"""Packet size and where the sync byte stands in it."""
CHECK_PACKETS = 5
LEAST_PAYLOAD = 128
"""Fewer bytes a packet, over a whole unit, are damage."""
CLOCK_HZ = 90_000
CLOCK_WRAP = 1 << 33
CRC_BYTES = 4
START_CODE = 1
UNIT_START, PID_HIGH_BITS = 0x40, 0x1F


@dataclass(frozen=True, slots=True)
class Packet:
    """One packet's payload, and whether decoding can start there."""

    random_access: bool
    payload: bytes


@dataclass(frozen=True, slots=True)
class Packets:
    """A run of whole packets: stream numbers and unit starts of all, the rest read when asked.

    Thousands of packets go by for each one that matters.
    """

    data: bytes
    size: int
    offset: int
    pids: list[int]
    starts: list[bool]

    def starting(self, pid: int) -> list[int]:
        """Return the places of the packets in which a unit of that stream starts."""
        pairs = zip(self.pids, self.starts, strict=True)
        return [place for place, (found, starts) in enumerate(pairs) if starts and found == pid]

    def at(self, place: int) -> Packet:
        """Return one packet; without payload where it is damaged."""
        start = self.offset + place * self.size
        end, body = start + BODY_BYTES, start + PACKET.size_bytes
        head = PACKET.read(self.data, start)
        random_access = False
        if head["has_adaptation"]:
            adaptation = ADAPTATION.read(self.data, body)
            random_access = bool(adaptation["length"] and adaptation["random_access"])
            body += 1 + adaptation["length"]
        intact = head["sync_byte"] == SYNC and head["has_payload"] and body < end
        return Packet(random_access, self.data[body:end] if intact else b"")

    def unit_at(self, place: int, most: int) -> bytes:
        """Return the unit that starts there, at most about `most` bytes of it."""
        pid, unit = self.pids[place], bytearray(self.at(place).payload)
        left = most // LEAST_PAYLOAD  # packets may be empty, and then none ends the unit
        for following in range(place + 1, len(self.pids)):
            if self.pids[following] != pid:
                continue
            left -= 1
            if self.starts[following] or len(unit) >= most or not left:
                break
            unit += self.at(following).payload
        return bytes(unit)


def packet_form(head: bytes) -> tuple[int, int] | None:
    """Return packet size and sync offset, None where the bytes are no transport stream."""
    for size, offset in SIZES:
        places = range(offset, min(len(head), size * CHECK_PACKETS), size)
        if len(places) > 1 and all(head[place] == SYNC for place in places):
            return size, offset
    return None


def read_packets(window: Window, start: int, count: int, form: tuple[int, int]) -> Packets:
    """Return the whole packets of `count` bytes from `start`, which begins a packet."""
    size, offset = form
    count = max(min(count, window.size - start) // size * size, 0)
    data = window.read(start, count)
    first, second = data[offset + 1 :: size], data[offset + 2 :: size]
    pids = [(a & PID_HIGH_BITS) << 8 | b for a, b in zip(first, second, strict=True)]
    return Packets(data, size, offset, pids, [bool(a & UNIT_START) for a in first])


def section_of(payload: bytes) -> tuple[dict[str, int], bytes] | None:
    """Return a section's header and body from the payload in which it starts; None if cut."""
    if not payload:
        return None
    data = payload[1 + payload[0] :]
    if len(data) < SECTION.size_bytes:
        return None
    head = dict(SECTION.read(data))
    end = 3 + head["length"] - CRC_BYTES
    return (head, data[SECTION.size_bytes : end]) if end <= len(data) else None


def pes_time_and_body(data: bytes) -> tuple[int | None, bytes] | None:
    """Return the presentation time (90 kHz) and the elementary bytes; None where none start."""
    if len(data) < PES.size_bytes:
        return None
    head = PES.read(data)
    if head["start_code"] != START_CODE:
        return None
    body = data[PES.size_bytes + head["header_size"] :]
    raw = data[PES.size_bytes : PES.size_bytes + 5]
    if head["has_times"] & 2 and len(raw) == 5:
        number = int.from_bytes(raw, "big")
        parts = (number >> 33 & 7, number >> 17 & 0x7FFF, number >> 1 & 0x7FFF)
        return parts[0] << 30 | parts[1] << 15 | parts[2], body
    return None, body
