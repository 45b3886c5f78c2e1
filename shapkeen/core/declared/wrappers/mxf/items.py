"""The properties that say something of picture and sound: name and form by tag and by label.

Source: SMPTE ST 377-1 annexes F and G, ST 2067-21 (mastering display); tags above 8000 are given
out by each file's primer, so that such a property is known by its label alone.
"""

from dataclasses import dataclass

from ...outline import FieldValue

WHOLE, SIGNED, RATIO, LABEL, PAIRS, ARRAY = "whole", "signed", "ratio", "label", "pairs", "array"


@dataclass(frozen=True, slots=True)
class Item:
    """A property: its name and the form of its value."""

    name: str
    form: str

    def read(self, data: bytes) -> tuple[int, ...] | bytes:
        """Return whole numbers, or a label's bytes."""
        if self.form == LABEL:
            return data[:16]
        if self.form == ARRAY:
            return _words(data[8:], 4)
        if self.form == RATIO:
            return _words(data[:8], 4)
        if self.form == PAIRS:
            return _words(data, 2)
        return (int.from_bytes(data[:8], "big", signed=self.form == SIGNED),)

    def show(self, data: bytes) -> FieldValue:
        """Return the value as an outline shows it."""
        value = self.read(data)
        if isinstance(value, bytes):
            return value.hex(".")
        if self.form == RATIO and len(value) == 2:
            return f"{value[0]}/{value[1]}"
        return value[0] if len(value) == 1 else ", ".join(map(str, value))


def _words(data: bytes, size: int) -> tuple[int, ...]:
    count = min(len(data) // size, 64)
    return tuple(int.from_bytes(data[i * size : (i + 1) * size], "big") for i in range(count))


BY_TAG = {
    0x0202: Item("Duration", SIGNED),
    0x1501: Item("StartTimecode", SIGNED),
    0x1502: Item("RoundedTimecodeBase", WHOLE),
    0x1503: Item("DropFrame", WHOLE),
    0x3001: Item("SampleRate", RATIO),
    0x3002: Item("ContainerDuration", SIGNED),
    0x3004: Item("EssenceContainer", LABEL),
    0x3006: Item("LinkedTrackID", WHOLE),
    0x3201: Item("PictureEssenceCoding", LABEL),
    0x3202: Item("StoredHeight", WHOLE),
    0x3203: Item("StoredWidth", WHOLE),
    0x3204: Item("SampledHeight", WHOLE),
    0x3205: Item("SampledWidth", WHOLE),
    0x3206: Item("SampledXOffset", SIGNED),
    0x3207: Item("SampledYOffset", SIGNED),
    0x3208: Item("DisplayHeight", WHOLE),
    0x3209: Item("DisplayWidth", WHOLE),
    0x320A: Item("DisplayXOffset", SIGNED),
    0x320B: Item("DisplayYOffset", SIGNED),
    0x320C: Item("FrameLayout", WHOLE),
    0x320D: Item("VideoLineMap", ARRAY),
    0x320E: Item("AspectRatio", RATIO),
    0x3210: Item("TransferCharacteristic", LABEL),
    0x3212: Item("FieldDominance", WHOLE),
    0x3217: Item("DisplayF2Offset", SIGNED),
    0x3219: Item("ColorPrimaries", LABEL),
    0x321A: Item("CodingEquations", LABEL),
    0x3301: Item("ComponentDepth", WHOLE),
    0x3302: Item("HorizontalSubsampling", WHOLE),
    0x3303: Item("ColorSiting", WHOLE),
    0x3304: Item("BlackRefLevel", WHOLE),
    0x3305: Item("WhiteRefLevel", WHOLE),
    0x3306: Item("ColorRange", WHOLE),
    0x3308: Item("VerticalSubsampling", WHOLE),
    0x3406: Item("ComponentMaxRef", WHOLE),
    0x3407: Item("ComponentMinRef", WHOLE),
    0x3D01: Item("QuantizationBits", WHOLE),
    0x3D03: Item("AudioSamplingRate", RATIO),
    0x3D07: Item("ChannelCount", WHOLE),
    0x4801: Item("TrackID", WHOLE),
    0x4804: Item("TrackNumber", WHOLE),
    0x4B01: Item("EditRate", RATIO),
    0x3F05: Item("EditUnitByteCount", WHOLE),
    0x3F07: Item("BodySID", WHOLE),
    0x3F0B: Item("IndexEditRate", RATIO),
    0x3F0C: Item("IndexStartPosition", SIGNED),
    0x3F0D: Item("IndexDuration", SIGNED),
}
BY_LABEL = {
    bytes.fromhex("060E2B34010101000420040101010000"): Item("MasteringDisplayPrimaries", PAIRS),
    bytes.fromhex("060E2B34010101000420040101020000"): Item("MasteringDisplayWhitePoint", PAIRS),
    bytes.fromhex("060E2B34010101000420040101030000"): Item(
        "MasteringDisplayMaximumLuminance", WHOLE
    ),
    bytes.fromhex("060E2B34010101000420040101040000"): Item(
        "MasteringDisplayMinimumLuminance", WHOLE
    ),
}
"""Byte 7, the register's version, is zero here: it is left out of comparisons."""


def item_of(tag: int, primer: dict[int, bytes]) -> Item | None:
    """Return the property behind a local tag, None for one that is not read."""
    if tag in BY_TAG:
        return BY_TAG[tag]
    label = primer.get(tag, b"")
    return BY_LABEL.get(label[:7] + b"\0" + label[8:])
