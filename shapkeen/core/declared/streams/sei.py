"""Supplemental messages that H.264 and H.265 share, as tables.

Source: ITU-T H.265 annex D (D.2.28 and on), H.264 annex D; payload numbers are the same.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import TypeAlias

from ..layout import Layout, fields
from ..outline import FieldRead
from ..st2086 import AMBIENT, CONTENT_LIGHT, MASTERING_DISPLAY, content_light, mastering_display
from .bits import BitReader
from .model import HeaderReader, Reading, Stated
from .t35 import state_dynamic_hdr

MAX_MESSAGES = 64
MAX_TEXT_BYTES = 400

MessageReader: TypeAlias = Callable[[BitReader, Mapping[str, int]], Stated]
"""Reads a payload; the mapping holds the active parameter set's fields by name."""

ALTERNATIVE_TRANSFER = Layout(
    "alternative_transfer_characteristics",
    fields(preferred_transfer_characteristics=8),
    source="H.265 D.2.38",
)
SPHERE_ROTATION = Layout(
    "sphere_rotation",
    fields(persistence_flag=1, reserved=6, yaw_rotation=-32, pitch_rotation=-32, roll_rotation=-32),
    source="H.265 D.2.41 (from memory): 2^-16 degree",
)
PACKINGS = {
    # frame_packing_arrangement_type: frame 0 is the left view, frame 0 is the right view
    3: ("left-right", "right-left"),
    4: ("top-bottom", "bottom-top"),
    5: ("frame-sequential", "frame-sequential"),
    6: ("mono", "mono"),
}
SEQUENTIAL_PACKING = 5


def _frame_packing(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    """State how two eyes are packed. Source: H.265 D.2.16, H.264 D.1.26."""
    bits.ue("frame_packing_arrangement_id")
    if bits.flag("frame_packing_arrangement_cancel_flag"):
        return
    kind = bits.u(7, "frame_packing_arrangement_type")
    quincunx = bits.flag("quincunx_sampling_flag")
    meaning = bits.u(6, "content_interpretation_type")
    first, second = PACKINGS.get(kind, ("other", "other"))
    # 0 leaves open which eye comes first, and no word of ours says a packing without an order.
    by_meaning = {1: first, 2: second}
    yield "stereo", first if first == second else by_meaning.get(meaning, "other")
    for name in (
        "spatial_flipping_flag",
        "frame0_flipped_flag",
        "field_views_flag",
        "current_frame_is_frame0_flag",
        "frame0_self_contained_flag",
        "frame1_self_contained_flag",
    ):
        bits.flag(name)
    if not quincunx and kind != SEQUENTIAL_PACKING:
        for frame in (0, 1):
            bits.u(4, f"frame{frame}_grid_position_x")
            bits.u(4, f"frame{frame}_grid_position_y")


def _display_orientation(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    """State how the picture is turned for display.

    Source: H.264 D.1.27, H.265 D.2.17, clause numbers from memory. It is flipped first, then turned
    anticlockwise in parts of 65536 to a whole turn; only quarter turns have a word of ours.
    """
    if bits.flag("display_orientation_cancel_flag"):
        return
    across, down = bits.flag("hor_flip"), bits.flag("ver_flip")
    turn = bits.u(16, "anticlockwise_rotation") * 360 / 65536
    clockwise = round(-turn + (180 if down else 0)) % 360
    if across != down:  # upside down is a mirror and half a turn
        yield "mirror", True
    if clockwise in (90, 180, 270):
        yield "rotation", clockwise


def _omnidirectional(bits: BitReader, _sps: Mapping[str, int], *, projection: str) -> Stated:
    if not bits.flag("cancel_flag"):
        yield "projection", projection
        bits.flag("persistence_flag")


def _sphere_rotation(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    if bits.flag("sphere_rotation_cancel_flag"):
        return
    raw = bits.table(SPHERE_ROTATION)
    pose = {axis: raw[f"{axis}_rotation"] / 65536 for axis in ("yaw", "pitch", "roll")}
    if any(pose.values()):
        yield "pose", pose


def _alternative_transfer(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    yield (
        "alternative_transfer",
        bits.table(ALTERNATIVE_TRANSFER)["preferred_transfer_characteristics"],
    )


def _mastering_display(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    yield from mastering_display(bits.table(MASTERING_DISPLAY))


def _content_light(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    yield from content_light(bits.table(CONTENT_LIGHT))


def _ambient(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    """Read the light of the mastering room; no trait of ours holds it."""
    bits.table(AMBIENT)
    yield from ()


def _registered(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    yield from state_dynamic_hdr(bits)


def _unregistered(bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    """Keep what a writer noted; encoders put their settings there."""
    uuid = bits.bytes_left(16)
    text = bits.bytes_left(MAX_TEXT_BYTES).decode("latin-1")
    words = "".join(letter for letter in text if letter.isprintable())
    bits.fields.append(FieldRead("uuid_iso_iec_11578", uuid.hex()))
    bits.fields.append(FieldRead("user_data", words))
    yield from ()


@dataclass(frozen=True, slots=True)
class Message:
    """One known message: payload number, the name shown as its place, and its reader."""

    number: int
    name: str
    read: MessageReader


SHARED = {
    message.number: message
    for message in (
        Message(4, "SEI 4 T.35", _registered),
        Message(5, "SEI 5 user data", _unregistered),
        Message(45, "SEI 45 frame packing", _frame_packing),
        Message(47, "SEI 47 display orientation", _display_orientation),
        Message(137, "SEI 137 mastering display", _mastering_display),
        Message(144, "SEI 144 content light", _content_light),
        Message(147, "SEI 147 alternative transfer", _alternative_transfer),
        Message(148, "SEI 148 ambient viewing", _ambient),
        Message(
            150, "SEI 150 equirectangular", partial(_omnidirectional, projection="equirectangular")
        ),
        Message(151, "SEI 151 cubemap", partial(_omnidirectional, projection="cubemap")),
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


def read_messages(
    rbsp: bytes,
    where: str,
    reading: Reading,
    *,
    messages: Mapping[int, Message] = SHARED,
    sps: Mapping[str, int] | None = None,
) -> None:
    """Take what the known messages of one unit state; unknown ones are outlined by number."""
    active = sps or {}
    for number, data in split_messages(rbsp):
        message = messages.get(number) or Message(number, f"SEI {number}", _nothing)
        reading.header(message.name, where, data, bound(message.read, active))


def bound(read: MessageReader, sps: Mapping[str, int]) -> HeaderReader:
    """Return a reader that knows the active parameter set's fields."""
    return lambda bits: read(bits, sps)


def _nothing(_bits: BitReader, _sps: Mapping[str, int]) -> Stated:
    yield from ()
