"""Every error that the core raises.

CoreError
├── UsageError            the call or the promise file is wrong             exit 64
├── UnreadableFileError   no picture file, or it ends too soon              exit 65
└── InternalError         a fault of ours; always a bug                     exit 70

A finding about the film is never an exception: odd files give notices, bad exports verdicts.
"""

from typing import ClassVar


class CoreError(Exception):
    """Base of all; holds the fields of a `shapkeen.error/1` object."""

    exit_status: ClassVar[int] = 70

    def __init__(self, text: str, *, code: str, where: str = "") -> None:
        """Keep what happened and what to do (text), a short code, and the place."""
        super().__init__(f"{where}: {text}" if where else text)
        self.text, self.code, self.where = text, code, where


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
