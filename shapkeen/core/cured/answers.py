"""What both witnesses of a copy say, held against what was wished and what they said before."""

from collections.abc import Callable, Iterator, Mapping
from typing import TypeAlias

from ..declared import Declaration, TraitValue, Witness
from ..judged import equivalent_display
from .model import Change, Left
from .wishes import Wishes

WITNESSES = ("wrapper", "stream")
SILENT_IDENTITY = {"rotation": 0, "clean_aperture": "whole"}
"""Values that are said by silence."""
UNSPECIFIED = dict.fromkeys(("primaries", "transfer", "matrix"), 2)
INDEX = "index_first"
FINEST = 1e-4
"""Degrees of a pose, and shares of a bound: what their fields cannot hold."""
Reason: TypeAlias = Callable[[Declaration, str, str], str]
"""Returns why a witness of a declaration does not say a trait."""


def changes_between(before: Declaration, after: Declaration) -> Iterator[Change]:
    """Yield every statement that the copy makes otherwise, read back from it."""
    for witness in WITNESSES:
        said, now = witness_of(before, witness), witness_of(after, witness)
        for trait in dict.fromkeys((*said, *now)):
            old, new = said.get(trait), now.get(trait)
            values = old.value if old else None, new.value if new else None
            if values[0] != values[1]:
                place = new or old
                yield Change(
                    trait=trait,
                    witness=witness,
                    before=values[0],
                    after=values[1],
                    where=place.where if place else "",
                )
    if before.file.index_first != after.file.index_first:
        yield Change(
            trait=INDEX,
            witness="wrapper",
            before=before.file.index_first,
            after=after.file.index_first,
            where="moov",
        )


def witness_of(declaration: Declaration, name: str) -> Witness:
    """Return the wrapper's or the stream's word."""
    return declaration.wrapper if name == "wrapper" else declaration.stream


def is_said(declaration: Declaration, witness: str, trait: str, wished: TraitValue | None) -> bool:
    """Return whether a witness says what is wished; silence where silence, or identity, is."""
    if trait == INDEX:
        return witness == "wrapper" and declaration.file.index_first is wished
    said = witness_of(declaration, witness).get(trait)
    if said is None or said.value == UNSPECIFIED.get(trait):
        return wished is None or wished in (SILENT_IDENTITY.get(trait), UNSPECIFIED.get(trait))
    return wished is not None and _alike(trait, said.value, wished)


def _alike(trait: str, said: TraitValue, wished: TraitValue) -> bool:
    """Return whether a field holds what was wished, as finely as it can; synonyms are others."""
    if trait == "mastering_display":
        return equivalent_display(said, wished)
    if trait == "pixel_aspect" and isinstance(said, tuple) and isinstance(wished, tuple):
        return said[0] * wished[1] == said[1] * wished[0]
    if trait in ("pose", "projection_bounds") and isinstance(said, Mapping):
        other = wished if isinstance(wished, Mapping) else {}
        return all(
            abs(_number(said.get(key)) - _number(other.get(key))) < FINEST
            for key in {*said, *other}
        )
    return said == wished


def _number(value: TraitValue | None) -> float:
    return float(value) if isinstance(value, int | float) else 0.0


def contradicts(
    declaration: Declaration, witness: str, trait: str, wished: TraitValue | None
) -> bool:
    """Return whether a witness says another thing than is wished; silence contradicts nothing."""
    if trait == INDEX:
        return False
    said = witness_of(declaration, witness).get(trait)
    silent = said is None or said.value == UNSPECIFIED.get(trait)
    return not silent and not is_said(declaration, witness, trait, wished)


def left_out(declaration: Declaration, wishes: Wishes, why: Reason) -> Iterator[Left]:
    """Yield what each witness does not say of what was wished."""
    for trait, wished in wishes.items():
        for witness in WITNESSES if trait != INDEX else ("wrapper",):
            if not is_said(declaration, witness, trait, wished):
                yield Left(trait, witness, why(declaration, witness, trait))


def is_complete(declaration: Declaration, wishes: Wishes) -> bool:
    """Return whether all that was wished is said by a witness at least, and denied by none."""
    for trait, wished in wishes.items():
        told = [is_said(declaration, witness, trait, wished) for witness in WITNESSES]
        denied = [contradicts(declaration, witness, trait, wished) for witness in WITNESSES]
        if not any(told) or any(denied):
            return False
    return True
