"""`shapkeen compare`: one export, or several, held against their master."""

import argparse
import json
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import CoreError, UsageError
from ..core.reported.error import error_object
from .progress import ProgressLine
from .text import error_line, printable, survival_lines

if TYPE_CHECKING:
    from ..core.judged import Comparison

EXIT_BY_OVERALL = {"kept": 0, "bent": 1, "lost": 2, "unproven": 3}
FROM_BEST = (0, 3, 1, 2, 64, 65, 70)
"""Exit statuses from the best to the worst: of several exports, the worst is the answer."""


def run_compare(call: argparse.Namespace) -> int:
    """Compare, print, and return the exit status; raises CoreError for a single export."""
    if call.frames < 1:
        raise UsageError("Compare at least one frame.", code="bad-call", where="--frames")
    if len(call.exports) == 1:
        found, overall = _compared(call, call.exports[0])
        print(json.dumps(found, ensure_ascii=False) if call.json else overall[1])
        return EXIT_BY_OVERALL[overall[0]]
    return _several(call)


def _several(call: argparse.Namespace) -> int:
    rows: list[dict[str, object]] = []
    status = 0
    for path in call.exports:
        row: dict[str, object] = {"file": str(path)}
        try:
            survival, (overall, words) = _compared(call, path)
            row["survival"], code = survival, EXIT_BY_OVERALL[overall]
        except CoreError as error:
            row["error"], code, words = error_object(error), error.exit_status, error_line(error)
        status = max(status, code, key=FROM_BEST.index)
        rows.append(row)
        if not call.json:
            print(f"{printable(str(path))}\n{words}\n", flush=True)
    if call.json:
        made = {"schema": "shapkeen.survivals/1", "exports": rows}
        print(json.dumps(made, ensure_ascii=False))
    return status


def _compared(call: argparse.Namespace, export: Path) -> tuple[dict[str, object], tuple[str, str]]:
    """Return the survival object of an export, its overall verdict, and the words for people."""
    from ..core.reported.survival import survival_object

    found = compared(call, export, quick=call.quick)
    words = "" if call.json else "\n".join(survival_lines(found.survival))
    return survival_object(found), (found.survival.overall, words)


def compared(call: argparse.Namespace, export: Path, *, quick: bool = False) -> "Comparison":
    """Return an export compared as a call asks for it, with progress on standard error."""
    from ..core.compared import compare_files
    from ..core.promised import read_promise_file

    overrides = read_promise_file(call.promise) if call.promise else None
    line = ProgressLine(printable(export.name))
    try:
        return compare_files(
            call.master,
            export,
            overrides=overrides,
            frames=call.frames,
            progress=line,
            quick=quick,
        )
    finally:
        line.clear()
