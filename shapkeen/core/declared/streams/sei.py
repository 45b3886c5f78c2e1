"""Supplemental messages that H.264 and H.265 share, as tables.

Source: ITU-T H.265 annex D (D.2.28 and on), H.264 annex D; payload numbers are the same.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

from ..layout import FieldError, Layout, fields
from ..model import Notice, Said, TraitValue
from ..st2086 import state_content_light, state_mastering_display

MAX_MESSAGES = 64

ALTERNATIVE_TRANSFER = Layout(
    "alternative_transfer_characteristics", fields(preferred=8), source="H.265 D.2.38"
)

Stated: TypeAlias = Iterator[tuple[str, TraitValue]]


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
        Message(137, "SEI 137 mastering display", state_mastering_display),
        Message(144, "SEI 144 content light", state_content_light),
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
