"""Supplemental messages that H.264 and H.265 share, as tables.

Source: ITU-T H.265 annex D (D.2.28 and on), H.264 annex D; payload numbers are the same.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

from ..layout import FieldError, Layout, fields
from ..model import Notice, Said, TraitValue

MAX_MESSAGES = 64

MASTERING_DISPLAY = Layout(
    "mastering_display_colour_volume",
    fields(
        green_x=16,
        green_y=16,
        blue_x=16,
        blue_y=16,
        red_x=16,
        red_y=16,
        white_x=16,
        white_y=16,
        max=32,
        min=32,
    ),
    source="H.265 D.2.28 (SMPTE ST 2086): 0.00002 and 0.0001 cd/m²; order green, blue, red",
)
CONTENT_LIGHT = Layout(
    "content_light_level_info", fields(max_cll=16, max_fall=16), source="H.265 D.2.35"
)
ALTERNATIVE_TRANSFER = Layout(
    "alternative_transfer_characteristics", fields(preferred=8), source="H.265 D.2.38"
)

Stated: TypeAlias = Iterator[tuple[str, TraitValue]]


def _mastering_display(data: bytes) -> Stated:
    s = MASTERING_DISPLAY.read(data)
    display: dict[str, TraitValue] = {
        colour: (round(s[f"{colour}_x"] * 2e-5, 6), round(s[f"{colour}_y"] * 2e-5, 6))
        for colour in ("red", "green", "blue", "white")
    }
    yield "mastering_display", display | {"max": s["max"] / 10_000, "min": s["min"] / 10_000}


def _content_light(data: bytes) -> Stated:
    yield "content_light", dict(CONTENT_LIGHT.read(data))


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
        Message(137, "SEI 137 mastering display", _mastering_display),
        Message(144, "SEI 144 content light", _content_light),
        Message(147, "SEI 147 alternative transfer", _alternative_transfer),
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
        except FieldError as error:
            notices.append(Notice("short-message", f"The message is too short: {error}.", place))
    return said, notices
