"""Sequence parameter sets of H.264 and H.265 with their usability information put right.

All bits before it and behind it stay. Source: ITU-T H.264 7.3.2.1.1 and E.1.1, H.265 7.3.2.2 and
E.2.1; aspect table: H.273 table 5.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import gcd

from ...declared import TraitValue
from ...declared.streams import h264, h265, nal
from ...declared.streams.bits import BitReader, BitsEndError
from ...declared.streams.model import HeaderReader
from ...declared.streams.vui import EXTENDED_SAR, SAMPLE_ASPECTS
from ..wishes import COLOUR_CODES, Wishes
from .bits_out import BitWriter, content_bits

PRESENT = "vui_parameters_present_flag"
UNSPECIFIED, UNSPECIFIED_FORMAT = 2, 5
MOST_ASPECT = 0xFFFF
IN_VUI = frozenset({*COLOUR_CODES, "range", "pixel_aspect", "chroma_location"})


@dataclass(frozen=True, slots=True)
class SetKind:
    """How one codec's sequence parameter sets are read.

    behind: the first syntax element behind what both codecs share. rest: bits of a usability
    information that holds nothing else, behind that.
    """

    unit_type: int
    header_bytes: int
    read: HeaderReader
    behind: str
    rest: int


KINDS = {
    "h264": SetKind(h264.NAL_SPS, h264.HEADER_BYTES, h264.read_sps, "timing_info_present_flag", 5),
    "h265": SetKind(
        h265.NAL_SPS, h265.HEADER_BYTES, h265.read_sps, "neutral_chroma_indication_flag", 6
    ),
}
"""The rest, all 0: H.264 timing, both buffers, picture structure, restriction; H.265 neutral
chroma, fields, picture structure, display window, timing, restriction."""


class UnreadableSetError(ValueError):
    """The parameter set ends before its usability information does."""


def is_set(unit: bytes, codec: str) -> bool:
    """Return whether a unit is a sequence parameter set of the base picture."""
    kind = KINDS[codec]
    if len(unit) <= kind.header_bytes:
        return False
    if codec == "h264":
        return h264.unit_type(unit) == kind.unit_type
    return h265.is_base(unit) and h265.unit_type(unit) == kind.unit_type


def said_in_set(unit: bytes, codec: str, wishes: Wishes, stated: Mapping[str, TraitValue]) -> bytes:
    """Return a parameter set's unit that says what is wished; the same one where it does already.

    unit: with its header and with emulation prevention, as it comes back. stated: what the other
    witness says, for fields that a wished neighbour forces. Raises UnreadableSetError.
    """
    if not wishes.keys() & IN_VUI:
        return unit
    kind = KINDS[codec]
    head, rbsp = unit[: kind.header_bytes], nal.payload(unit)[kind.header_bytes :]
    bits = BitReader(rbsp)
    try:
        for _ in kind.read(bits):
            pass
        end = content_bits(rbsp)
    except (BitsEndError, ValueError) as error:
        raise UnreadableSetError(str(error)) from error
    fields, marks = dict(bits.named), bits.marks
    if PRESENT not in marks or (fields[PRESENT] and kind.behind not in marks):
        raise UnreadableSetError("it ends before its usability information")
    begin = marks[PRESENT]
    out = BitWriter()
    out.bits_of(rbsp, 0, begin)
    out.flag(True)
    _write_shared(out, fields, wishes, stated)
    if fields[PRESENT]:
        out.bits_of(rbsp, marks[kind.behind], end)
    else:
        out.u(kind.rest, 0)
        out.bits_of(rbsp, begin + 1, end)
    made = head + nal.with_prevention(out.with_stop_bit())
    return unit if _is_same(made, unit) else made


def _is_same(made: bytes, unit: bytes) -> bool:
    return made == unit.rstrip(b"\0")


def _write_shared(
    out: BitWriter,
    own: Mapping[str, int],
    wishes: Wishes,
    stated: Mapping[str, TraitValue],
) -> None:
    """Write the part of E.1.1 and E.2.1 that both codecs share, up to the chroma location."""
    _write_aspect(out, own, wishes)
    out.u(1, own.get("overscan_info_present_flag", 0))
    if own.get("overscan_info_present_flag"):
        out.u(1, own["overscan_appropriate_flag"])
    _write_signal(out, own, wishes, stated)
    _write_location(out, own, wishes)


def _write_aspect(out: BitWriter, own: Mapping[str, int], wishes: Wishes) -> None:
    if "pixel_aspect" not in wishes:
        present = own.get("aspect_ratio_info_present_flag", 0)
        out.u(1, present)
        if present:
            out.u(8, own["aspect_ratio_idc"])
            if own["aspect_ratio_idc"] == EXTENDED_SAR:
                out.u(16, own["sar_width"])
                out.u(16, own["sar_height"])
        return
    wished = wishes["pixel_aspect"]
    if not isinstance(wished, tuple):
        out.u(1, 0)
        return
    h, v = (int(part) for part in wished)
    h, v = h // gcd(h, v), v // gcd(h, v)
    out.u(1, 1)
    known = next((idc for idc, ratio in SAMPLE_ASPECTS.items() if ratio == (h, v)), EXTENDED_SAR)
    out.u(8, known)
    if known == EXTENDED_SAR:
        out.u(16, min(h, MOST_ASPECT))
        out.u(16, min(v, MOST_ASPECT))


def _write_signal(
    out: BitWriter, own: Mapping[str, int], wishes: Wishes, stated: Mapping[str, TraitValue]
) -> None:
    names = {
        "primaries": "colour_primaries",
        "transfer": "transfer_characteristics",
        "matrix": "matrix_coefficients",
    }
    codes: dict[str, int | None] = {trait: own.get(name) for trait, name in names.items()}
    touched = [trait for trait in COLOUR_CODES if trait in wishes]
    for trait in touched:
        wished = wishes[trait]
        codes[trait] = wished if isinstance(wished, int) else None
    full = own.get("video_full_range_flag", int(stated.get("range") == "full"))
    if "range" in wishes:
        full = int(wishes["range"] == "full")
    described = any(code is not None for code in codes.values())
    if described:
        for trait in COLOUR_CODES:
            if codes[trait] is None:
                other = stated.get(trait) if trait not in wishes else None
                codes[trait] = other if isinstance(other, int) else UNSPECIFIED
    speaks = own.get("video_signal_type_present_flag", 0)
    gone = "range" in wishes and wishes["range"] is None and not described
    present = described or (bool(speaks) and not gone) or wishes.get("range") is not None
    out.u(1, int(present))
    if not present:
        return
    out.u(3, own.get("video_format", UNSPECIFIED_FORMAT))
    out.u(1, full)
    out.u(1, int(described))
    for trait in COLOUR_CODES if described else ():
        out.u(8, codes[trait] or 0)


def _write_location(out: BitWriter, own: Mapping[str, int], wishes: Wishes) -> None:
    names = ("chroma_sample_loc_type_top_field", "chroma_sample_loc_type_bottom_field")
    present = own.get("chroma_loc_info_present_flag", 0)
    places = [own.get(name, 0) for name in names]
    if "chroma_location" in wishes:
        wished = wishes["chroma_location"]
        present, places = int(isinstance(wished, int)), [int(wished or 0)] * 2  # type: ignore[arg-type]
    out.u(1, present)
    for place in places if present else ():
        out.ue(place)
