"""A judgement as bytes and back: promise, verdicts and causes, without the survey they rest on."""

from dataclasses import dataclass
from typing import get_args

import cattrs

from .. import compressed
from ..declared import Declaration
from ..promised import Promise
from ..promised.forms import freeze
from .model import Survival

JUDGEMENT_FORM = 3
"""Raised when rules change: judgements of another form are out of date, and made again."""


@dataclass(frozen=True, slots=True)
class KeptJudgement:
    """What is kept of a judgement: the effective promise, and what became of it."""

    promise: Promise
    survival: Survival


def _is_trait_value_union(kind: object) -> bool:
    """Return whether a type is TraitValue, perhaps with None: it alone holds such a mapping."""
    parts = get_args(kind)
    return int in parts and str in parts and any("TraitValue" in str(part) for part in parts)


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter(detailed_validation=False)
    converter.register_structure_hook_func(
        _is_trait_value_union, lambda value, _: None if value is None else freeze(value)
    )
    return converter


_CONVERTER = _converter()


def judgement_to_bytes(promise: Promise, survival: Survival) -> bytes:
    """Return a judgement as compressed JSON: some ten kilobytes."""
    plain = _CONVERTER.unstructure(KeptJudgement(promise, survival))
    return compressed.to_bytes({"form": JUDGEMENT_FORM, "judgement": plain})


def judgement_from_bytes(data: bytes) -> KeptJudgement:
    """Return the judgement that bytes hold; raises ValueError for another form, or damage."""
    told = compressed.from_bytes(data)
    if told.get("form") != JUDGEMENT_FORM:
        raise ValueError(f"The kept judgement has not form {JUDGEMENT_FORM}: judge again.")
    return _CONVERTER.structure(told["judgement"], KeptJudgement)


def declaration_to_bytes(declaration: Declaration) -> bytes:
    """Return a declaration as it was when it was surveyed, with the place of every value."""
    return compressed.to_bytes(_CONVERTER.unstructure(declaration))


def declaration_from_bytes(data: bytes) -> Declaration:
    """Return the declaration that bytes hold; raises ValueError for damage."""
    return _CONVERTER.structure(compressed.from_bytes(data), Declaration)
