"""A bounded view on an open file: no read goes outside it, and none is larger than allowed."""

from dataclasses import dataclass
from typing import BinaryIO

MAX_READ_BYTES = 32 * 1024 * 1024
"""One header's worth at most. The largest honest ones are sample tables: a two-hour index at
60 frames/s takes about 2 MB a table, so this leaves a day's worth."""


class ShortReadError(ValueError):
    """The file ends, or the window does, before the bytes that were asked for."""


@dataclass(frozen=True, slots=True)
class Window:
    """Bytes `start` to `end` (exclusive, absolute) of an open file."""

    source: BinaryIO
    start: int
    end: int

    @property
    def size(self) -> int:
        """Return how many bytes the window spans."""
        return self.end - self.start

    def read(self, offset: int, count: int) -> bytes:
        """Return exactly `count` bytes from `offset`, relative to the window.

        Raises ShortReadError where they are not all there or are too many for one header.
        """
        if offset < 0 or count < 0 or offset + count > self.size or count > MAX_READ_BYTES:
            raise ShortReadError(f"{count} bytes at {offset} do not fit {self.size}")
        self.source.seek(self.start + offset)
        data = self.source.read(count)
        if len(data) != count:
            raise ShortReadError(f"the file ends within {count} bytes at {offset}")
        return data

    def part(self, offset: int, count: int) -> "Window":
        """Return a narrower window; raises ShortReadError where it would not fit."""
        if offset < 0 or count < 0 or offset + count > self.size:
            raise ShortReadError(f"{count} bytes at {offset} do not fit {self.size}")
        return Window(self.source, self.start + offset, self.start + offset + count)
