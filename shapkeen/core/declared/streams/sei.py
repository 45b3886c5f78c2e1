"""Supplemental messages that H.264 and H.265 share, as tables.

Source: ITU-T H.265 annex D (D.2.28 and on), H.264 annex D; payload numbers are the same.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

from ..layout import FieldError, Layout, fields
from ..model import Notice, Said, TraitValue
from ..st2086 import state_content_light, state_mastering_display
from .bits import BitReader, BitsEndError
from .t35 import state_dynamic_hdr

MAX_MESSAGES = 64

ALTERNATIVE_TRANSFER = Layout(
    "alternative_transfer_characteristics", fields(preferred=8), source="H.265 D.2.38"
)

Stated: TypeAlias = Iterator[tuple[str, TraitValue]]


SPHERE_ROTATION = Layout(
    "sphere_rotation",
    fields(cancel=1, persistence=1, reserved=6, yaw=-32, pitch=-32, roll=-32),
    source="H.265 D.2.41 (from memory): 2^-16 degree",
)
OMNIDIRECTIONAL = Layout(
    "equirectangular_projection and cubemap_projection",
    fields(cancel=1, rest=7),
    source="H.265 D.2.41 (from memory)",
)
PACKINGS = {
    # frame_packing_arrangement_type: frame 0 is the left view, frame 0 is the right view
    3: ("left-right", "right-left"),
    4: ("top-bottom", "bottom-top"),
    5: ("frame-sequential", "frame-sequential"),
    6: ("mono", "mono"),
}


def _frame_packing(data: bytes) -> Stated:
    """State how two eyes are packed. Source: H.265 D.2.16, H.264 D.1.26."""
    bits = BitReader(data)
    bits.ue()  # frame_packing_arrangement_id
    if bits.flag():  # cancel
        return
    kind = bits.u(7)
    bits.skip(1)  # quincunx_sampling_flag
    meaning = bits.u(6)
    first, second = PACKINGS.get(kind, ("other", "other"))
    # 0 leaves open which eye comes first, and no word of ours says a packing without an order.
    by_meaning = {1: first, 2: second}
    yield "stereo", first if first == second else by_meaning.get(meaning, "other")


def _omnidirectional(projection: str) -> Callable[[bytes], Stated]:
    def read(data: bytes) -> Stated:
        if not OMNIDIRECTIONAL.read(data)["cancel"]:
            yield "projection", projection

    return read


def _sphere_rotation(data: bytes) -> Stated:
    raw = SPHERE_ROTATION.read(data.ljust(SPHERE_ROTATION.size_bytes, b"\0"))
    pose = {axis: raw[axis] / 65536 for axis in ("yaw", "pitch", "roll")}
    if not raw["cancel"] and any(pose.values()):
        yield "pose", pose


def _alternative_transfer(data: bytes) -> Stated:
    yield "alternative_transfer", ALTERNATIVE_TRANSFER.read(data)["preferred"]


@dataclass(frozen=True, slots=True)
class Message:
    """One known message: payload number, the name shown as its place, and its reader."""

    number: int
    name: str
    read: Callable[[bytes], Stated]


MESSAGES = {
    message.number: message
    for message in (
        Message(4, "SEI 4 T.35", state_dynamic_hdr),
        Message(45, "SEI 45 frame packing", _frame_packing),
        Message(137, "SEI 137 mastering display", state_mastering_display),
        Message(144, "SEI 144 content light", state_content_light),
        Message(147, "SEI 147 alternative transfer", _alternative_transfer),
        Message(150, "SEI 150 equirectangular", _omnidirectional("equirectangular")),
        Message(151, "SEI 151 cubemap", _omnidirectional("cubemap")),
        Message(154, "SEI 154 sphere rotation", _sphere_rotation),
    )
}


def split_messages(rbsp: bytes) -> Iterator[tuple[int, bytes]]:
    """Yield payload number and payload of each message in a unit (its header left out)."""
    offset = 0
    for _ in range(MAX_MESSAGES):
        numbers = []
        for _ in range(2):
            value = 0
            while offset < len(rbsp) and rbsp[offset] == 0xFF:
                value += 255
                offset += 1
            if offset >= len(rbsp):
                return
            numbers.append(value + rbsp[offset])
            offset += 1
        kind, size = numbers
        if offset + size > len(rbsp):
            return
        yield kind, rbsp[offset : offset + size]
        offset += size
        if rbsp[offset : offset + 1] in (b"", b"\x80"):
            return


def read_messages(rbsp: bytes, where: str) -> tuple[dict[str, Said], list[Notice]]:
    """Return the traits that the known messages of one unit state."""
    said: dict[str, Said] = {}
    notices = []
    for number, data in split_messages(rbsp):
        message = MESSAGES.get(number)
        if message is None:
            continue
        place = f"{message.name} ({where})"
        try:
            for trait, value in message.read(data):
                said.setdefault(trait, Said(value=value, where=place))
        except (FieldError, BitsEndError) as error:
            notices.append(Notice("short-message", f"The message is too short: {error}.", place))
    return said, notices
