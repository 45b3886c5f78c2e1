"""The nouns of the page that shows what a file says."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class SheetField:
    """One field: its name, value, what the value is called, and what the field does."""

    name: str
    value: str
    called: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetPart:
    """One part: name, what it is for, place and size, whether it starts unfolded."""

    name: str
    words: str
    where: str
    place: str
    fields: tuple[SheetField, ...]
    parts: tuple["SheetPart", ...]
    open: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TraitLine:
    """One trait as both witnesses state it; `agreement` is one of agree, differ, or who speaks."""

    title: str
    wrapper: str
    wrapper_place: str
    stream: str
    stream_place: str
    agreement: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FileSheet:
    """The whole page."""

    traits: tuple[TraitLine, ...]
    silent: tuple[str, ...]
    wrapper: tuple[SheetPart, ...]
    stream: tuple[SheetPart, ...]
    field_count: int
