"""What every stream reader gives back, and how it collects it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import TypeAlias

from ...errors import UnreadableFileError
from ..layout import FieldError
from ..model import Notice, Said, TraitValue, Witness
from ..outline import Part
from .bits import BitReader, BitsEndError

Stated: TypeAlias = Iterator[tuple[str, TraitValue]]
"""Traits in the order in which a header states them; FACTS among them."""
HeaderReader: TypeAlias = Callable[[BitReader], Stated]

FACTS = ("profile", "level", "tier")
"""Stated by headers, but about the coding and not about the picture."""
MORE_EXACT = (("interlaced", "top-first"), ("interlaced", "bottom-first"))
"""A later header that says the same more exactly."""


@dataclass(frozen=True, slots=True, kw_only=True)
class StreamReading:
    """The coded headers' own words; profile, level and tier by the standard's names."""

    witness: Witness
    profile: str | None = None
    level: str | None = None
    tier: str | None = None
    notices: tuple[Notice, ...] = ()
    parts: tuple[Part, ...] = ()


@dataclass(slots=True)
class Reading:
    """Collects statements: the first one stands, and a later one that differs is a notice."""

    said: dict[str, Said] = field(default_factory=dict)
    facts: dict[str, str] = field(default_factory=dict)
    notices: list[Notice] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)

    def header(self, name: str, where: str, data: bytes, read: HeaderReader) -> BitReader:
        """Read one header: keep what it states and its fields; return the reader behind it.

        What ends too soon gives a notice, and what came before stands.
        """
        bits, place = BitReader(data), f"{name} ({where})"
        try:
            for trait, value in read(bits):
                self.state(trait, value, place)
        except (BitsEndError, FieldError) as error:
            text = f"The header ends too soon: {error}."
            self.notices.append(Notice("short-header", text, place))
        part = Part(name=name, where=where, size=len(data), fields=tuple(bits.fields))
        self.parts.append(part)
        return bits

    def state(self, trait: str, value: TraitValue, where: str) -> None:
        """Take one statement."""
        if trait in FACTS:
            self.facts.setdefault(trait, str(value))
            return
        before = self.said.get(trait)
        if before is None or (before.value, value) in MORE_EXACT:
            self.said[trait] = Said(value=value, where=where)
        elif before.value != value and (value, before.value) not in MORE_EXACT:
            text = f"{trait} differs from what {before.where} states, which stands."
            self.notices.append(Notice("stream-differs", text, where))

    def finish(self) -> StreamReading:
        """Return what was collected."""
        return StreamReading(
            witness=self.said,
            profile=self.facts.get("profile"),
            level=self.facts.get("level"),
            tier=self.facts.get("tier"),
            notices=tuple(dict.fromkeys(self.notices)),
            parts=tuple(self.parts),
        )


def no_header(what: str, code: str) -> UnreadableFileError:
    """Return the error of a track in which no header can be read."""
    return UnreadableFileError(
        f"No {what} can be read in the coded picture, so no decoder could start. "
        "Export the file again.",
        code=code,
        where="stream",
    )
