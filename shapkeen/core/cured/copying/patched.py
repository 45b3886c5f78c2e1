"""A copy that is not written: reading a file with its patches in place."""

from bisect import bisect_right
from io import RawIOBase
from typing import BinaryIO

from .patches import Kept, Patches


class PatchedFile(RawIOBase):
    """What a copy would hold, read from the original and its patches."""

    def __init__(self, source: BinaryIO, size: int, patches: Patches) -> None:
        """Take the original, how many bytes it has, and its patches."""
        super().__init__()
        self._source, self._at = source, 0
        self._pieces = list(patches.pieces(size))
        self._starts = [0]
        for piece in self._pieces:
            length = piece.size if isinstance(piece, Kept) else len(piece)
            self._starts.append(self._starts[-1] + length)

    @property
    def size(self) -> int:
        """Return how many bytes the copy would have."""
        return self._starts[-1]

    def readable(self) -> bool:
        """Return that it can be read."""
        return True

    def seekable(self) -> bool:
        """Return that it can be read from any place."""
        return True

    def seek(self, offset: int, whence: int = 0) -> int:
        """Go to a place, counted from the start (0), from here (1) or from the end (2)."""
        self._at = offset + (0, self._at, self.size)[whence]
        return self._at

    def tell(self) -> int:
        """Return the place."""
        return self._at

    def read(self, count: int = -1) -> bytes:
        """Return bytes from here on, fewer at the end."""
        end = self.size if count < 0 else min(self._at + count, self.size)
        found = []
        while self._at < end:
            number = bisect_right(self._starts, self._at) - 1
            within = self._at - self._starts[number]
            length = min(end, self._starts[number + 1]) - self._at
            piece = self._pieces[number]
            if isinstance(piece, Kept):
                self._source.seek(piece.start + within)
                data = self._source.read(length)
            else:
                data = piece[within : within + length]
            if not data:
                break
            found.append(data)
            self._at += len(data)
        return b"".join(found)
