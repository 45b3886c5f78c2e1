"""From a path to a declaration: opens the file, asks both witnesses, keeps them apart."""

import os
from dataclasses import dataclass, replace
from pathlib import Path

from ..errors import UnreadableFileError
from .layout import FieldError
from .model import Declaration, FileFacts
from .streams import read_stream
from .window import ShortReadError, Window
from .wrappers import read_wrapper


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """What tells that a file has changed: its size and its time of last change."""

    size_bytes: int
    changed_ns: int


def fingerprint(path: Path) -> Fingerprint:
    """Return the file's fingerprint; raises UnreadableFileError where there is no file."""
    try:
        found = path.stat()
    except OSError as error:
        raise UnreadableFileError(
            f"The file cannot be opened ({error.strerror}). Check its place and its rights.",
            code="no-file",
            where=path.name,
        ) from error
    return Fingerprint(found.st_size, found.st_mtime_ns)


def check_unchanged(path: Path, before: Fingerprint) -> None:
    """Raise UnreadableFileError if the file is another than it was."""
    if fingerprint(path) != before:
        raise UnreadableFileError(
            "The file changed while it was being read. It is probably still being written: "
            "wait until the export has ended, then try again.",
            code="file-changing",
            where=path.name,
        )


def read_declaration(path: Path) -> Declaration:
    """Return all that a file's wrapper and stream say; the file is only read.

    Raises UnreadableFileError for what is no picture file, is cut off, changes while it is
    read, or is of a kind not read yet.
    """
    before = fingerprint(path)
    if not path.is_file():
        raise UnreadableFileError(
            "This is not a file. Choose a picture file.", code="no-file", where=path.name
        )
    if before.size_bytes == 0:
        raise UnreadableFileError(
            "The file is empty. Export it again, or wait until it has been copied.",
            code="empty-file",
            where=path.name,
        )
    try:
        declaration = _read(path, before.size_bytes)
    finally:
        # A file that grew explains every other trouble better than that trouble does.
        check_unchanged(path, before)
    return declaration


def _read(path: Path, size_bytes: int) -> Declaration:
    try:
        with path.open("rb") as source:
            wrapped = read_wrapper(Window(source, 0, size_bytes))
            streamed = read_stream(wrapped.coded)
    except OSError as error:
        raise UnreadableFileError(
            f"The file cannot be read ({os.strerror(error.errno or 0)}).",
            code="no-file",
            where=path.name,
        ) from error
    except (ShortReadError, FieldError) as error:
        raise UnreadableFileError(
            f"The file's index is damaged: {error}. Export it again.",
            code="damaged-index",
            where=path.name,
        ) from error
    return Declaration(
        file=FileFacts(
            name=path.name,
            size_bytes=size_bytes,
            wrapper=wrapped.wrapper,
            index_first=wrapped.index_first,
        ),
        video=replace(
            wrapped.video,
            profile=streamed.profile or wrapped.video.profile,
            level=streamed.level or wrapped.video.level,
            tier=streamed.tier,
        ),
        wrapper=wrapped.witness,
        stream=streamed.witness,
        audio=wrapped.audio,
        notices=(*wrapped.notices, *streamed.notices),
    )
