"""Open bitstream units of AV1 that say what is wished: sequence headers, and metadata of light.

Source: AV1 specification 1.0.0 with errata 1, 5.3 to 5.5, 5.8.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ...declared import TraitValue
from ...declared.st2086 import CONTENT_LIGHT, FIXED_POINT_DISPLAY
from ...declared.streams import av1
from ...declared.streams.bits import BitReader, BitsEndError
from ...declared.window import Window
from ..copying import Patch
from ..light import fixed_point_fields, light_fields
from ..wishes import COLOUR_CODES, Wishes
from .bits_out import BitWriter, content_bits

DESCRIBED = "color_description_present_flag"
NAMES = dict(
    zip(
        COLOUR_CODES,
        ("color_primaries", "transfer_characteristics", "matrix_coefficients"),
        strict=True,
    )
)
UNSPECIFIED = 2
SRGB = (1, 13, 0)
"""Primaries, transfer and matrix after which neither range nor sampling is coded."""
SITES = {0: 1, 2: 2}
MOST_HEADER = 4096
HEADERS = frozenset({av1.OBU_SEQUENCE_HEADER, av1.OBU_METADATA})
IN_SEQUENCE = frozenset({*COLOUR_CODES, "range", "chroma_location"})
STOP = b"\x80"
KINDS = {av1.HDR_CLL: "content_light", av1.HDR_MDCV: "mastering_display"}


@dataclass(frozen=True, slots=True)
class Obu:
    """One unit: where it begins, bytes of its header and size, payload bytes, and its type."""

    at: int
    head: int
    size: int
    type: int

    @property
    def end(self) -> int:
        """Return where the next one begins."""
        return self.at + self.head + self.size


@dataclass(frozen=True, slots=True)
class ObuEditor:
    """Makes the samples, and the configuration, of one AV1 track say what is wished."""

    wishes: Wishes
    stated: Mapping[str, TraitValue]

    @property
    def is_idle(self) -> bool:
        """Return whether no wish could change a unit."""
        return not self.wishes.keys() & {*IN_SEQUENCE, *KINDS.values()}

    def patches(self, window: Window, place: int, size: int) -> Iterator[Patch]:
        """Yield the patches of one sample: light goes behind the sequence header, once."""
        units = list(units_in(window, place, size))
        if not any(unit.type == av1.OBU_SEQUENCE_HEADER for unit in units):
            return
        held = {self._kind(window, unit) for unit in units if unit.type == av1.OBU_METADATA}
        missing = [made for kind, made in self._light().items() if made and kind not in held]
        for unit in units:
            if unit.type not in HEADERS or unit.size > MOST_HEADER:
                continue
            given = window.read(unit.at, unit.end - unit.at)
            made = self.changed(given)
            if unit.type == av1.OBU_SEQUENCE_HEADER:
                made, missing = made + b"".join(missing), []
            if made != given:
                yield Patch(unit.at, unit.end - unit.at, made)

    def changed(self, unit: bytes) -> bytes:
        """Return a whole unit as it shall be; empty where it shall go."""
        kind, payload = next(av1.units(unit), (0, b""))
        if kind == av1.OBU_SEQUENCE_HEADER:
            made = said_in_sequence(payload, self.wishes, self.stated)
            return unit if made == payload else _unit(unit[:1], made)
        if kind == av1.OBU_METADATA and payload[:1] and payload[0] in KINDS:
            wished = self._light()
            return unit if payload[0] not in wished else wished[payload[0]] or b""
        return unit

    def configured(self, record: bytes) -> bytes:
        """Return the units behind a configuration record's four bytes as they shall be."""
        parts, at = [record[:4]], 4
        while at < len(record):
            found = next(_split(record, at), None)
            if found is None:
                break
            parts.append(self.changed(record[at : found.end]))
            at = found.end
        return b"".join([*parts, record[at:]])

    def _kind(self, window: Window, unit: Obu) -> int:
        return window.read(unit.at + unit.head, 1)[0] if unit.size else 0

    def _light(self) -> dict[int, bytes | None]:
        """Return metadata type → whole unit of what is wished; None where it shall go."""
        found: dict[int, bytes | None] = {}
        for kind, trait in KINDS.items():
            if trait not in self.wishes:
                continue
            value = self.wishes[trait]
            found[kind] = _metadata(kind, value) if isinstance(value, Mapping) else None
        return found


def _metadata(kind: int, value: Mapping[str, TraitValue]) -> bytes:
    body = (
        CONTENT_LIGHT.write(**light_fields(value))
        if kind == av1.HDR_CLL
        else FIXED_POINT_DISPLAY.write(**fixed_point_fields(value))
    )
    return _unit(bytes([av1.OBU_METADATA << 3]), bytes([kind]) + body + STOP)


def _unit(head: bytes, payload: bytes) -> bytes:
    """Return a unit with its size stated; head: its first byte, without an extension."""
    return bytes([head[0] | 0b10]) + _leb128(len(payload)) + payload


def _leb128(value: int) -> bytes:
    parts = []
    while True:
        part, value = value & 127, value >> 7
        parts.append(part | (128 if value else 0))
        if not value:
            return bytes(parts)


def units_in(window: Window, place: int, size: int) -> Iterator[Obu]:
    """Yield the units of a sample; what does not fit ends it."""
    end = place + size
    at = place
    while at < end:
        head = window.read(at, min(16, end - at))
        found = next(_split(head, 0, left=end - at), None)
        if found is None or at + found.end > end:
            return
        yield Obu(at, found.head, found.size, found.type)
        at += found.end


def _split(data: bytes, at: int, left: int | None = None) -> Iterator[Obu]:
    """Yield the unit at a place. left: bytes from there on, where data holds only its beginning."""
    first = data[at]
    extension, has_size = first >> 2 & 1, first >> 1 & 1
    head = 1 + extension
    size = (len(data) - at if left is None else left) - head
    if has_size:
        told = av1.leb128(data, at + head)
        if told is None:
            return
        size, behind = told
        head = behind - at
    yield Obu(at, head, size, first >> 3 & 15)


def said_in_sequence(payload: bytes, wishes: Wishes, stated: Mapping[str, TraitValue]) -> bytes:
    """Return a sequence header that says what is wished; the same one where it cannot be read.

    Range cannot be silent; what needs another syntax (sRGB's codes) stays as it is.
    """
    bits = BitReader(payload)
    try:
        for _ in av1.read_sequence_header(bits):
            pass
        end = content_bits(payload)
    except (BitsEndError, ValueError):
        return payload
    own, marks = dict(bits.named), bits.marks
    if not wishes.keys() & IN_SEQUENCE or "color_range" not in marks:
        return payload
    codes = _codes(own, wishes, stated)
    if codes == SRGB:
        return payload
    out = BitWriter()
    out.bits_of(payload, 0, marks[DESCRIBED])
    out.u(1, int(codes is not None))
    for code in codes or ():
        out.u(8, code)
    ranges = {"limited": 0, "full": 1}
    out.u(1, ranges.get(str(wishes.get("range")), own["color_range"]))
    at = marks["color_range"] + 1
    site = marks.get("chroma_sample_position")
    if site is not None and "chroma_location" in wishes:
        wished = wishes["chroma_location"]
        out.bits_of(payload, at, site)
        out.u(2, SITES.get(wished, 0) if isinstance(wished, int) else 0)
        at = site + 2
    out.bits_of(payload, at, end)
    made = out.with_stop_bit()
    return payload if made == payload.rstrip(b"\0") else made


def _codes(
    own: Mapping[str, int], wishes: Wishes, stated: Mapping[str, TraitValue]
) -> tuple[int, ...] | None:
    """Return all three code points; None where none is to be stated."""
    found: list[int | None] = []
    for trait in COLOUR_CODES:
        wished = wishes.get(trait)
        if trait in wishes:
            found.append(wished if isinstance(wished, int) else None)
        else:
            found.append(own.get(NAMES[trait]))
    if all(code is None for code in found):
        return None
    made = []
    for trait, code in zip(COLOUR_CODES, found, strict=True):
        other = stated.get(trait) if trait not in wishes else None
        spare = other if isinstance(other, int) else UNSPECIFIED
        made.append(code if code is not None else spare)
    return tuple(made)
