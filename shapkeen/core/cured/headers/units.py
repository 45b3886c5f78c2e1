"""Units of H.264 and H.265 in samples: which of them change, and what is put in before the picture.

Source: ITU-T H.264 7.4.1.2.3, H.265 7.4.2.4.4 (order of units); ISO/IEC 14496-15.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ...declared import TraitValue
from ...declared.streams import h264, h265
from ...declared.window import Window
from ..copying import Patch
from ..wishes import Wishes
from .configuration import with_units
from .messages import numbers_in, said_in_messages, unit_of, wished_messages
from .parameter_sets import IN_VUI, UnreadableSetError, is_set, said_in_set

IDR, RANDOM_ACCESS = 5, range(16, 24)
"""Slice types at which decoding may begin: H.264's IDR, H.265's IRAP pictures."""
MESSAGE_TYPES = {"h264": frozenset({h264.NAL_SEI}), "h265": frozenset({h265.NAL_SEI})}
SET_TYPES = {"h264": frozenset({h264.NAL_SPS}), "h265": frozenset({h265.NAL_SPS})}
"""Sets that a cure may rewrite; picture parameter sets and all others must stay."""
MOST_MESSAGES = 1 << 20
"""Bytes of a unit of messages or of a set that are read: honest ones have some hundreds."""


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit of a sample: where its length stands, bytes of that, its own size, and its type."""

    at: int
    length: int
    size: int
    type: int

    @property
    def body(self) -> int:
        """Return where the unit itself begins."""
        return self.at + self.length


@dataclass(frozen=True, slots=True)
class Editor:
    """Makes the samples of one H.264 or H.265 track say what is wished.

    turns: whether a message has to say rotation and mirror, for the wrapper has no place for them.
    """

    codec: str
    length: int
    wishes: Wishes
    stated: Mapping[str, TraitValue]
    turns: bool = False

    @property
    def _messages(self) -> dict[int, bytes | None]:
        both = {**self.stated, **self.wishes}
        rotation = both.get("rotation")
        turned = (rotation if isinstance(rotation, int) else 0), bool(both.get("mirror"))
        return wished_messages(self.wishes, self.codec, turned if self.turns else None)

    @property
    def is_idle(self) -> bool:
        """Return whether no wish could change a sample."""
        return not (self.wishes.keys() & IN_VUI) and not self._messages

    def changed(self, unit: bytes) -> bytes:
        """Return a set or a unit of messages as it shall be; empty where nothing of it is left."""
        if not unit:
            return unit
        if is_set(unit, self.codec):
            try:
                return said_in_set(unit, self.codec, self.wishes, self.stated)
            except UnreadableSetError:
                return unit
        if unit_type(unit[:1], self.codec) in MESSAGE_TYPES[self.codec]:
            return said_in_messages(unit, self.codec, self._messages)
        return unit

    def patches(self, window: Window, place: int, size: int) -> Iterator[Patch]:
        """Yield the patches of one sample; none that would put bytes between two samples."""
        units = list(units_in(window, place, size, self.length, self.codec))
        missing = {number: made for number, made in self._messages.items() if made is not None}
        changed: dict[int, bytes] = {}
        for unit in units:
            if unit.type not in MESSAGE_TYPES[self.codec] | SET_TYPES[self.codec]:
                continue
            if unit.size > MOST_MESSAGES:
                continue
            given = window.read(unit.body, unit.size)
            if unit.type in MESSAGE_TYPES[self.codec]:
                missing = {
                    n: m for n, m in missing.items() if n not in numbers_in(given, self.codec)
                }
            made = self.changed(given)
            if made != given:
                changed[unit.at] = self._measured(made) if made else b""
        first = next((unit for unit in units if _is_slice(unit.type, self.codec)), None)
        if missing and first is not None and _is_random_access(first.type, self.codec):
            more = self._measured(unit_of(missing, self.codec))
            prefix = window.read(first.at, first.length)
            yield Patch(first.at, first.length, more + prefix)
        for unit in units:
            if unit.at in changed:
                yield Patch(unit.at, unit.length + unit.size, changed[unit.at])

    def _measured(self, unit: bytes) -> bytes:
        return len(unit).to_bytes(self.length, "big") + unit


def units_in(window: Window, place: int, size: int, length: int, codec: str) -> Iterator[Unit]:
    """Yield the units of a sample by their lengths; what does not fit ends it."""
    at, end = place, place + size
    while at + length < end:
        count = int.from_bytes(window.read(at, length), "big")
        if at + length + count > end:
            return
        if count:
            kind = unit_type(window.read(at + length, 1), codec)
            yield Unit(at, length, count, kind)
        at += length + count


def unit_type(head: bytes, codec: str) -> int:
    """Return the type that a unit's first byte gives."""
    return head[0] & 31 if codec == "h264" else head[0] >> 1 & 63


def unwritten(record: bytes, codec: str) -> bytes:
    """Return a configuration record without what a cure may rewrite; raises as with_units."""
    return with_units(
        record, codec, lambda unit: b"" if is_header(unit_type(unit, codec), codec) else unit
    )


def is_header(kind: int, codec: str) -> bool:
    """Return whether a unit is a set or messages, which a cure may change."""
    return kind in MESSAGE_TYPES[codec] | SET_TYPES[codec]


def _is_slice(kind: int, codec: str) -> bool:
    return kind in (h264.SLICES if codec == "h264" else h265.SLICES)


def _is_random_access(kind: int, codec: str) -> bool:
    return kind == IDR if codec == "h264" else kind in RANDOM_ACCESS
