"""Our words with their meanings, as pages show them: those of docs/glossary.md that need it."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

WORDS: Final[Mapping[str, str]] = MappingProxyType(
    {
        "promise": "the value a trait must have in the delivered picture, and where that came from",
        "trait": "one thing about the picture that must survive",
        "kept": "survives within tolerance",
        "bent": "changed; someone must decide",
        "lost": "viewers would not see what was promised",
        "unproven": "promised, but no witness could speak",
        "cause": "the single act that explains the evidence best",
        "cure": "a proposed or applied correction",
        "witness": "a source of evidence: wrapper, stream, picture",
        "attempt": "one export for a delivery: v1, v2, v3",
        "provisional": "by some tens of pairs of frames; every frame is still to come",
        "rehearsal": (
            "a simulated journey of one export through a receiving service and its viewers' screens"
        ),
        "stand-in": "a simulated receiving service, described by a file",
        "door": (
            "what a service does before it codes anything: takes a file or refuses it, and takes "
            "it for something"
        ),
        "excerpt": (
            "the frames around a moment that matters, at which renditions are tried: hardest, "
            "brightest, darkest, typical"
        ),
        "recipe": (
            "everything needed to make one version from a master, with what it promises; kept by "
            "version, never changed"
        ),
        "version": "a delivery that is made from the master by a recipe",
        "waiver": "a finding let pass, with the reason",
        "suspicion": (
            "a cause that a file alone makes likely, with no master beside it; no verdict"
        ),
    }
)


def meaning_of(word: str) -> str:
    """Return what a word means; raises KeyError for one that is not ours."""
    return WORDS[word]
