"""Every error that the core raises.

CoreError
├── UsageError            the call or the promise file is wrong             exit 64
├── UnreadableFileError   no picture file, or it ends too soon              exit 65
└── InternalError         a fault of ours; always a bug                     exit 70

A finding about the film is never an exception: odd files give notices, bad exports verdicts.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import ClassVar


class CoreError(Exception):
    """Base of all; holds the fields of a `shapkeen.error/1` object.

    file: of a pair, which of the two it is about, by its part and its name; empty where that is
    said already, or it is about both.
    """

    exit_status: ClassVar[int] = 70
    file: str = ""

    def __init__(self, text: str, *, code: str, where: str = "") -> None:
        """Keep what happened and what to do (text), a short code, and the place."""
        super().__init__(f"{where}: {text}" if where else text)
        self.text, self.code, self.where = text, code, where


@contextmanager
def about(part: str, name: str) -> Iterator[None]:
    """Say of which file an error is: `part` of a pair, and its name."""
    try:
        yield
    except CoreError as error:
        error.file = error.file or f"{part} {name}"
        raise


class UsageError(CoreError):
    """The call or the promise file is wrong."""

    exit_status = 64


class UnreadableFileError(CoreError):
    """There is no picture file here, or it ends too soon, or it is not read yet."""

    exit_status = 65


def cut_off(what: str, where: str) -> UnreadableFileError:
    """Return the error for a file that ends before its wrapper says."""
    return UnreadableFileError(
        f"{what}. Is it still being written or copied? Wait for that, or export it again.",
        code="truncated",
        where=where,
    )


class InternalError(CoreError):
    """A fault of ours; always a bug."""

    exit_status = 70
