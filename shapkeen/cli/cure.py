"""`shapkeen cure`: a corrected copy, where a file only says the wrong thing."""

import argparse
import json

from ..core.declared import TraitValue
from ..core.errors import UsageError
from .progress import ProgressLine, compared
from .text import cure_lines, printable

COMPLETE, LEFT = 0, 3


def run_cure(call: argparse.Namespace) -> int:
    """Write the copy, print what it says otherwise, and return the exit status."""
    from ..core.cured import cure_file
    from ..core.reported.cure import cure_object

    wishes = _wishes(call)
    line = ProgressLine(printable(call.export.name))
    try:
        cured = cure_file(call.export, call.out, wishes, told=line)
    finally:
        line.clear()
    if call.json:
        print(json.dumps(cure_object(cured, str(call.out)), ensure_ascii=False))
    else:
        print("\n".join(cure_lines(cured, str(call.out))))
    return COMPLETE if cured.complete else LEFT


def _wishes(call: argparse.Namespace) -> dict[str, TraitValue | None]:
    from ..core.cured import read_wishes, wishes_of
    from ..core.cured.copying import check_free

    said = read_wishes(call.set or [])
    check_free(call.out)
    if call.master is None:
        if call.promise is not None:
            raise UsageError(
                "A promise is held against a master: give one.", code="bad-call", where="--promise"
            )
        if not said:
            raise UsageError(
                "Nothing is asked for: give a master, or what to --set.",
                code="bad-call",
                where="call",
            )
        return said
    return {**wishes_of(compared(call)), **said}
