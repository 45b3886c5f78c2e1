"""Looking at one file alone: reading it, looking at some frames, and what it is suspected of."""

from dataclasses import dataclass
from pathlib import Path

from ..declared import Declaration, read_declaration
from ..judged.readings import plan_reading
from ..judged.suspicions import Suspicion, suspicions
from ..measured import AloneFindings, Source


@dataclass(frozen=True, slots=True)
class AloneLook:
    """What a file declares, what some of its frames show, and what it is suspected of."""

    declaration: Declaration
    findings: AloneFindings
    suspicions: tuple[Suspicion, ...]


def look_at(path: Path, declaration: Declaration) -> AloneFindings:
    """Return what some frames of a file show that declares this; raises UnreadableFileError."""
    from ..measured.survey.alone import look_alone

    return look_alone(Source(path, plan_reading(declaration)))


def look_at_file(path: Path) -> AloneLook:
    """Return what a file shows by itself; raises UnreadableFileError."""
    declaration = read_declaration(path)
    findings = look_at(path, declaration)
    return AloneLook(declaration, findings, suspicions(findings, None, declaration))
