"""A title's promise as the Title page shows it."""

from dataclasses import dataclass

from ...core.promised import FAMILIES, Trait, promise_words, trait_by_name
from .models import Delivery, Title


@dataclass(frozen=True, slots=True)
class PromiseLine:
    """One promised trait: its value in words, and where that came from."""

    trait: Trait
    value: str
    origin: str
    explicit: bool


def promise_families(
    title: Title, delivery: Delivery | None = None
) -> list[tuple[str, list[PromiseLine]]]:
    """Return family → lines, from the master's stored declaration and a delivery's own promise."""
    from ...core.reported.declared import declaration_from_object, promise_of

    master = declaration_from_object(title.master.declaration)
    promise = promise_of(master, delivery.overrides() if delivery else None)
    lines: dict[str, list[PromiseLine]] = {family: [] for family in FAMILIES}
    for name, promised in promise.traits.items():
        trait = trait_by_name(name)
        if trait is not None:
            words = promise_words(trait, promised)
            line = PromiseLine(trait, words, promised.origin, promised.explicit)
            lines[trait.family].append(line)
    return [(family, found) for family, found in lines.items() if found]
