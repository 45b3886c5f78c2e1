"""Builds the page from a declaration and an outline; all words come from words.py."""

from ...colour.codepoints import mean_the_same
from ...declared import Declaration, FieldRead, Outline, Part, Said
from ...promised import TRAITS, Trait
from . import words
from .model import FileSheet, SheetField, SheetPart, TraitLine

MEGA = 1_000_000


def file_sheet(declaration: Declaration, outline: Outline) -> FileSheet:
    """Return the page of one file."""
    stated = [trait for trait in TRAITS if _speaks(declaration, trait)]
    silent = [t.title for t in TRAITS if t.declared and t not in stated]
    wrapper = tuple(_part(part) for part in outline.wrapper)
    stream = tuple(_part(part) for part in outline.stream)
    return FileSheet(
        traits=tuple(_line(declaration, trait) for trait in stated),
        silent=tuple(silent),
        wrapper=wrapper,
        stream=stream,
        field_count=sum(_count(part) for part in (*wrapper, *stream)),
    )


def _speaks(declaration: Declaration, trait: Trait) -> bool:
    return trait.name in declaration.wrapper or trait.name in declaration.stream


def _line(declaration: Declaration, trait: Trait) -> TraitLine:
    wrapper, stream = (
        witness.get(trait.name) for witness in (declaration.wrapper, declaration.stream)
    )
    return TraitLine(
        title=trait.title,
        wrapper=trait.show(wrapper.value) if wrapper else "",
        wrapper_place=wrapper.where if wrapper else "",
        stream=trait.show(stream.value) if stream else "",
        stream_place=stream.where if stream else "",
        agreement=_agreement(trait, wrapper, stream),
        words=trait.meaning,
    )


def _agreement(trait: Trait, wrapper: Said | None, stream: Said | None) -> str:
    if wrapper is None or stream is None:
        return "only the stream" if wrapper is None else "only the wrapper"
    if wrapper.value == stream.value or mean_the_same(trait.name, wrapper.value, stream.value):
        return "agree"
    return "differ"


def _part(part: Part) -> SheetPart:
    inner = tuple(_part(child) for child in part.parts)
    return SheetPart(
        name=part.name,
        words=words.part_words(part.name),
        where=part.where,
        place=_place(part),
        fields=tuple(_field(part.name, field) for field in part.fields),
        parts=inner,
        open=words.matters(part.name) or any(child.open for child in inner),
    )


def _place(part: Part) -> str:
    """Return where a part stands and how large it is; what is inside another has only a path."""
    size = (
        f"{part.size / MEGA:.1f} MB"
        if part.size >= MEGA
        else f"{_spaced(part.size)} byte{'s' * (part.size != 1)}"
    )
    start = part.where if part.start is None else f"byte {_spaced(part.start)}"
    return ", ".join(word for word in (start, size if part.size else "") if word)


def _spaced(number: int) -> str:
    return f"{number:,}".replace(",", "\u202f")


def _field(part: str, field: FieldRead) -> SheetField:
    value = field.value
    return SheetField(
        name=field.name,
        value=f"{value:g}" if isinstance(value, float) else str(value),
        called=words.value_words(part, field.name, value),
        words=words.field_words(field.name),
    )


def _count(part: SheetPart) -> int:
    return len(part.fields) + sum(_count(inner) for inner in part.parts)
