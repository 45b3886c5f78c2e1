"""A title's promise as the Title page shows it, and what its master leaves open."""

from dataclasses import dataclass

from ...core.judged.silence import question_of
from ...core.promised import FAMILIES, Trait, promise_from_layers, promise_words, trait_by_name
from ...core.reported.declared import declaration_from_object, promise_of
from .models import Title


@dataclass(frozen=True, slots=True)
class PromiseLine:
    """One promised trait: its value in words, and where that came from."""

    trait: Trait
    value: str
    origin: str
    explicit: bool


def promise_families(title: Title) -> list[tuple[str, list[PromiseLine]]]:
    """Return family → lines, from the master's stored declaration and what was said of it."""
    master = declaration_from_object(title.master.declaration)
    own = (title.promise_text, title.promise_origin)
    said = promise_from_layers([*title.layers_before(), own])
    promise = promise_of(master, said)
    lines: dict[str, list[PromiseLine]] = {family: [] for family in FAMILIES}
    for name, promised in promise.traits.items():
        trait = trait_by_name(name)
        if trait is not None:
            words = promise_words(trait, promised)
            line = PromiseLine(trait, words, promised.origin, promised.explicit)
            lines[trait.family].append(line)
    return [(family, found) for family, found in lines.items() if found]


def is_silent(title: Title) -> bool:
    """Return whether its master leaves something open that must be asked."""
    return question_of(declaration_from_object(title.master.declaration), None) is not None
