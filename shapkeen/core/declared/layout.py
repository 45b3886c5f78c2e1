"""Headers as tables: a `Layout` is a list of named fields with widths, read from bytes.

The reader is general and small; the tables stand in the modules of their formats and read
like the standards' own. Conditional headers are plain functions over a `BitReader` instead.
"""

from collections.abc import Mapping
from dataclasses import dataclass


class FieldError(ValueError):
    """A header ends before its field does; carries the field's path."""


@dataclass(frozen=True, slots=True)
class Field:
    """One field: name, width in bits, and whether it is two's complement."""

    name: str
    bits: int
    signed: bool = False


@dataclass(frozen=True, slots=True)
class Layout:
    """A fixed header: its name, its fields in file order, and the clause they come from."""

    name: str
    fields: tuple[Field, ...]
    source: str

    @property
    def size_bytes(self) -> int:
        """Return the whole bytes that the fields take."""
        return (sum(field.bits for field in self.fields) + 7) // 8

    def read(self, data: bytes, offset: int = 0) -> Mapping[str, int]:
        """Return every field by name, big-endian from `offset`.

        Raises FieldError naming the first field that does not fit.
        """
        raw = data[offset : offset + self.size_bytes]
        number, left = int.from_bytes(raw, "big"), len(raw) * 8
        values: dict[str, int] = {}
        for field in self.fields:
            left -= field.bits
            if left < 0:
                raise FieldError(f"{self.name}.{field.name}: the header ends before it")
            value = number >> left & ((1 << field.bits) - 1)
            if field.signed and value >> (field.bits - 1):
                value -= 1 << field.bits
            values[field.name] = value
        return values

    def write(self, **values: int) -> bytes:
        """Return the header's bytes; fields left out are zero. For tests and for patching."""
        number = width = 0
        for field in self.fields:
            mask = (1 << field.bits) - 1
            number = number << field.bits | (values.get(field.name, 0) & mask)
            width += field.bits
        padding = -width % 8
        return (number << padding).to_bytes((width + padding) // 8, "big")


def fields(**widths: int) -> tuple[Field, ...]:
    """Return fields from `name=bits` pairs; a negative width means a signed field."""
    return tuple(Field(name, abs(bits), signed=bits < 0) for name, bits in widths.items())
