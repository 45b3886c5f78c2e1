"""Supplemental messages of H.264 and H.265, added, changed and taken away.

Source: ITU-T H.264 annex D, H.265 annex D; the numbers are the same. Each kind is one entry.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeAlias

from ...declared import TraitValue
from ...declared.st2086 import CONTENT_LIGHT, MASTERING_DISPLAY
from ...declared.streams import h264, h265, nal
from ...declared.streams.sei import split_messages
from ..light import display_fields, light_fields
from ..wishes import SPHERE, Wishes
from .bits_out import BitWriter

HEADS = {"h264": bytes([h264.NAL_SEI]), "h265": bytes([h265.NAL_SEI << 1, 1])}
"""A unit's header: of H.265 the base layer, temporal sub-layer 0."""
STOP = b"\x80"
PACKINGS = {
    # frame_packing_arrangement_type and content_interpretation_type
    "left-right": (3, 1),
    "right-left": (3, 2),
    "top-bottom": (4, 1),
    "bottom-top": (4, 2),
    "frame-sequential": (5, 1),
    "mono": (6, 0),
}
SEQUENTIAL, ORIENTATION = 5, 47
Turned: TypeAlias = tuple[int, bool]
"""Rotation clockwise in degrees, and whether the picture is mirrored before it."""


@dataclass(frozen=True, slots=True)
class Message:
    """One message: its number, the trait that it states, and its payload for a wished value.

    payload: None where the message has no word for the value, or is not written but in wrappers
    without a place for it: an old one then goes.
    """

    number: int
    traits: frozenset[str]
    payload: Callable[[TraitValue, str], bytes | None]


def _display(value: TraitValue, _codec: str) -> bytes | None:
    if not isinstance(value, Mapping):
        return None
    return MASTERING_DISPLAY.write(**display_fields(value))


def _light(value: TraitValue, _codec: str) -> bytes | None:
    return CONTENT_LIGHT.write(**light_fields(value)) if isinstance(value, Mapping) else None


def _transfer(value: TraitValue, _codec: str) -> bytes | None:
    return bytes([value]) if isinstance(value, int) and 0 <= value <= 0xFF else None


def _packing(value: TraitValue, codec: str) -> bytes | None:
    """Return a frame packing arrangement. Source: H.264 D.1.26, H.265 D.2.16."""
    if value not in PACKINGS:
        return None
    kind, meaning = PACKINGS[str(value)]
    out = BitWriter()
    out.ue(0)  # frame_packing_arrangement_id
    out.u(1, 0)  # cancel
    out.u(7, kind)
    out.u(1, 0)  # quincunx_sampling_flag
    out.u(6, meaning)
    out.u(6, 0)  # flipping, fields, current frame, self-contained
    if kind != SEQUENTIAL:
        out.u(16, 0)  # grid positions
    out.u(8, 0)  # reserved byte
    if codec == "h264":
        out.ue(1)  # repetition period: until the next
        out.u(1, 0)  # extension
    else:
        out.u(2, 0b10)  # persists; no aspect ratio of an upsampled picture
    if out.width % 8:
        out.u(1, 1)  # payload bit equal to one, then zeros
    return bytes(out)


def _goes(_value: TraitValue, _codec: str) -> bytes | None:
    return None


MESSAGES = (
    Message(45, frozenset({"stereo"}), _packing),
    Message(ORIENTATION, frozenset({"rotation", "mirror"}), _goes),
    Message(137, frozenset({"mastering_display"}), _display),
    Message(144, frozenset({"content_light"}), _light),
    Message(147, frozenset({"alternative_transfer"}), _transfer),
    Message(150, SPHERE, _goes),
    Message(151, SPHERE, _goes),
    Message(154, SPHERE, _goes),
)


def _orientation(turned: Turned, codec: str) -> bytes | None:
    """Return a display orientation: flipped first, then turned. Source: H.264 D.1.27, H.265 D.2.17
    (clause numbers from memory)."""
    rotation, mirrored = turned
    if not rotation and not mirrored:
        return None
    out = BitWriter()
    out.u(1, 0)  # cancel
    out.u(1, int(mirrored))
    out.u(1, 0)  # upside down
    out.u(16, (360 - rotation) % 360 * 65_536 // 360)  # anticlockwise
    if codec == "h264":
        out.ue(1)  # repetition period: until the next
        out.u(1, 0)  # extension
    else:
        out.u(1, 1)  # persists
    if out.width % 8:
        out.u(1, 1)  # payload bit equal to one, then zeros
    return bytes(out)


def wished_messages(
    wishes: Wishes, codec: str, turned: Turned | None = None
) -> dict[int, bytes | None]:
    """Return number → payload of the messages that wishes touch; None where it shall go.

    turned: rotation and mirror as both shall be, where the wrapper has no place for them.
    """
    found: dict[int, bytes | None] = {}
    for message in MESSAGES:
        touched = [trait for trait in message.traits if trait in wishes]
        if touched:
            value = wishes[touched[0]]
            found[message.number] = None if value is None else message.payload(value, codec)
    if turned is not None and ORIENTATION in found:
        found[ORIENTATION] = _orientation(turned, codec)
    return found


def said_in_messages(unit: bytes, codec: str, wished: Mapping[int, bytes | None]) -> bytes:
    """Return a unit of messages with those wished in place of their old ones.

    unit: with its header and emulation prevention, as it comes back; empty where no message is
    left. A unit that cannot be split to its end stays as it is.
    """
    size = len(HEADS[codec])
    rbsp = nal.payload(unit)[size:]
    found = list(split_messages(rbsp))
    if not any(number in wished for number, _ in found):
        return unit
    if _written(found) + STOP != rbsp.rstrip(b"\0"):
        return unit
    kept = []
    for number, payload in found:
        made = wished.get(number, payload) if number in wished else payload
        if made is not None:
            kept.append((number, made))
    if kept == found:
        return unit
    return unit[:size] + nal.with_prevention(_written(kept) + STOP) if kept else b""


def numbers_in(unit: bytes, codec: str) -> frozenset[int]:
    """Return which messages a unit holds."""
    rbsp = nal.payload(unit)[len(HEADS[codec]) :]
    return frozenset(number for number, _ in split_messages(rbsp))


def unit_of(messages: Mapping[int, bytes], codec: str) -> bytes:
    """Return a new unit with these messages, in order of their numbers."""
    return HEADS[codec] + nal.with_prevention(_written(sorted(messages.items())) + STOP)


def _in_steps(value: int) -> bytes:
    return b"\xff" * (value // 255) + bytes([value % 255])


def _written(messages: list[tuple[int, bytes]]) -> bytes:
    parts = []
    for number, payload in messages:
        parts += [_in_steps(number), _in_steps(len(payload)), payload]
    return b"".join(parts)
