"""A promise in words, for pages and slips."""

from .model import Promised
from .traits import Trait


def promise_words(trait: Trait, promised: Promised) -> str:
    """Return a promised value in words: the value, or the bounds it must keep to."""
    parts = []
    if promised.value is not None and promised.value != promised.at_least:
        parts.append(trait.form.show(promised.value))
    for bound, word in ((promised.at_least, "at least"), (promised.at_most, "at most")):
        if bound is not None:
            parts.append(f"{word} {trait.form.show(bound)}")
    if promised.one_of:
        parts.append("one of " + ", ".join(trait.form.show(value) for value in promised.one_of))
    if promised.converted_from is not None:
        parts.append(f"from {trait.form.show(promised.converted_from)}")
    return f"{', '.join(parts)} {trait.unit}".rstrip()
