"""`shapkeen report`: a comparison to hand on, as one file that needs nothing else."""

import argparse
import json
from pathlib import Path

from ..core.errors import UsageError
from .compare import EXIT_BY_OVERALL, compared
from .text import printable


def run_report(call: argparse.Namespace) -> int:
    """Compare, write the report, and return compare's exit status; raises CoreError."""
    from ..core.cured.copying import check_free, write_new
    from ..core.digests import sha256_of
    from ..core.promised import promise_digest
    from ..core.reported.report import Digests, Facts, TitleReport, report_of, written
    from ..core.reported.report.pictures import picture_pair

    form = _form(call.out)
    check_free(call.out)
    found = compared(call, call.export)
    digests = Digests(sha256_of(call.master), sha256_of(call.export), promise_digest(found.promise))
    facts = Facts(title=call.master.name, delivery=call.export.name, digests=digests)
    report = report_of(found, facts, pair=picture_pair(found, call.master, call.export))
    whole = TitleReport(f"{call.export.name}: {report.overall}", (report,))
    write_new(written(whole, form, paper=call.paper), call.out)
    if call.json:
        told = {"schema": "shapkeen.report-file/1", "file": str(call.out), "form": form}
        print(json.dumps({**told, "overall": report.overall}, ensure_ascii=False))
    else:
        print(f"{printable(str(call.out))}: {report.overall}")
    return EXIT_BY_OVERALL[report.overall]


def _form(out: Path) -> str:
    """Return the form that a file's ending asks for."""
    from ..core.reported.report import FORMS

    form = out.suffix.lstrip(".").lower()
    if form not in FORMS:
        raise UsageError(
            f"A report ends in {', '.join(f'.{one}' for one in FORMS)}; {out.name} does not.",
            code="unknown-form",
            where="--out",
        )
    return form
