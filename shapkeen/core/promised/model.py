"""The nouns of this room: one promised value, and a promise of many."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..declared import TraitValue


@dataclass(frozen=True, slots=True, kw_only=True)
class Promised:
    """What one trait must be, and where that was taken from.

    `explicit` tells a promise that someone wrote from one that only follows from the master.
    `converted_from` is what the master has, where the promise asks for a conversion.
    """

    value: TraitValue | None
    origin: str
    explicit: bool = False
    at_least: TraitValue | None = None
    at_most: TraitValue | None = None
    one_of: tuple[TraitValue, ...] = ()
    tolerance: float | None = None
    weight: str = "must"
    converted_from: TraitValue | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Promise:
    """All that must survive; a trait that is absent is not promised."""

    traits: Mapping[str, Promised]

    def value(self, trait: str) -> TraitValue | None:
        """Return the promised value of a trait, None where nothing is promised."""
        promised = self.traits.get(trait)
        return promised.value if promised else None
