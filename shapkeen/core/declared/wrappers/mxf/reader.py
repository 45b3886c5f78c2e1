"""A whole MXF file: its header metadata, and the first pictures."""

from collections.abc import Iterator
from dataclasses import dataclass, field

from ....errors import UnreadableFileError, cut_off
from ....geometry.timecode import StartTimecode
from ...coded import CodedHeaders, HeaderUnit
from ...layout import FieldError
from ...model import AudioTrack, Notice, Said, VideoTrack
from ...outline import FieldValue, Part, as_fields
from ...window import ShortReadError, Window
from ..decoder import decoder_codec
from ..model import WrapperReading
from . import klv, labels
from .index import second_random_access
from .items import item_of
from .picture import Values, number, ratio, state_picture

HEAD_BYTES = 64 * 1024
MAX_PACKAGE_UNITS = 64
MAX_HEADER_UNITS = 4000
DURATIONS = ("ContainerDuration", "Duration")
"""Of the whole container, and of sequences on its tracks: in pictures, for picture and sound."""
SET_NAMES = {
    0x27: "generic picture descriptor",
    0x28: "CDCI picture descriptor",
    0x29: "RGBA picture descriptor",
    0x51: "MPEG video descriptor",
    0x44: "multiple descriptor",
    0x42: "generic sound descriptor",
    0x47: "AES3 sound descriptor",
    0x48: "wave sound descriptor",
    0x2F: "preface",
    0x30: "identification",
    0x18: "content storage",
    0x36: "material package",
    0x37: "source package",
    0x3B: "timeline track",
    0x0F: "sequence",
    0x11: "source clip",
    0x14: "timecode component",
    0x23: "essence container data",
}
"""Kinds of set by byte 14 of their key (from memory but 27, 28, 29, 44, 51)."""


def starts_mxf(head: bytes) -> bool:
    """Return whether the first bytes start an MXF file."""
    return head.startswith(klv.PARTITION[:4]) and klv.same_label(
        head[: len(klv.PARTITION)], klv.PARTITION
    )


@dataclass(slots=True)
class _Found:
    """What a walk over the header and the first content package meets."""

    partitions: list[dict[str, int]] = field(default_factory=list)
    primer: dict[int, bytes] = field(default_factory=dict)
    sets: list[tuple[klv.Unit, Values]] = field(default_factory=list)
    indexes: list[klv.Unit] = field(default_factory=list)
    picture: klv.Unit | None = None
    essence_start: int | None = None


def read_mxf(window: Window) -> WrapperReading:
    """Return what header metadata says, and the coded headers of the first pictures.

    Raises UnreadableFileError where there is no picture descriptor.
    """
    found = _walk(window)
    pictures = [(unit, values) for unit, values in found.sets if number(values, "StoredWidth")]
    if not pictures:
        raise UnreadableFileError(
            "The header metadata describes no picture. Either the export was broken off before "
            "its end, or the file holds only sound: choose the file with the picture.",
            code="no-picture",
            where="header metadata",
        )
    unit, values = pictures[0]
    where = _set_name(unit)
    codec = _codec(window, values)
    said = {trait: Said(value=v, where=where) for trait, v in state_picture(values)}
    return WrapperReading(
        wrapper="mxf",
        index_first=None,
        video=_video(window, found, values, codec),
        audio=tuple(_sound(found)),
        witness=said,
        coded=CodedHeaders(
            codec=codec, length_bytes=0, config=(), samples=tuple(_samples(window, found))
        ),
        notices=tuple(
            Notice("other-picture", "Another picture track; it is not described.", _set_name(other))
            for other, _ in pictures[1:]
        ),
        timecode=next(filter(None, (_timecode(values) for _, values in found.sets)), None),
    )


def _timecode(values: Values) -> StartTimecode | None:
    """Return what a timecode component says: the material package's, which players show, is first.

    Source: SMPTE ST 377-1, table of timecode components (from memory).
    """
    base, start = number(values, "RoundedTimecodeBase"), number(values, "StartTimecode")
    if not base or start is None or start < 0:
        return None
    drops = bool(number(values, "DropFrame")) and base % 30 == 0
    return StartTimecode(start, base, drops)


def _walk(window: Window) -> _Found:
    found = _Found()
    _look(window, 0, found, MAX_HEADER_UNITS)
    header = found.partitions[0] if found.partitions else {}
    footer = header.get("footer_partition", 0)
    if footer >= window.size:
        raise cut_off(
            f"The file is cut off: its footer should stand at byte {footer}, and it ends at byte "
            f"{window.size}",
            "header partition",
        )
    if footer:
        # A header left open is completed in the footer; index tables often stand only there.
        complete = any(number(values, "StoredWidth") for _, values in found.sets)
        behind = _Found(primer=found.primer)
        _look(window, footer, behind, MAX_HEADER_UNITS)
        found.indexes += behind.indexes
        if behind.sets and (not complete or not header["closed"]):
            found.sets, found.primer = behind.sets, behind.primer
    return found


def _look(window: Window, start: int, found: _Found, most: int) -> None:
    """Take what matters from the units behind `start`, up to the first picture."""
    for count, unit in enumerate(klv.walk(window, start)):
        try:
            _take(unit, found)
        except (FieldError, ShortReadError):
            continue
        if found.picture is not None or count > most:
            return


def _take(unit: klv.Unit, found: _Found) -> None:
    if unit.partition_kind is not None:
        pack = dict(klv.PARTITION_PACK.read(unit.bytes(klv.PARTITION_PACK.size_bytes)))
        pack["closed"] = int(unit.key[14] in klv.CLOSED)
        found.partitions.append(pack)
    elif klv.same_label(unit.key, klv.PRIMER):
        found.primer = klv.read_primer(unit)
    elif unit.is_set:
        found.sets.append((unit, _values(unit, found.primer)))
    elif klv.same_label(unit.key[: len(klv.INDEX_SEGMENT)], klv.INDEX_SEGMENT):
        found.indexes.append(unit)
    elif unit.is_essence or unit.is_system:
        found.essence_start = unit.start if found.essence_start is None else found.essence_start
        if unit.is_picture:
            found.picture = unit


def _values(unit: klv.Unit, primer: dict[int, bytes]) -> Values:
    values: dict[str, tuple[int, ...] | bytes] = {}
    for tag, data in klv.read_properties(unit.bytes()):
        item = item_of(tag, primer)
        if item is not None:
            values.setdefault(item.name, item.read(data))
    return values


def _set_name(unit: klv.Unit) -> str:
    return SET_NAMES.get(unit.key[14], f"set {unit.key[14]:02X}")


def _label(values: Values, name: str) -> bytes:
    found = values.get(name)
    return found if isinstance(found, bytes) else b""


def _codec(window: Window, values: Values) -> str:
    coding, container = _label(values, "PictureEssenceCoding"), _label(values, "EssenceContainer")
    return labels.codec_of(coding, container) or decoder_codec(window, coding.hex(".") or "MXF")


def _video(window: Window, found: _Found, values: Values, codec: str) -> VideoTrack:
    rate = ratio(values, "SampleRate")
    count = number(values, "ContainerDuration") or max(
        (number(v, name) or 0 for _, v in found.sets for name in DURATIONS), default=0
    )
    duration = float(count / rate) if rate and 0 < count < 1 << 40 else None
    bits = None
    if duration and found.essence_start is not None:
        sound = sum(track.bit_rate or 0 for track in _sound(found))
        bits = max(round((window.size - found.essence_start) * 8 / duration) - sound, 0) or None
    return VideoTrack(
        codec=codec,
        codec_tag=_label(values, "PictureEssenceCoding").hex().upper()
        or _label(values, "EssenceContainer").hex().upper(),
        frame_count=count if duration else None,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=bits,
    )


def _sound(found: _Found) -> Iterator[AudioTrack]:
    for _, values in found.sets:
        rate = ratio(values, "AudioSamplingRate")
        if rate is None:
            continue
        channels, bits = number(values, "ChannelCount"), number(values, "QuantizationBits")
        yield AudioTrack(
            codec="pcm",
            sample_rate_hz=round(rate),
            channels=channels,
            bit_rate=round(rate * channels * bits) if channels and bits else None,
        )


def _samples(window: Window, found: _Found) -> Iterator[HeaderUnit]:
    """Yield the first bytes of the first picture and of the next at which decoding can start."""
    if found.picture is None or found.essence_start is None:
        return
    yield HeaderUnit(found.picture.bytes(HEAD_BYTES), "picture 0")
    place = second_random_access(found.indexes)
    if place is None:
        return
    edit_unit, offset = place
    start = found.essence_start + offset
    for count, unit in enumerate(klv.walk(window, min(start, window.size))):
        if unit.is_picture:
            yield HeaderUnit(unit.bytes(HEAD_BYTES), f"picture {edit_unit}")
        if unit.is_picture or count > MAX_PACKAGE_UNITS:
            return


def outline_mxf(window: Window) -> tuple[Part, ...]:
    """Return partitions and sets with the properties that are read, up to the first picture."""
    return tuple(_outlined(window))


def _outlined(window: Window) -> Iterator[Part]:
    primer: dict[int, bytes] = {}
    for count, unit in enumerate(klv.walk(window, 0)):
        if count > MAX_HEADER_UNITS:
            return
        part = _part(unit, primer)
        if part is not None:
            yield part
        if unit.is_picture:
            return


def _part(unit: klv.Unit, primer: dict[int, bytes]) -> Part | None:
    size = unit.body.end - unit.start
    try:
        if unit.partition_kind is not None:
            name = klv.KIND_NAMES[unit.partition_kind]
            pack = klv.PARTITION_PACK.read(unit.bytes(klv.PARTITION_PACK.size_bytes))
            shown: dict[str, FieldValue] = {**pack}
            shown |= {"operational_pattern": f"{pack['operational_pattern']:032X}"}
            return Part(name=name, where=name, start=unit.start, size=size, fields=as_fields(shown))
        if klv.same_label(unit.key, klv.PRIMER):
            primer |= klv.read_primer(unit)
            fields = as_fields({"count": len(primer)})
            return Part(name="primer pack", where="", start=unit.start, size=size, fields=fields)
        if unit.is_set:
            known = ((item_of(t, primer), data) for t, data in klv.read_properties(unit.bytes()))
            fields = as_fields([(item.name, item.show(data)) for item, data in known if item])
            name = _set_name(unit)
            return Part(name=name, where=name, start=unit.start, size=size, fields=fields)
    except (FieldError, ShortReadError):
        return None
    if unit.is_picture:
        return Part(name="picture essence", where="picture 0", start=unit.start, size=size)
    return None
