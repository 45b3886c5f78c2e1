"""Headers as tables: a `Layout` is a list of named fields with widths, read from bytes.

The reader is general and small; the tables stand in the modules of their formats and read
like the standards' own. Conditional headers are plain functions over a `BitReader` instead.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field


class FieldError(ValueError):
    """A header ends before its field does; carries the field's path."""


@dataclass(frozen=True, slots=True)
class Field:
    """One field: name, width in bits, and whether it is two's complement."""

    name: str
    bits: int
    signed: bool = False

    def from_bits(self, raw: int) -> int:
        """Return the value of the field's bits."""
        return raw - (1 << self.bits) if self.signed and raw >> (self.bits - 1) else raw


@dataclass(frozen=True, slots=True)
class Layout:
    """A fixed header: its name, its fields in file order, and the clause they come from.

    little: least significant byte first; every field then takes whole bytes.
    """

    name: str
    fields: tuple[Field, ...]
    source: str
    little: bool = False
    size_bytes: int = field(init=False)
    """The whole bytes that the fields take."""

    def __post_init__(self) -> None:
        """Add the widths up once: headers are read by the thousand."""
        bits = sum(each.bits for each in self.fields)
        object.__setattr__(self, "size_bytes", (bits + 7) // 8)

    def read(self, data: bytes, offset: int = 0) -> Mapping[str, int]:
        """Return every field by name, from `offset`.

        Raises FieldError naming the first field that does not fit.
        """
        raw = data[offset : offset + self.size_bytes]
        values = dict(self._little(raw) if self.little else self._big(raw))
        missing = next((each for each in self.fields if each.name not in values), None)
        if missing is not None:
            raise FieldError(f"{self.name}.{missing.name}: the header ends before it")
        return values

    def _big(self, raw: bytes) -> Iterator[tuple[str, int]]:
        number, left = int.from_bytes(raw, "big"), len(raw) * 8
        for each in self.fields:
            left -= each.bits
            if left < 0:
                return
            yield each.name, each.from_bits(number >> left & ((1 << each.bits) - 1))

    def _little(self, raw: bytes) -> Iterator[tuple[str, int]]:
        offset = 0
        for each in self.fields:
            end = offset + each.bits // 8
            if end > len(raw):
                return
            yield each.name, each.from_bits(int.from_bytes(raw[offset:end], "little"))
            offset = end

    def write(self, **values: int) -> bytes:
        """Return the header's bytes; fields left out are zero. For tests and for patching."""
        if self.little:
            return b"".join(
                (values.get(each.name, 0) & ((1 << each.bits) - 1)).to_bytes(
                    each.bits // 8, "little"
                )
                for each in self.fields
            )
        number = width = 0
        for each in self.fields:
            mask = (1 << each.bits) - 1
            number = number << each.bits | (values.get(each.name, 0) & mask)
            width += each.bits
        padding = -width % 8
        return (number << padding).to_bytes((width + padding) // 8, "big")


def fields(**widths: int) -> tuple[Field, ...]:
    """Return fields from `name=bits` pairs; a negative width means a signed field."""
    return tuple(Field(name, abs(bits), signed=bits < 0) for name, bits in widths.items())
