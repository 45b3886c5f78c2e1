"""Tells wrappers apart by their first bytes and calls the reader of the one found."""

from collections.abc import Callable

from ...errors import UnreadableFileError
from ..window import Window
from .isobmff import read_isobmff, starts_isobmff
from .matroska import read_matroska, starts_matroska
from .model import WrapperReading

READERS: tuple[tuple[Callable[[bytes], bool], Callable[[Window], WrapperReading]], ...] = (
    (starts_isobmff, read_isobmff),
    (starts_matroska, read_matroska),
)

NOT_READ_YET = (
    # first bytes, name for the message
    (bytes.fromhex("060E2B34"), "MXF"),
    (b"RIFF", "AVI"),
    (b"FLV\x01", "FLV"),
    (b"YUV4MPEG2", "Y4M"),
)


def read_wrapper(window: Window) -> WrapperReading:
    """Return what the wrapper says and the coded headers it carries.

    Raises UnreadableFileError where the bytes are no wrapper that is read.
    """
    head = window.read(0, min(window.size, 64))
    for starts, read in READERS:
        if starts(head):
            return read(window)
    for mark, name in NOT_READ_YET:
        if head.startswith(mark):
            raise UnreadableFileError(
                f"This is {name}, which is not read yet. MP4, MOV, Matroska and WebM are: rewrap "
                "the file without re-encoding it, or wait for a version that reads it.",
                code="unsupported-wrapper",
                where="first bytes",
            )
    raise UnreadableFileError(
        "This is no picture file: its first bytes start no known wrapper. "
        "Check that the right file was chosen.",
        code="not-a-picture-file",
        where="first bytes",
    )
