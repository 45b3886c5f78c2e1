"""What a file states of a trait, and which witness is to be believed."""

from collections.abc import Mapping
from dataclasses import replace

from ..colour.codepoints import UNSPECIFIED
from ..declared import Declaration, Said, TraitValue, Witness

# What the coded picture is, the stream knows best; how it is to be shown, the wrapper says.
STREAM_FIRST = frozenset(
    {"raster", "bit_depth", "chroma", "range", "primaries", "transfer", "matrix"}
)


def stated_by(declaration: Declaration, trait: str) -> tuple[str, Said] | None:
    """Return the witness to be believed for a trait and what it says; None if both are silent.

    "Unspecified" (code point 2) and an unknown light level (0, 0) count as silence.
    """
    witnesses = {"stream": declaration.stream, "wrapper": declaration.wrapper}
    order = list(witnesses) if trait in STREAM_FIRST else list(witnesses)[::-1]
    for name in order:
        other = "wrapper" if name == "stream" else "stream"
        said = meant_by(witnesses[name], trait, witnesses[other])
        if said is not None and not is_unspecified(trait, said.value):
            return name, said
    return None


def value_stated(declaration: Declaration, trait: str) -> TraitValue | None:
    """Return the value that a file states of a trait, by the witness to be believed; or None."""
    said = stated_by(declaration, trait)
    return said[1].value if said else None


def meant_by(witness: Witness, trait: str, other: Witness) -> Said | None:
    """Return what a file's witness says of a trait; None where it is silent.

    A field that two published texts read apart means what the file's other witness says, if either.
    """
    said, there = witness.get(trait), other.get(trait)
    if said is None or said.also is None or there is None or there.value != said.also:
        return said
    return replace(said, value=said.also)


def is_unspecified(trait: str, value: TraitValue) -> bool:
    """Return whether a stated value only says that nothing is known."""
    if trait in ("primaries", "transfer", "matrix"):
        return value == UNSPECIFIED
    if trait == "content_light" and isinstance(value, Mapping):
        return not value.get("max_cll") and not value.get("max_fall")
    return False
