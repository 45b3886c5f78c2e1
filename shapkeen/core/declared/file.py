"""From a path to a declaration: opens the file, asks both witnesses, keeps them apart."""

import os
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TypeVar

from ..errors import UnreadableFileError
from .finite import finite_video, finite_witness
from .layout import FieldError
from .model import Declaration, FileFacts
from .outline import Outline
from .streams import read_stream
from .window import ShortReadError, Window
from .wrappers import outline_wrapper, read_wrapper

Answer = TypeVar("Answer")


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """What tells that a file has changed: its size and its time of last change."""

    size_bytes: int
    changed_ns: int


WRAPPED = frozenset(
    {".mp4", ".m4v", ".mov", ".qt", ".mkv", ".webm", ".mxf", ".avi", ".flv", ".f4v"}
)
STREAMED = frozenset({".ts", ".mts", ".m2ts", ".mpg", ".mpeg", ".vob", ".y4m", ".ivf", ".m2v"})
BARE = frozenset({".h264", ".264", ".avc", ".h265", ".265", ".hevc", ".obu"})
PICTURE_ENDINGS = WRAPPED | STREAMED | BARE
"""What files that can be read are called."""


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
    read, or is of a kind that cannot be read.
    """
    return _with_window(path, lambda window: declaration_within(window, path.name))


def read_outline(path: Path) -> Outline:
    """Return every part and field found in a file, the two witnesses apart.

    Raises UnreadableFileError as `read_declaration` does.
    """
    return _with_window(path, _outline)


def _with_window(path: Path, work: Callable[[Window], Answer]) -> Answer:
    """Return what `work` makes of the bytes; every trouble becomes an UnreadableFileError."""
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
        with path.open("rb") as source:
            return work(Window(source, 0, before.size_bytes))
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
    finally:
        # A file that grew explains every other trouble better than that trouble does.
        check_unchanged(path, before)


def _outline(window: Window) -> Outline:
    streamed = read_stream(read_wrapper(window).coded)
    return Outline(wrapper=outline_wrapper(window), stream=streamed.parts)


def declaration_within(window: Window, name: str) -> Declaration:
    """Return what the bytes of a window say, the file being called so.

    Raises ShortReadError and FieldError for damage, UnreadableFileError for other kinds of file.
    """
    wrapped = read_wrapper(window)
    streamed = read_stream(wrapped.coded)
    wrapper, odd = finite_witness(wrapped.witness)
    stream, more = finite_witness(streamed.witness)
    return Declaration(
        file=FileFacts(
            name=name,
            size_bytes=window.size,
            wrapper=wrapped.wrapper,
            index_first=wrapped.index_first,
            timecode=wrapped.timecode,
        ),
        video=replace(
            finite_video(wrapped.video),
            profile=streamed.profile or wrapped.video.profile,
            level=streamed.level or wrapped.video.level,
            tier=streamed.tier,
        ),
        wrapper=wrapper,
        stream=stream,
        audio=wrapped.audio,
        notices=(*wrapped.notices, *streamed.notices, *odd, *more),
    )
