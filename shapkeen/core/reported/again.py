"""The settings of the next export, where only that cures: just those that came back otherwise."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..cured import is_curable
from ..judged import Cause, Comparison, Verdict
from ..judged.model import BENT, LOST
from ..promised import Trait, promise_words, trait_by_name
from .bench import cause_title


@dataclass(frozen=True, slots=True)
class AgainLine:
    """One setting: its name, what came, and what to set, in words."""

    name: str
    came: str
    wanted: str


@dataclass(frozen=True, slots=True)
class Again:
    """What to do otherwise about one cause, and the settings that show it."""

    title: str
    cure: str
    lines: tuple[AgainLine, ...]


def next_export(comparison: Comparison) -> list[Again]:
    """Return what the next export has to do otherwise; empty where a copy cures all."""
    causes = [cause for cause in comparison.survival.causes if not is_curable(cause)]
    return [Again(cause_title(one), one.cure, tuple(_lines(comparison, one))) for one in causes]


def _lines(comparison: Comparison, cause: Cause) -> Iterator[AgainLine]:
    verdicts = {verdict.trait: verdict for verdict in comparison.survival.verdicts}
    for name in cause.traits:
        trait, verdict = trait_by_name(name), verdicts[name]
        if trait is not None and verdict.verdict in (BENT, LOST):
            promised = comparison.promise.traits[name]
            yield AgainLine(trait.title, _came(trait, verdict), promise_words(trait, promised))


def _came(trait: Trait, verdict: Verdict) -> str:
    """Return what came: what the picture shows, else what is said of it."""
    said = dict.fromkeys(
        trait.show(value) for value in (verdict.wrapper, verdict.stream) if value is not None
    )
    if verdict.picture is None:
        return " and ".join(said) or "silent"
    shown = trait.show(verdict.picture)
    others = [words for words in said if words != shown]
    return f"{shown}, called {' and '.join(others)}" if others else shown
