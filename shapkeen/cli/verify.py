"""`shapkeen verify`: whether an archive still is what was written."""

import argparse
import json

from .progress import ProgressLine
from .text import printable

NOT_WHOLE = 2


def run_verify(call: argparse.Namespace) -> int:
    """Check every file of a bag; returns 0 where it is whole, 2 where not; raises CoreError."""
    from dataclasses import asdict

    from ..core.archived import check_bag

    line = ProgressLine(printable(call.folder.name))
    try:
        found = check_bag(call.folder, told=line)
    finally:
        line.clear()
    if call.json:
        told = {
            "schema": "shapkeen.bag/1",
            "folder": str(call.folder),
            "whole": found.is_whole,
            "files": found.files,
            "bytes": found.bytes,
            "problems": [asdict(one) for one in found.problems],
        }
        print(json.dumps(told, ensure_ascii=False))
    else:
        for one in found.problems:
            print(f"{one.code:8} {printable(one.path)}: {one.text}")
        words = "whole" if found.is_whole else f"not whole, {len(found.problems)} problems"
        print(f"{printable(str(call.folder))}: {words}; {found.files} files, {found.bytes} bytes")
    return 0 if found.is_whole else NOT_WHOLE
