"""Entry point: parses the call, asks the core, prints, and gives docs/contract.md's exit status."""

import argparse
import io
import json
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NoReturn

from ..core.errors import CoreError, InternalError, UsageError
from ..core.reported.error import error_object

EXIT_BY_OVERALL = {"kept": 0, "bent": 1, "lost": 2, "unproven": 3}


class _Parser(argparse.ArgumentParser):
    """A parser whose complaints are errors of ours, so that --json holds for them too."""

    def error(self, message: str) -> NoReturn:
        raise UsageError(f"{message}. See `shapkeen --help`.", code="bad-call", where="call")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="shapkeen", description="Did the picture survive the export?")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    read = commands.add_parser("read", help="what a file declares: wrapper and stream apart")
    read.add_argument("file", type=Path, metavar="FILE")
    compare = commands.add_parser("compare", help="what survived of a master in an export")
    compare.add_argument("master", type=Path, metavar="MASTER")
    compare.add_argument("export", type=Path, metavar="EXPORT")
    compare.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    compare.add_argument(
        "--frames", type=int, default=24, metavar="N", help="how many frames to compare (24)"
    )
    for command in (read, compare):
        command.add_argument("--json", action="store_true", help="print one JSON object")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command and return its exit status."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    as_json = "--json" in arguments
    for out in (sys.stdout, sys.stderr):
        if isinstance(out, io.TextIOWrapper):
            out.reconfigure(errors="backslashreplace")  # file names need not be text
    try:
        call = _parser().parse_args(arguments)
        return _read(call) if call.command == "read" else _compare(call)
    except CoreError as error:
        return _complain(error, as_json=as_json)
    except BrokenPipeError:
        return 0  # whoever read our output has had enough
    except Exception as error:  # noqa: BLE001  (the border of the program: nothing may escape)
        fault = InternalError(
            f"{type(error).__name__}: {error}. This is a fault of Shapkeen; please report it.",
            code="internal",
        )
        return _complain(fault, as_json=as_json)


def _complain(error: CoreError, *, as_json: bool) -> int:
    if as_json:
        print(json.dumps(error_object(error), ensure_ascii=False))
    else:
        place = f" [{error.where}]" if error.where else ""
        print(f"shapkeen: {error.text}{place}", file=sys.stderr)
    return error.exit_status


def _read(call: argparse.Namespace) -> int:
    from ..core.declared import read_declaration
    from ..core.reported.declaration import declaration_object

    declaration = read_declaration(call.file)
    if call.json:
        print(json.dumps(declaration_object(declaration), ensure_ascii=False))
    else:
        from .text import declaration_lines

        print("\n".join(declaration_lines(declaration)))
    return 0


def _compare(call: argparse.Namespace) -> int:
    if call.frames < 1:
        raise UsageError("Compare at least one frame.", code="bad-call", where="--frames")
    from ..core.compared import compare_files
    from ..core.promised import read_promise_file
    from ..core.reported.survival import survival_object

    overrides = read_promise_file(call.promise) if call.promise else None
    comparison = compare_files(call.master, call.export, overrides=overrides, frames=call.frames)
    if call.json:
        print(json.dumps(survival_object(comparison), ensure_ascii=False))
    else:
        from .text import survival_lines

        print("\n".join(survival_lines(comparison.survival)))
    return EXIT_BY_OVERALL[comparison.survival.overall]


if __name__ == "__main__":
    sys.exit(main())
