"""The promise of a title or a delivery as rows: what each trait follows, and what is asked for."""

import json
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from ...core.errors import UsageError
from ...core.promised import FAMILIES, Trait, promise_from_json, promise_from_layers, promise_words
from ...core.promised.choices import CHOICES, Choice
from ...core.promised.file import SCHEMA
from ...core.promised.traits import TRAITS
from ...core.reported.declared import declaration_from_object, promise_of
from .models import Delivery, Reel, Title

FOLLOW, KEEP, SAY = "", "keep", "say"
EXACTLY, AT_LEAST, AT_MOST = "value", "at_least", "at_most"
BOUNDS = ((EXACTLY, "exactly"), (AT_LEAST, "at least"), (AT_MOST, "at most"))
Item = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Part:
    """One number of a row: the name of its input, in words, and what stands in it."""

    name: str
    words: str
    typed: str


@dataclass(frozen=True, slots=True)
class AskRow:
    """One trait: what it follows and from where, and the control that asks for something else.

    options, bounds: value, words, whether chosen; bounds are empty where only a value makes sense.
    drawn: how its parts are drawn on the picture; empty where they are not.
    """

    trait: Trait
    follows: str
    origin: str
    asked: bool
    options: tuple[tuple[str, str, bool], ...]
    parts: tuple[Part, ...]
    drawn: str
    bounds: tuple[tuple[str, str, bool], ...]


Asked = Title | Delivery
"""Who asks for something beyond what it follows."""


def master_of(asked: Asked) -> Reel:
    """Return the master that both follow."""
    return asked.master if isinstance(asked, Title) else asked.title.master


def rows_of(asked: Asked, said: Mapping[str, str] | None = None) -> list[tuple[str, list[AskRow]]]:
    """Return family → rows. said: what was sent, in place of what is kept."""
    master = declaration_from_object(master_of(asked).declaration)
    follows = promise_of(master, promise_from_layers(asked.layers_before()))
    items = items_of(asked.promise_text)
    found: dict[str, list[AskRow]] = {family: [] for family in FAMILIES}
    for trait in TRAITS:
        choice, item = CHOICES.get(trait.name), items.get(trait.name)
        promised = follows.traits.get(trait.name)
        if choice is None and item is None and promised is None:
            continue
        words = promise_words(trait, promised) if promised else "not asked for"
        origin = promised.origin if promised else ""
        sent = _sent(trait.name, said) if said is not None else None
        found[trait.family].append(_row(trait, choice, item, (words, origin), sent))
    return [(family, rows) for family, rows in found.items() if rows]


def items_of(text: str) -> dict[str, Item]:
    """Return trait → what a promise file's text asks for it; empty where there is none."""
    return dict(json.loads(text)["traits"]) if text.strip() else {}


def _sent(name: str, said: Mapping[str, str]) -> tuple[str, str]:
    return said.get(name, FOLLOW), said.get(f"{name}.bound", EXACTLY)


def _row(
    trait: Trait,
    choice: Choice | None,
    item: Item | None,
    follows: tuple[str, str],
    sent: tuple[str, str] | None,
) -> AskRow:
    chosen, bound = sent or _chosen(choice, item)
    options = list(_options(trait, choice, item, follows[0]))
    parts = choice.parts if choice else {}
    return AskRow(
        trait=trait,
        follows=follows[0],
        origin=follows[1],
        asked=item is not None,
        options=tuple((value, words, value == chosen) for value, words in options),
        drawn=choice.drawn if choice else "",
        parts=tuple(Part(f"{trait.name}.{name}", words, "") for name, words in parts.items()),
        bounds=tuple((key, words, key == bound) for key, words in BOUNDS)
        if choice is not None and choice.bounded
        else (),
    )


def _chosen(choice: Choice | None, item: Item | None) -> tuple[str, str]:
    """Return which option and which bound a kept item is; KEEP where it is none of them."""
    if item is None:
        return FOLLOW, EXACTLY
    if choice is not None and len(item) == 1:
        bound, value = next(iter(item.items()))
        text = json.dumps(value)
        fits = bound == EXACTLY or (choice.bounded and bound in (AT_LEAST, AT_MOST))
        if fits and text in choice.choices:
            return text, bound
    return KEEP, EXACTLY


def _options(
    trait: Trait, choice: Choice | None, item: Item | None, follows: str
) -> Iterator[tuple[str, str]]:
    yield FOLLOW, f"as it follows: {follows}"
    if _chosen(choice, item)[0] == KEEP and item is not None:
        yield KEEP, f"as kept: {_item_words(trait, item)}"
    if choice is not None:
        yield from choice.choices.items()
        if choice.parts:
            yield SAY, "other:"


def _item_words(trait: Trait, item: Item) -> str:
    """Return in words what a kept item asks for."""
    text = json.dumps({"schema": SCHEMA, "traits": {trait.name: item}})
    return promise_words(trait, promise_from_json(text, origin="").traits[trait.name])


def text_of(said: Mapping[str, str], kept: str) -> str:
    """Return the promise file's text that a sent form asks for; empty where it asks for nothing.

    kept: the text so far; what the form cannot say of it stays as it is. Raises UsageError for a
    number that is none.
    """
    items = items_of(kept)
    made: dict[str, Item] = {}
    for trait in TRAITS:
        choice = CHOICES.get(trait.name)
        chosen, bound = _sent(trait.name, said)
        if trait.name not in said:  # not in the form: it stays
            chosen = KEEP
        elif chosen == FOLLOW and choice is not None and _is_typed(trait, choice, said):
            chosen = SAY
        if chosen == KEEP:
            if trait.name in items:
                made[trait.name] = items[trait.name]
        elif chosen == SAY and choice is not None:
            made[trait.name] = {EXACTLY: _typed(trait, choice, said)}
        elif chosen and choice is not None and chosen in choice.choices:
            made[trait.name] = {_bound(choice, bound): json.loads(chosen)}
        elif chosen:
            raise _refusal(trait, "Choose one of the values.")
    if not made:
        return ""
    return json.dumps({"schema": SCHEMA, "traits": made}, ensure_ascii=False, indent=1)


def _is_typed(trait: Trait, choice: Choice, said: Mapping[str, str]) -> bool:
    """Return whether somebody typed a number of a value: then that is asked for."""
    return any(said.get(f"{trait.name}.{name}", "").strip() for name in choice.parts)


def _bound(choice: Choice, bound: str) -> str:
    return bound if choice.bounded and bound in (AT_LEAST, AT_MOST) else EXACTLY


def _typed(trait: Trait, choice: Choice, said: Mapping[str, str]) -> Any:
    numbers = [
        _number(trait, said.get(f"{trait.name}.{name}", "").strip()) for name in choice.parts
    ]
    if "" in choice.parts:
        return numbers[0]
    value = numbers if choice.listed else dict(zip(choice.parts, numbers, strict=True))
    return {choice.within: value} if choice.within else value


def _number(trait: Trait, text: str) -> int | float:
    try:
        number = float(text.replace(",", "."))
    except ValueError as error:
        what = f"“{text[:40]}” is no number." if text else "A number is missing."
        raise _refusal(trait, what) from error
    return int(number) if number.is_integer() and abs(number) < 2**31 else number


def _refusal(trait: Trait, why: str) -> UsageError:
    return UsageError(f"{trait.title}: {why}", code="bad-promise", where=trait.name)


def as_promised(asked: Asked, text: str) -> Any:
    """Return the promise of a text over what is followed; raises UsageError."""
    overrides = promise_from_layers([*asked.layers_before(), (text, asked.promise_origin)])
    master = declaration_from_object(master_of(asked).declaration)
    promise_of(master, overrides)  # raises for what the master cannot keep
    return overrides
