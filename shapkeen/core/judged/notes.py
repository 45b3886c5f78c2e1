"""Notes: what is less than the master's, and enough all the same."""

from collections.abc import Iterator, Sequence

from ..geometry.codec_profiles import CHROMA_ORDER
from ..promised import stated_by
from .evidence import Evidence
from .model import KEPT, Note, Verdict

NOTED = {
    "chroma": "Colour is sampled {} where the master has {}, as in every delivery.",
    "bit_depth": "{} bits where the master has {}: enough for this transfer function.",
}


def notes_of(evidence: Evidence, verdicts: Sequence[Verdict]) -> tuple[Note, ...]:
    """Return a line for each trait that is kept with less than the master has."""
    return tuple(_notes(evidence, verdicts))


def _notes(evidence: Evidence, verdicts: Sequence[Verdict]) -> Iterator[Note]:
    for verdict in verdicts:
        text = NOTED.get(verdict.trait)
        promised = evidence.promise.traits.get(verdict.trait)
        if text is None or verdict.verdict != KEPT or promised is None or promised.explicit:
            continue
        here, there = (
            stated_by(file, verdict.trait) for file in (evidence.export, evidence.master)
        )
        if here and there and here[1].value != there[1].value:
            values = here[1].value, there[1].value
            if _rank(values[0]) < _rank(values[1]):
                yield Note(verdict.trait, text.format(*values))


def _rank(value: object) -> int:
    """Return how fine a depth or a sampling is."""
    return value if isinstance(value, int) else CHROMA_ORDER.index(str(value))
