"""Writing bits from the most significant end, with Exp-Golomb codes.

Source: ITU-T H.264 and H.265 clauses 7.2 and 9 (9.1 in H.264, 9.2 in H.265).
"""


class BitWriter:
    """A growing run of bits; names of the calls are the standards' descriptors."""

    def __init__(self) -> None:
        """Begin with none."""
        self._number = 0
        self._width = 0

    @property
    def width(self) -> int:
        """Return how many bits there are."""
        return self._width

    def u(self, width: int, value: int) -> None:
        """Add an unsigned number of `width` bits; raises ValueError where it does not fit."""
        if value < 0 or value >> width:
            raise ValueError(f"{value} does not fit {width} bits")
        self._number = self._number << width | value
        self._width += width

    def flag(self, value: bool) -> None:
        """Add one bit."""
        self.u(1, int(value))

    def ue(self, value: int) -> None:
        """Add an unsigned Exp-Golomb code, ue(v)."""
        zeros = (value + 1).bit_length() - 1
        self.u(2 * zeros + 1, value + 1)

    def bits_of(self, data: bytes, start: int, end: int) -> None:
        """Add bits `start` to `end` (exclusive) of other bytes as they are."""
        if end <= start:
            return
        first, last = start >> 3, (end + 7) >> 3
        number = int.from_bytes(data[first:last], "big") >> (last * 8 - end)
        self.u(end - start, number & ((1 << (end - start)) - 1))

    def with_stop_bit(self) -> bytes:
        """Return the bytes with the stop bit and zeros behind it (rbsp_trailing_bits)."""
        self.u(1, 1)
        return bytes(self)

    def __bytes__(self) -> bytes:
        """Return the bits as bytes, zeros behind the last."""
        padding = -self._width % 8
        return (self._number << padding).to_bytes((self._width + padding) // 8, "big")


def content_bits(rbsp: bytes) -> int:
    """Return how many bits stand before the stop bit; raises ValueError without one."""
    whole = rbsp.rstrip(b"\0")
    if not whole:
        raise ValueError("a unit without a stop bit")
    last = whole[-1]
    return len(whole) * 8 - ((last & -last).bit_length())
