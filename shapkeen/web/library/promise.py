"""A title's promise as the Title page shows it."""

from dataclasses import dataclass

from ...core.promised import FAMILIES, Promised, Trait, trait_by_name
from .models import Title


@dataclass(frozen=True, slots=True)
class PromiseLine:
    """One promised trait: its value in words, and where that came from."""

    trait: Trait
    value: str
    origin: str


def promise_families(title: Title) -> list[tuple[str, list[PromiseLine]]]:
    """Return family → lines, from the master's stored declaration."""
    from ...core.reported.declared import declaration_from_object, promise_of

    promise = promise_of(declaration_from_object(title.master.declaration))
    lines: dict[str, list[PromiseLine]] = {family: [] for family in FAMILIES}
    for name, promised in promise.traits.items():
        trait = trait_by_name(name)
        if trait is not None:
            lines[trait.family].append(PromiseLine(trait, _words(trait, promised), promised.origin))
    return [(family, found) for family, found in lines.items() if found]


def _words(trait: Trait, promised: Promised) -> str:
    return "" if promised.value is None else trait.form.show(promised.value)
