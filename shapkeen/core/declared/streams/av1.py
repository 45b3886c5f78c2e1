"""AV1 sequence headers and metadata. Source: AV1 specification 1.0.0 with errata 1, 5.5 and 5.8.

Conditional headers: functions in the standard's order, with its syntax-element names.
"""

from collections.abc import Iterator
from fractions import Fraction

from ...errors import UnreadableFileError
from ..coded import CodedHeaders, HeaderUnit
from ..layout import FieldError
from ..model import Notice, Said, TraitValue
from ..sampling import SUBSAMPLINGS
from ..st2086 import state_content_light, state_fixed_point_display
from .bits import BitReader, BitsEndError
from .model import StreamReading
from .t35 import state_dynamic_hdr

OBU_SEQUENCE_HEADER, OBU_METADATA = 1, 5
HDR_CLL, HDR_MDCV, ITUT_T35 = 1, 2, 4
MAX_UNITS = 256
PROFILES = {0: "Main", 1: "High", 2: "Professional"}
SITES = {1: 0, 2: 2}
"""chroma_sample_position → H.273 Chroma420SampleLocType; 0 is unknown, 3 reserved."""
CHOOSE_BY_ITSELF = 2
Stated = Iterator[tuple[str, TraitValue]]
FACTS = ("profile", "level", "tier")


def read_av1(coded: CodedHeaders) -> StreamReading:
    """Return what sequence headers and metadata say.

    Raises UnreadableFileError where no sequence header can be read.
    """
    said: dict[str, Said] = {}
    facts: dict[str, str] = {}
    notices: list[Notice] = []
    for unit in (*coded.config, *coded.samples):
        for kind, payload in units(unit.data):
            try:
                for trait, value in _stated(kind, payload):
                    if trait in FACTS:
                        facts.setdefault(trait, str(value))
                    else:
                        said.setdefault(trait, Said(value=value, where=_where(kind, unit)))
            except (BitsEndError, FieldError) as error:
                text = f"The header ends too soon: {error}."
                notices.append(Notice("short-header", text, _where(kind, unit)))
    if "raster" not in said:
        raise UnreadableFileError(
            "No sequence header can be read in the coded picture, so no decoder could start. "
            "Export the file again.",
            code="no-sequence-header",
            where="stream",
        )
    return StreamReading(
        witness=said,
        profile=facts.get("profile"),
        level=facts.get("level"),
        tier=facts.get("tier"),
        notices=tuple(dict.fromkeys(notices)),
    )


def _where(kind: int, unit: HeaderUnit) -> str:
    name = "sequence header" if kind == OBU_SEQUENCE_HEADER else "metadata"
    return f"{name} ({unit.where})"


def units(data: bytes) -> Iterator[tuple[int, bytes]]:
    """Yield type and payload of each open bitstream unit. Source: AV1 5.3."""
    offset = 0
    for _ in range(MAX_UNITS):
        if offset >= len(data):
            return
        head = data[offset]
        kind, extension, has_size = head >> 3 & 15, head >> 2 & 1, head >> 1 & 1
        offset += 1 + extension
        size = len(data) - offset
        if has_size:
            number = leb128(data, offset)
            if number is None:
                return
            size, offset = number
        yield kind, data[offset : offset + size]
        offset += size


def leb128(data: bytes, offset: int) -> tuple[int, int] | None:
    """Return a little-endian base 128 number and the offset behind it. Source: AV1 4.10.5."""
    value = 0
    for i in range(8):
        if offset + i >= len(data):
            return None
        byte = data[offset + i]
        value |= (byte & 127) << 7 * i
        if not byte & 128:
            return value, offset + i + 1
    return None


def _stated(kind: int, payload: bytes) -> Stated:
    if kind == OBU_SEQUENCE_HEADER:
        yield from _sequence_header(BitReader(payload))
    elif kind == OBU_METADATA:
        number = leb128(payload, 0)
        if number is not None:
            yield from _metadata(number[0], payload[number[1] :])


def _metadata(kind: int, data: bytes) -> Stated:
    if kind == HDR_CLL:
        yield from state_content_light(data)
    elif kind == HDR_MDCV:
        yield from state_fixed_point_display(data)
    elif kind == ITUT_T35:
        yield from state_dynamic_hdr(data)


def _sequence_header(bits: BitReader) -> Stated:
    profile = bits.u(3)
    yield "profile", PROFILES.get(profile, str(profile))
    bits.skip(1)  # still_picture
    reduced = bits.flag()  # reduced_still_picture_header
    if reduced:
        yield from _level(bits.u(5), tier=False)
    else:
        yield from _timing_and_points(bits)
    width_bits, height_bits = bits.u(4) + 1, bits.u(4) + 1
    yield "raster", (bits.u(width_bits) + 1, bits.u(height_bits) + 1)
    _skip_tools(bits, reduced=reduced)
    yield from _color_config(bits, profile)


def _level(index: int, *, tier: bool) -> Stated:
    major, minor = 2 + (index >> 2), index & 3
    yield "level", f"{major}.{minor}" if minor else str(major)
    yield "tier", "high" if tier else "main"


def _timing_and_points(bits: BitReader) -> Stated:
    """State rate and the first operating point's level; pass over the rest."""
    decoder_model, delay_bits = False, 0
    if bits.flag():  # timing_info_present_flag
        ticks, scale = bits.u(32), bits.u(32)
        if bits.flag() and ticks and scale:  # equal_picture_interval
            rate = Fraction(scale, ticks * (bits.ue() + 1))
            yield "frame_rate", (rate.numerator, rate.denominator)
        decoder_model = bits.flag()
        if decoder_model:
            delay_bits = bits.u(5) + 1
            bits.skip(32 + 5 + 5)
    initial_delay = bits.flag()
    for point in range(bits.u(5) + 1):
        bits.skip(12)  # operating_point_idc
        index = bits.u(5)
        tier = bits.flag() if index > 7 else False
        if point == 0:
            yield from _level(index, tier=tier)
        if decoder_model and bits.flag():
            bits.skip(2 * delay_bits + 1)
        if initial_delay and bits.flag():
            bits.skip(4)


def _skip_tools(bits: BitReader, *, reduced: bool) -> None:
    if not reduced and bits.flag():  # frame_id_numbers_present_flag
        bits.skip(4 + 3)
    bits.skip(3)  # superblock size, filter intra, intra edge filter
    if not reduced:
        bits.skip(4)  # interintra, masked, warped, dual filter
        order_hint = bits.flag()
        if order_hint:
            bits.skip(2)  # jnt comp, ref frame mvs
        force_tools = CHOOSE_BY_ITSELF if bits.flag() else bits.u(1)
        if force_tools > 0 and not bits.flag():
            bits.skip(1)  # seq_force_integer_mv
        if order_hint:
            bits.skip(3)
    bits.skip(3)  # superres, cdef, restoration


def _color_config(bits: BitReader, profile: int) -> Stated:
    high = bits.flag()
    twelve = bits.flag() if profile == 2 and high else False
    depth = 12 if twelve else 10 if high else 8
    yield "bit_depth", depth
    mono = bits.flag() if profile != 1 else False
    codes = tuple(bits.u(8) for _ in range(3)) if bits.flag() else None
    if codes:
        yield from zip(("primaries", "transfer", "matrix"), codes, strict=True)
    if mono:
        yield "chroma", "4:0:0"
        yield "range", "full" if bits.flag() else "limited"
        return
    if codes == (1, 13, 0):  # sRGB: no range bit is sent
        yield "chroma", "4:4:4"
        yield "range", "full"
        return
    yield "range", "full" if bits.flag() else "limited"
    across, down = _subsampling(bits, profile, depth)
    yield "chroma", SUBSAMPLINGS.get((across, down), "4:4:4")
    site = bits.u(2) if (across, down) == (1, 1) else 0
    if site in SITES:
        yield "chroma_location", SITES[site]


def _subsampling(bits: BitReader, profile: int, depth: int) -> tuple[int, int]:
    if profile == 0:
        return 1, 1
    if profile == 1:
        return 0, 0
    if depth < 12:
        return 1, 0
    across = bits.u(1)
    return across, bits.u(1) if across else 0
