"""Writing bits: the inverse of streams/bits.py, for building coded headers."""


class BitWriter:
    """Collects bits; names of the calls are the standards' descriptors."""

    def __init__(self) -> None:
        self._bits: list[str] = []

    def u(self, width: int, value: int) -> "BitWriter":
        if width:
            self._bits.append(f"{value & ((1 << width) - 1):0{width}b}")
        return self

    def ue(self, value: int) -> "BitWriter":
        code = f"{value + 1:b}"
        self._bits.append("0" * (len(code) - 1) + code)
        return self

    def se(self, value: int) -> "BitWriter":
        return self.ue(2 * value - 1 if value > 0 else -2 * value)

    def flags(self, *values: bool) -> "BitWriter":
        for value in values:
            self.u(1, int(value))
        return self

    def bytes(self) -> bytes:
        """Return the bits with the stop bit and zeros up to a whole byte."""
        text = "".join(self._bits) + "1"
        text += "0" * (-len(text) % 8)
        return int(text, 2).to_bytes(len(text) // 8, "big")
