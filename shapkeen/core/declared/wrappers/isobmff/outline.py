"""The outline of a file: every box in file order, with the fields of known layouts."""

from collections.abc import Callable, Iterator

from ...layout import FieldError, Layout
from ...outline import FieldValue, Part, as_fields
from ...st2086 import AMBIENT, CONTENT_LIGHT, FIXED_POINT_DISPLAY, MASTERING_DISPLAY
from ...window import ShortReadError, Window
from .. import config
from . import layouts
from .boxes import MAX_TOP_BOXES, Box, walk
from .edits import read_edits
from .esds import read_esds
from .samples import read_words
from .spherical import V1_UUID, v1_texts

CONTAINERS = {
    # type → bytes before the first child
    **dict.fromkeys(
        ("moov", "trak", "mdia", "minf", "stbl", "edts", "mvex", "moof", "traf", "mfra", "dinf"), 0
    ),
    **dict.fromkeys(("sv3d", "proj", "vexu", "eyes", "pack", "udta"), 0),
    "stsd": layouts.STSD.size_bytes,
    "meta": layouts.FULL_BOX.size_bytes,
}
ENTRY_HEADS = {"vide": layouts.VISUAL_ENTRY, "soun": layouts.AUDIO_ENTRY}
LAYOUTS: dict[str, Layout] = {
    "hdlr": layouts.HDLR,
    "pasp": layouts.PASP,
    "clap": layouts.CLAP,
    "fiel": layouts.FIEL,
    "gama": layouts.GAMA,
    "mdcv": MASTERING_DISPLAY,
    "clli": CONTENT_LIGHT,
    "amve": AMBIENT,
    "btrt": layouts.BTRT,
    "dvcC": layouts.DYNAMIC_HDR,
    "dvvC": layouts.DYNAMIC_HDR,
    "st3d": layouts.ST3D,
    "prhd": layouts.PRHD,
    "equi": layouts.EQUI,
    "cbmp": layouts.CBMP,
    "mshp": layouts.MSHP,
    "stri": layouts.STRI,
    "prji": layouts.PRJI,
    "pkin": layouts.PKIN,
    "avcC": config.AVCC,
    "hvcC": config.HVCC,
    "av1C": config.AV1C,
    "vpcC": config.VPCC,
    "stsd": layouts.STSD,
    "stsz": layouts.STSZ,
    "sidx": layouts.SIDX,
    "mfhd": layouts.MFHD,
    "trex": layouts.TREX,
    "tfhd": layouts.TFHD,
    "trun": layouts.TRUN,
}
VERSIONED = {"mvhd": layouts.MVHD, "tkhd": layouts.TKHD, "mdhd": layouts.MDHD}
TABLES = {"stts": 2, "ctts": 2, "stsc": 3, "stss": 1, "stco": 1}
"""Tables of 32-bit numbers → how many make one entry."""
SHOWN_ENTRIES = 6
CODES = {"handler", "colour_type", "kind", "encoding"}
HIDDEN = {"zero", "predefined"}
FIXED_POINT = {"width": 65536, "height": 65536}
MAX_DEPTH = 12
MAX_PARTS = 3000
Fields = Iterator[tuple[str, FieldValue]]


def outline_isobmff(window: Window) -> tuple[Part, ...]:
    """Return the boxes of a file, at most MAX_PARTS of them; picture data is one part."""
    left = [MAX_PARTS]
    parts = []
    for box in walk(window, "", 0, min(MAX_PARTS, MAX_TOP_BOXES)):
        parts.append(_outlined(box, "", 0, left))
        if left[0] <= 0:
            break
    return tuple(parts)


def _outlined(box: Box, handler: str, depth: int, left: list[int]) -> Part:
    left[0] -= 1
    skip = CONTAINERS.get(box.type)
    is_entry = box.path.rpartition("/")[0].endswith("stsd")
    if is_entry and handler in ENTRY_HEADS:
        skip = ENTRY_HEADS[handler].size_bytes
    inside: list[Part] = []
    if skip is not None and depth < MAX_DEPTH and not box.is_cut and left[0] > 0:
        children = _children(box, skip)
        handler = next((_handler(c) for c in children if c.type == "hdlr"), handler)
        # The budget is shared, so that it is asked again before each child.
        inside = [_outlined(c, handler, depth + 1, left) for c in children if left[0] > 0]
    fields = _entry_fields(box, handler) if is_entry else _fields(box)
    return Part(
        name=box.type,
        where=box.path,
        start=box.start,
        size=box.claimed_end - box.start,
        fields=as_fields(_kept(fields)),
        parts=tuple(inside),
    )


def _children(box: Box, skip: int) -> list[Box]:
    try:
        return box.children(skip)
    except ShortReadError:
        return []


def _handler(box: Box) -> str:
    return box.bytes(12)[8:12].decode("latin-1")


def _kept(fields: Fields) -> list[tuple[str, FieldValue]]:
    """Return the fields up to where a box ends too soon; reserved ones say nothing."""
    kept: list[tuple[str, FieldValue]] = []
    try:
        for name, value in fields:
            if not name.startswith(("reserved", "ones")) and name not in HIDDEN:
                kept.append((name, value))
    except (FieldError, ShortReadError):
        kept.append(("ends", "too soon"))
    return kept


def _entry_fields(box: Box, handler: str) -> Fields:
    layout = ENTRY_HEADS.get(handler)
    if layout is None:
        return
    for name, value in layout.read(box.bytes(layout.size_bytes)).items():
        if name == "rate_16_16":
            yield "rate", value / 65536
        elif name == "compressor_name":
            text = value.to_bytes(32, "big")[1:].split(b"\0")[0]
            yield name, text.decode("latin-1")
        else:
            yield name, value


def _fields(box: Box) -> Fields:
    special = SPECIAL.get(box.type)
    if special is not None:
        yield from special(box)
    elif box.type in TABLES:
        yield from _table(box)
    elif box.type in VERSIONED:
        data = box.bytes(128)
        by_version = VERSIONED[box.type]
        yield from _shown(by_version.get(data[0] if data else 0, by_version[0]), data)
    elif box.type in LAYOUTS:
        layout = LAYOUTS[box.type]
        yield from _shown(layout, box.bytes(layout.size_bytes))
    elif box.type == "SmDm":
        yield from FIXED_POINT_DISPLAY.read(box.bytes(64), layouts.FULL_BOX.size_bytes).items()
    elif box.type == "CoLL":
        yield from CONTENT_LIGHT.read(box.bytes(8), layouts.FULL_BOX.size_bytes).items()


def _shown(layout: Layout, data: bytes) -> Fields:
    for name, value in layout.read(data).items():
        if name in CODES:
            yield name, value.to_bytes(4, "big").decode("latin-1")
        elif layout.name == "tkhd" and name in FIXED_POINT:
            yield name, value / FIXED_POINT[name]
        elif layout.name == "prhd" and name in ("yaw", "pitch", "roll"):
            yield name, value / 65536
        elif layout.name == "equi" and value and name not in ("version", "flags"):
            yield name, value / 2**32
        else:
            yield name, value


def _table(box: Box) -> Fields:
    count = layouts.TABLE.read(box.bytes(layouts.TABLE.size_bytes))["count"]
    yield "count", count
    width = TABLES[box.type]
    words = read_words(box.body, layouts.TABLE.size_bytes, min(count, SHOWN_ENTRIES) * width)
    for number in range(len(words) // width):
        entry = words[number * width : (number + 1) * width]
        yield f"entry[{number}]", ", ".join(map(str, entry))
    if count > SHOWN_ENTRIES:
        yield "…", f"{count - SHOWN_ENTRIES} more"


def _brands(box: Box) -> Fields:
    data = box.bytes(256)
    yield "major_brand", data[:4].decode("latin-1")
    yield "minor_version", int.from_bytes(data[4:8], "big")
    brands = [data[i : i + 4].decode("latin-1") for i in range(8, len(data) - 3, 4)]
    yield "compatible_brands", " ".join(brands)


def _colour(box: Box) -> Fields:
    data = box.bytes(32)
    is_nclx = data[:4] == b"nclx"
    by_kind = {b"nclx": layouts.COLR_NCLX, b"nclc": layouts.COLR_NCLC}
    yield from _shown(by_kind.get(data[:4], layouts.COLR_TYPE), data)
    if not is_nclx and data[:4] in (b"prof", b"rICC"):
        yield "icc_profile_bytes", box.body.size - 4


def _edits(box: Box) -> Fields:
    for number, edit in enumerate(read_edits(box)[:SHOWN_ENTRIES]):
        yield f"edit[{number}]", f"duration {edit.duration}, media time {edit.media_time}"


def _uuid(box: Box) -> Fields:
    data = box.bytes(16)
    yield "uuid", data.hex()
    if data == V1_UUID:
        yield from v1_texts(box).items()


def _esds(box: Box) -> Fields:
    stream = read_esds(box.bytes(4096))
    yield "codec", stream.codec or "not listed"
    yield "avg_rate", stream.bit_rate or 0
    yield "decoder_header_bytes", len(stream.header)


def _source(box: Box) -> Fields:
    yield "metadata_source", box.bytes(256)[4:].split(b"\0")[0].decode("utf-8", "replace")


SPECIAL: dict[str, Callable[[Box], Fields]] = {
    "ftyp": _brands,
    "styp": _brands,
    "colr": _colour,
    "elst": _edits,
    "uuid": _uuid,
    "esds": _esds,
    "svhd": _source,
}
