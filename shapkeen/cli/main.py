"""Entry point: parses the call, asks the core, prints, and gives docs/contract.md's exit status."""

import argparse
import io
import json
import os
import signal
import sys
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import NoReturn

from .. import __version__
from ..core.errors import CoreError, InternalError, UsageError
from ..core.reported.error import error_object

STOPPED = 130
"""As a shell has it: 128 and the number of the signal."""


class Interrupted(KeyboardInterrupt):
    """Ctrl-C, under a name of its own.

    Python remembers a plain KeyboardInterrupt that once left code compiled at run time (every
    dataclass is), though it is caught later, and ends itself by the signal in place of our status.
    """


def _interrupt(*_: object) -> NoReturn:
    raise Interrupted


class _Parser(argparse.ArgumentParser):
    """A parser whose complaints are errors of ours, so that --json holds for them too."""

    def error(self, message: str) -> NoReturn:
        raise UsageError(f"{message}. See `shapkeen --help`.", code="bad-call", where="call")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="shapkeen", description="Did the picture survive the export?")
    parser.add_argument("--version", action="version", version=f"shapkeen {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    read = commands.add_parser("read", help="what a file declares: wrapper and stream apart")
    read.add_argument("file", type=Path, metavar="FILE")
    compare = commands.add_parser("compare", help="what survived of a master in an export")
    compare.add_argument("master", type=Path, metavar="MASTER")
    compare.add_argument("exports", type=Path, metavar="EXPORT", nargs="+")
    compare.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    compare.add_argument(
        "--frames", type=int, default=24, metavar="N", help="how many frames to compare (24)"
    )
    compare.add_argument(
        "--quick", action="store_true", help="only a first look: some tens of pairs, in seconds"
    )
    cure = commands.add_parser("cure", help="a copy that says what was promised, coded as before")
    cure.add_argument("export", type=Path, metavar="EXPORT")
    cure.add_argument("--master", type=Path, metavar="MASTER", help="corrects what compare would")
    cure.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    cure.add_argument(
        "--set", action="append", metavar="TRAIT=VALUE", help="says one trait; null takes it away"
    )
    cure.add_argument("--out", type=Path, metavar="COPY", required=True, help="a name still free")
    table = commands.add_parser("table", help="a look-up table that takes a drift back")
    table.add_argument("master", type=Path, metavar="MASTER")
    table.add_argument("export", type=Path, metavar="EXPORT")
    table.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    table.add_argument(
        "--for",
        dest="use",
        choices=("source", "export"),
        default="source",
        help="what it is put over: the master on its way out (source), or the export",
    )
    table.add_argument(
        "--size", type=int, choices=(17, 33, 65), default=33, help="of a lattice of colours (33)"
    )
    table.add_argument("--out", type=Path, metavar="FILE.cube", required=True)
    make = commands.add_parser("make", help="versions of a master by recipes, each proven at once")
    make.add_argument("master", type=Path, metavar="MASTER")
    make.add_argument(
        "--recipe",
        type=Path,
        metavar="FILE",
        action="append",
        required=True,
        help="again and again",
    )
    make.add_argument("--out", type=Path, metavar="FOLDER", required=True)
    rehearse = commands.add_parser("rehearse", help="what a receiving service makes of a file")
    rehearse.add_argument("file", type=Path, metavar="FILE", nargs="?")
    rehearse.add_argument("--service", metavar="NAME", help="or a stand-in's file, NAME.json")
    rehearse.add_argument("--master", type=Path, metavar="MASTER", help="what it is meant to be")
    rehearse.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    rehearse.add_argument("--out", type=Path, metavar="FOLDER", help="keeps the renditions")
    rehearse.add_argument("--whole", action="store_true", help="all of the film, not excerpts")
    rehearse.add_argument("--list", action="store_true", help="names the services")
    report = commands.add_parser("report", help="a comparison to hand on, as one file")
    report.add_argument("master", type=Path, metavar="MASTER")
    report.add_argument("export", type=Path, metavar="EXPORT")
    report.add_argument("--promise", type=Path, metavar="FILE", help="a promise file (JSON)")
    report.add_argument(
        "--frames", type=int, default=24, metavar="N", help="how many frames to compare (24)"
    )
    report.add_argument("--paper", choices=("A4", "Letter"), default="A4", help="for PDF (A4)")
    report.add_argument("--out", type=Path, metavar="FILE.(html|pdf|json|csv)", required=True)
    setup = commands.add_parser("check-setup", help="what this installation has and lacks")
    verify = commands.add_parser("verify", help="is an archive still what was written")
    verify.add_argument("folder", type=Path, metavar="FOLDER")
    for command in (read, compare, cure, table, make, rehearse, report, setup, verify):
        command.add_argument("--json", action="store_true", help="print one JSON object")
    return parser


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command and return its exit status."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    as_json = "--json" in arguments
    for out in (sys.stdout, sys.stderr):
        if isinstance(out, io.TextIOWrapper):
            out.reconfigure(errors="backslashreplace")  # file names need not be text
    # In the background of a script it would be ignored, and nothing could stop a survey.
    with suppress(ValueError):  # not in the main thread
        signal.signal(signal.SIGINT, _interrupt)
    try:
        return _run(arguments)
    except CoreError as error:
        return _complain(error, as_json=as_json)
    except BrokenPipeError:
        _let_go()
        return 0  # whoever read our output has had enough
    except OSError as error:
        _let_go()
        return _complain(_unwritten(error), as_json=False)
    except KeyboardInterrupt:
        print("shapkeen: stopped.", file=sys.stderr)
        return STOPPED
    except Exception as error:  # noqa: BLE001  (the border of the program: nothing may escape)
        fault = InternalError(
            f"{type(error).__name__}: {error}. This is a fault of Shapkeen; please report it.",
            code="internal",
        )
        return _complain(fault, as_json=as_json)


def _run(arguments: list[str]) -> int:
    call = _parser().parse_args(arguments)
    if call.command == "read":
        status = _read(call)
    elif call.command == "cure":
        from .cure import run_cure

        status = run_cure(call)
    elif call.command == "table":
        from .table import run_table

        status = run_table(call)
    elif call.command == "rehearse":
        from .rehearse import run_rehearse

        status = run_rehearse(call)
    elif call.command == "report":
        from .report import run_report

        status = run_report(call)
    elif call.command == "check-setup":
        from .setup import run_check_setup

        status = run_check_setup(call)
    elif call.command == "verify":
        from .verify import run_verify

        status = run_verify(call)
    elif call.command == "make":
        from .make import run_make

        status = run_make(call)
    else:
        from .compare import run_compare

        status = run_compare(call)
    sys.stdout.flush()  # at the end of the program nobody could be told that it failed
    return status


def _let_go() -> None:
    """Point standard output to nowhere: what could not be written is tried again at the end."""
    with suppress(OSError, ValueError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _unwritten(error: OSError) -> InternalError:
    return InternalError(
        f"The answer could not be written: {error.strerror}. Make room there, or name another "
        "place.",
        code="unwritten",
        where=str(error.filename or "standard output"),
    )


def _complain(error: CoreError, *, as_json: bool) -> int:
    if as_json:
        print(json.dumps(error_object(error), ensure_ascii=False))
    else:
        from .text import error_line

        print(f"shapkeen: {error_line(error)}", file=sys.stderr)
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


if __name__ == "__main__":
    sys.exit(main())
