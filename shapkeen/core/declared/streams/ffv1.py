"""FFV1 configuration records and slice headers. Source: RFC 9043 sections 3.8, 4.2, 4.3 and 4.6.

All of it is range coded: `RangeReader` gives the symbols, one adaptive context a field.
"""

from dataclasses import dataclass
from functools import partial
from math import gcd

from ..coded import CodedHeaders
from ..outline import FieldRead
from ..sampling import SUBSAMPLINGS
from .bits import BitReader, BitsEndError
from .model import Reading, Stated, StreamReading

STATES = 32
START_STATE = 128
LARGEST_EXPONENT = 31
LARGEST_STATE = 256 - 8
RGB = 1
HEADER_BYTES = 256
RECORD_BYTES = 4096
CUSTOM_TABLE = 2
VERSION_WITH_RECORD = 3
DEPTH_BY_DEFAULT = 8
SCANS = {1: "top-first", 2: "bottom-first", 3: "progressive"}


def _transitions() -> tuple[int, ...]:
    """Return the state that follows a one, for each state (3.8.1.3, the default table).

    Made as its authors made it: each step moves a twentieth of the way to certainty.
    """
    one, factor = 1 << 32, int(0.05 * (1 << 32))
    following = [0] * 256
    last, probability = 0, one // 2
    for _ in range(128):
        state = max((256 * probability + one // 2) >> 32, last + 1)
        if last and state <= LARGEST_STATE:
            following[last] = state
        probability += ((one - probability) * factor + one // 2) >> 32
        last = state
        if last > 255:
            break
    for state in range(256 - LARGEST_STATE, LARGEST_STATE + 1):
        if following[state]:
            continue
        probability = (state * one + 128) >> 8
        probability += ((one - probability) * factor + one // 2) >> 32
        made = (256 * probability + one // 2) >> 32
        following[state] = min(max(made, state + 1), LARGEST_STATE)
    return tuple(following)


AFTER_ONE = _transitions()


class RangeReader:
    """The range decoder of section 3.8.1 over some bytes; keeps named symbols in `fields`."""

    def __init__(self, data: bytes, after_one: tuple[int, ...] = AFTER_ONE) -> None:
        """Start at the first byte; raises BitsEndError where there are not two."""
        if len(data) < 2:
            raise BitsEndError("a range coded header takes two bytes at least")
        self._data, self._at = data, 2
        self._low, self._range = min(int.from_bytes(data[:2], "big"), 0xFF00), 0xFF00
        self._after_one = after_one
        self.fields: list[FieldRead] = []

    def bit(self, states: list[int], index: int = 0) -> int:
        """Return one symbol of one bit; its context learns."""
        state = states[index]
        split = self._range * state >> 8
        self._range -= split
        if self._low < self._range:
            found = 0
            states[index] = 256 - self._after_one[256 - state]
        else:
            self._low -= self._range
            self._range, found = split, 1
            states[index] = self._after_one[state]
        if self._range < 0x100:
            self._refill()
        return found

    def _refill(self) -> None:
        if self._at >= len(self._data) + 2:
            raise BitsEndError("the range coded header ends too soon")
        byte = self._data[self._at] if self._at < len(self._data) else 0
        self._range <<= 8
        self._low = self._low << 8 | byte
        self._at += 1

    def symbol(self, states: list[int], name: str = "", *, signed: bool = False) -> int:
        """Return a whole number (3.8.1.2)."""
        value = 0 if self.bit(states) else self._magnitude(states, signed=signed)
        if name:
            self.fields.append(FieldRead(name, value))
        return value

    def _magnitude(self, states: list[int], *, signed: bool) -> int:
        exponent = 0
        while self.bit(states, 1 + min(exponent, 9)):
            exponent += 1
            if exponent > LARGEST_EXPONENT:
                raise BitsEndError("no symbol is that large")
        value = 1
        for place in range(exponent - 1, -1, -1):
            value = value << 1 | self.bit(states, 22 + min(place, 9))
        negative = signed and self.bit(states, 11 + min(exponent, 10))
        return -value if negative else value

    def flag(self, states: list[int], name: str) -> bool:
        """Return one bit as a claim."""
        value = self.bit(states)
        self.fields.append(FieldRead(name, value))
        return bool(value)


@dataclass(slots=True)
class _Context:
    """What a record settles for the slices: the coder's table, and how many planes choose one."""

    after_one: tuple[int, ...] = AFTER_ONE
    planes: int = 2


def read_ffv1(coded: CodedHeaders) -> StreamReading:
    """Return what the configuration record and the first slices say; the raster is not in them."""
    reading, context = Reading(), _Context()
    record = coded.config[0] if coded.config else None
    if record is not None:
        read = partial(_record, context)
        reading.header("configuration record", record.where, record.data[:RECORD_BYTES], read)
    for sample in coded.samples:
        read = partial(_slice_header if record is not None else _frame_header, context)
        reading.header("frame header", sample.where, sample.data[:HEADER_BYTES], read)
    return reading.finish()


def _record(context: _Context, bits: BitReader) -> Stated:
    reader = RangeReader(bits.bytes_left(RECORD_BYTES))
    bits.fields = reader.fields
    states = [START_STATE] * STATES
    if reader.symbol(states, "version") >= VERSION_WITH_RECORD:
        reader.symbol(states, "micro_version")
    yield from _parameters(reader, states, context, has_depth=True)


def _frame_header(context: _Context, bits: BitReader) -> Stated:
    """Read a key frame of version 0 or 1, which holds the parameters itself."""
    reader = RangeReader(bits.bytes_left(HEADER_BYTES))
    bits.fields = reader.fields
    if not reader.flag([START_STATE], "keyframe"):
        return
    states = [START_STATE] * STATES
    version = reader.symbol(states, "version")
    if version < VERSION_WITH_RECORD:
        yield from _parameters(reader, states, context, has_depth=version > 0)


def _parameters(
    reader: RangeReader, states: list[int], context: _Context, *, has_depth: bool
) -> Stated:
    if reader.symbol(states, "coder_type") == CUSTOM_TABLE:
        changes = [reader.symbol(states, signed=True) for _ in range(255)]
        moved = (base + change for base, change in zip(AFTER_ONE[1:], changes, strict=True))
        context.after_one = (0, *(min(max(state, 0), 255) for state in moved))
    space = reader.symbol(states, "colorspace_type")
    depth = reader.symbol(states, "bits_per_raw_sample") if has_depth else 0
    chroma = reader.flag(states, "chroma_planes")
    across = reader.symbol(states, "log2_h_chroma_subsample")
    down = reader.symbol(states, "log2_v_chroma_subsample")
    context.planes = 2 + reader.flag(states, "extra_plane")
    yield "bit_depth", depth or DEPTH_BY_DEFAULT
    if space == RGB:
        yield "chroma", "4:4:4"
        yield "matrix", 0
    elif not chroma:
        yield "chroma", "4:0:0"
    elif (across, down) in SUBSAMPLINGS:
        yield "chroma", SUBSAMPLINGS[across, down]


def _slice_header(context: _Context, bits: BitReader) -> Stated:
    """Read the first slice of a key frame of version 3: field order and pixel aspect."""
    reader = RangeReader(bits.bytes_left(HEADER_BYTES), context.after_one)
    bits.fields = reader.fields
    if not reader.flag([START_STATE], "keyframe"):
        return
    states = [START_STATE] * STATES
    for name in ("slice_x", "slice_y", "slice_width_minus1", "slice_height_minus1"):
        reader.symbol(states, name)
    for plane in range(context.planes):
        reader.symbol(states, f"quant_table_set_index[{plane}]")
    structure = reader.symbol(states, "picture_structure")
    if structure in SCANS:
        yield "scan", SCANS[structure]
    h, v = reader.symbol(states, "sar_num"), reader.symbol(states, "sar_den")
    if h and v:
        yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))
