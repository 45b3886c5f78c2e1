"""What the child process does for files that arrived: reading headers, and a few frames."""

from pathlib import Path

from ..library.works import read
from ..work.child import Answer, Report


def marks(request: Answer, _report: Report) -> Answer:
    """Return what a file's film is known again by."""
    from ...core.compared.likeness import marks_of

    return {"marks": marks_of(Path(request["path"]))}


def read_arrival(request: Answer, report: Report) -> Answer:
    """Return what a file declares, its state, and its film's marks."""
    return read(request, report) | marks(request, report)
