"""Reading bits from the most significant end, with Exp-Golomb codes.

Source: ITU-T H.264 and H.265 clauses 7.2 and 9 (9.1 in H.264, 9.2 in H.265).
"""

from collections.abc import Mapping

from ..layout import Layout
from ..outline import MAX_FIELDS, FieldRead

MAX_LEADING_ZEROS = 32


class BitsEndError(ValueError):
    """The coded header ends before the field that was asked for."""


class BitReader:
    """A position in a run of bytes; names of the calls are the standards' descriptors.

    A read with a name, the syntax element's in the standard, is kept in `fields`; `marks` tells at
    which bit each name was read first.
    """

    def __init__(self, data: bytes) -> None:
        """Start at the first bit of `data`."""
        self._data = data
        self._at = 0
        self.fields: list[FieldRead] = []
        self.marks: dict[str, int] = {}

    @property
    def position(self) -> int:
        """Return how many bits were read."""
        return self._at

    @property
    def left(self) -> int:
        """Return how many bits are left."""
        return len(self._data) * 8 - self._at

    @property
    def named(self) -> Mapping[str, int]:
        """Return the named fields read so far; of a repeated name the first one."""
        found: dict[str, int] = {}
        for field in self.fields:
            found.setdefault(field.name, int(field.value))
        return found

    def u(self, width: int, name: str = "") -> int:
        """Return an unsigned number of `width` bits; raises BitsEndError past the end."""
        self._mark(name)
        return self._keep(self._take(width), name)

    def flag(self, name: str = "") -> bool:
        """Return one bit as a claim."""
        self._mark(name)
        return bool(self._keep(self._take(1), name))

    def skip(self, width: int) -> None:
        """Pass over `width` bits."""
        self._take(width)

    def ue(self, name: str = "") -> int:
        """Return an unsigned Exp-Golomb code, ue(v)."""
        self._mark(name)
        return self._keep(self._golomb(), name)

    def se(self, name: str = "") -> int:
        """Return a signed Exp-Golomb code, se(v)."""
        self._mark(name)
        code = self._golomb()
        return self._keep((code + 1) // 2 if code % 2 else -(code // 2), name)

    def table(self, layout: Layout) -> Mapping[str, int]:
        """Return the fields of a fixed header that stands next; raises BitsEndError past the end.

        Widths within the layout need not end on a byte.
        """
        found = {}
        for field in layout.fields:
            found[field.name] = self._keep(field.from_bits(self._take(field.bits)), field.name)
        return found

    def bytes_left(self, most: int) -> bytes:
        """Return whole bytes from here, at most `most`, and pass over them."""
        count = min(self.left // 8, most)
        return self._take(count * 8).to_bytes(count, "big")

    def _golomb(self) -> int:
        zeros = 0
        while not self._take(1):
            zeros += 1
            if zeros > MAX_LEADING_ZEROS:
                raise BitsEndError("no Exp-Golomb code has that many leading zeros")
        return (1 << zeros) - 1 + self._take(zeros)

    def _take(self, width: int) -> int:
        end = self._at + width
        if end > len(self._data) * 8:
            raise BitsEndError(f"{width} bits asked for, {self.left} left")
        first, last = self._at >> 3, (end + 7) >> 3
        self._at = end
        number = int.from_bytes(self._data[first:last], "big")
        return number >> (last * 8 - end) & ((1 << width) - 1)

    def _mark(self, name: str) -> None:
        if name:
            self.marks.setdefault(name, self._at)

    def _keep(self, value: int, name: str) -> int:
        if name and len(self.fields) < MAX_FIELDS:
            self.fields.append(FieldRead(name, value))
        return value
