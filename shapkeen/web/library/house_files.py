"""The house's own descriptions on disk, one file a version: read as far as they are right."""

import os
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from ...core.errors import UsageError

T = TypeVar("T")


def read_all(folder: Path, parse: Callable[[str], T]) -> list[T]:
    """Return what the files of a folder describe; parse raises UsageError for what is none."""
    found = []
    for path in sorted(folder.glob("*.json")):
        try:
            found.append(parse(path.read_text(encoding="utf-8")))
        except (UsageError, OSError, UnicodeDecodeError):
            continue  # a file put there by hand that is none must not take the others along
    return found


def write_new(goal: Path, text: str, *, noun: str) -> None:
    """Write a version's file, whole or not at all; one that is there is never overwritten.

    noun: what it describes. Raises UsageError, code: "NOUN-changed" or "not-written".
    """
    goal.parent.mkdir(parents=True, exist_ok=True)
    part = goal.parent / f".{uuid.uuid4().hex}.part"
    try:
        with part.open("w", encoding="utf-8") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        # link, not rename: of two who save the same version at once, the second must fail.
        os.link(part, goal)
    except FileExistsError as error:
        raise UsageError(
            "This version was saved by someone else this moment. Open it, and make your changes "
            "there.",
            code=f"{noun}-changed",
            where="version",
        ) from error
    except OSError as error:
        raise UsageError(
            f"The {noun} could not be written: {error.strerror}. Nothing was changed.",
            code="not-written",
            where=goal.name,
        ) from error
    finally:
        part.unlink(missing_ok=True)
