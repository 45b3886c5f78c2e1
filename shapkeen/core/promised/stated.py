"""What a file states of a trait, and which witness is to be believed."""

from collections.abc import Mapping

from ..colour.codepoints import UNSPECIFIED
from ..declared import Declaration, Said, TraitValue

# What the coded picture is, the stream knows best; how it is to be shown, the wrapper says.
STREAM_FIRST = frozenset(
    {"raster", "bit_depth", "chroma", "range", "primaries", "transfer", "matrix"}
)


def stated_by(declaration: Declaration, trait: str) -> tuple[str, Said] | None:
    """Return the witness to be believed for a trait and what it says; None if both are silent.

    "Unspecified" (code point 2) and an unknown light level (0, 0) count as silence.
    """
    order: list[tuple[str, Mapping[str, Said]]] = [
        ("stream", declaration.stream),
        ("wrapper", declaration.wrapper),
    ]
    if trait not in STREAM_FIRST:
        order.reverse()
    for name, witness in order:
        said = witness.get(trait)
        if said is not None and not is_unspecified(trait, said.value):
            return name, said
    return None


def is_unspecified(trait: str, value: TraitValue) -> bool:
    """Return whether a stated value only says that nothing is known."""
    if trait in ("primaries", "transfer", "matrix"):
        return value == UNSPECIFIED
    if trait == "content_light" and isinstance(value, Mapping):
        return not value.get("max_cll") and not value.get("max_fall")
    return False
