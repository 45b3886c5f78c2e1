"""File states, and the key under which a survey of two of them is kept."""

import hashlib
from dataclasses import dataclass
from pathlib import Path

from ..declared import fingerprint
from ..judged import PairReading
from ..measured import SURVEY_FORM, WHOLE


@dataclass(frozen=True, slots=True)
class FileState:
    """One file as it was: its resolved path, its size in bytes, its time of change in ns."""

    path: str
    size_bytes: int
    changed_ns: int


def state_of(path: Path) -> FileState:
    """Return a file's present state; raises UnreadableFileError where there is no file."""
    found = fingerprint(path)
    return FileState(str(path.resolve()), found.size_bytes, found.changed_ns)


def survey_key(
    master: FileState, export: FileState, reading: PairReading, *, frames: int, stage: str = WHOLE
) -> str:
    """Return the key of a survey: 64 hexadecimal digits.

    Two surveys have the same key where they are of the same states of both files, read the same
    way, with as many pairs compared closely, of the same stage, in the same form.
    """
    told = (SURVEY_FORM, frames, master, export, reading, stage)
    return hashlib.sha256(repr(told).encode()).hexdigest()
