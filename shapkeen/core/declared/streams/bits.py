"""Reading bits from the most significant end, with Exp-Golomb codes.

Source: ITU-T H.264 and H.265 clauses 7.2 and 9 (9.1 in H.264, 9.2 in H.265).
"""

MAX_LEADING_ZEROS = 32


class BitsEndError(ValueError):
    """The coded header ends before the field that was asked for."""


class BitReader:
    """A position in a run of bytes; names of the calls are the standards' descriptors."""

    def __init__(self, data: bytes) -> None:
        """Start at the first bit of `data`."""
        self._number = int.from_bytes(data, "big")
        self._left = len(data) * 8

    def u(self, width: int) -> int:
        """Return an unsigned number of `width` bits; raises BitsEndError past the end."""
        if width > self._left:
            raise BitsEndError(f"{width} bits asked for, {self._left} left")
        self._left -= width
        return self._number >> self._left & ((1 << width) - 1)

    def flag(self) -> bool:
        """Return one bit as a claim."""
        return bool(self.u(1))

    def skip(self, width: int) -> None:
        """Pass over `width` bits."""
        self.u(width)

    def ue(self) -> int:
        """Return an unsigned Exp-Golomb code, ue(v)."""
        zeros = 0
        while not self.u(1):
            zeros += 1
            if zeros > MAX_LEADING_ZEROS:
                raise BitsEndError("no Exp-Golomb code has that many leading zeros")
        return (1 << zeros) - 1 + self.u(zeros)

    def se(self) -> int:
        """Return a signed Exp-Golomb code, se(v)."""
        code = self.ue()
        return (code + 1) // 2 if code % 2 else -(code // 2)
