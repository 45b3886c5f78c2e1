"""How work ends otherwise than with a result, apart from the core's own errors.

A file is at fault only where the core says so (UnreadableFileError, UsageError). Whatever else goes
wrong, an exception of ours, a limit, storage that does not answer, is told as ours.
"""

from ...core.errors import InternalError


class StoppedError(Exception):
    """Someone asked the work to stop."""


class FaultError(InternalError):
    """A fault of ours, or of the machine; never of the file."""

    def __init__(self, text: str, *, code: str, where: str = "", details: str = "") -> None:
        """details: traceback, signal, and what was written to standard error; for the log."""
        super().__init__(text, code=code, where=where)
        self.details = details
