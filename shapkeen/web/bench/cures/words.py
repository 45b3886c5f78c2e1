"""What both witnesses say of a trait, in words for tables of cures."""

from ....core.declared import Declaration, TraitValue
from ....core.promised import trait_by_name

SILENT = "silent"


def title_of(name: str) -> str:
    """Return a trait's title."""
    trait = trait_by_name(name)
    return trait.title if trait else name


def in_words(name: str, value: TraitValue | None) -> str:
    """Return a value as people write it; silence has a word of its own."""
    trait = trait_by_name(name)
    if value is None:
        return SILENT
    return trait.form.show(value) if trait else str(value)


def said_now(declaration: Declaration, name: str) -> tuple[str, str]:
    """Return what wrapper and stream say of a trait; the index stands in the wrapper alone."""
    if name == "index_first":
        return in_words(name, declaration.file.index_first), ""
    said = (witness.get(name) for witness in (declaration.wrapper, declaration.stream))
    wrapper, stream = (in_words(name, one.value if one else None) for one in said)
    return wrapper, stream
