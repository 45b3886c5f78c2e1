"""`shapkeen rehearse`: what a receiving service makes of a file, by a stand-in for it."""

import argparse
import json
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import UsageError, about
from .progress import ProgressLine
from .text import printable

if TYPE_CHECKING:
    from ..core.promised import Promise
    from ..core.rehearsed.ladder import Plan
    from ..core.rehearsed.rehearsal import Arrival, Rehearsal
    from ..core.rehearsed.stand_in import StandIn

OTHERWISE = 2


def run_rehearse(call: argparse.Namespace) -> int:
    """Rehearse, print what came of it, and return the exit status."""
    from ..core.rehearsed.stand_in import shipped_stand_ins, stand_in_named
    from ..core.reported.rehearsal import services_object

    if call.list:
        known = shipped_stand_ins()
        if call.json:
            print(json.dumps(services_object(known), ensure_ascii=False))
        else:
            print("\n".join(f"{one.name}: {one.note}" for one in known))
        return 0
    if call.file is None or call.service is None:
        raise UsageError(
            "Name a file and a service: rehearse FILE --service NAME; --list names the services.",
            code="bad-call",
            where="call",
        )
    if call.out is not None and not call.out.is_dir():
        raise UsageError("There is no such folder.", code="bad-call", where="--out")
    return _rehearsed(call, stand_in_named(call.service))


def _rehearsed(call: argparse.Namespace, stand_in: "StandIn") -> int:
    from ..core.declared import read_declaration
    from ..core.measured.spans.cluster import cluster_here
    from ..core.rehearsed.rehearsal import arrive, rehearse
    from ..core.reported.rehearsal import rehearsal_object

    promise, line = _promise(call), ProgressLine(printable(stand_in.name))
    if call.out:
        _check_names(arrive(read_declaration(call.file), stand_in, promise), call.out)
    with tempfile.TemporaryDirectory(dir=call.out, prefix=".rehearsal-") as folder:
        try:
            found = rehearse(
                call.file,
                stand_in,
                Path(folder),
                promise=promise,
                whole=call.whole,
                progress=line,
                far=cluster_here(),
            )
        finally:
            line.clear()
        files = _moved(found, call.out) if call.out else None
    if call.json:
        print(json.dumps(rehearsal_object(found, files), ensure_ascii=False))
    else:
        print("\n".join(map(printable, rehearsal_lines(found))))
    return 0 if found.arrival.is_right else OTHERWISE


def _promise(call: argparse.Namespace) -> "Promise | None":
    """Return what the file is meant to be; None where neither master nor promise is named."""
    from ..core.declared import read_declaration
    from ..core.promised import promise_from_master, read_promise_file

    own = read_promise_file(call.promise) if call.promise else None
    if call.master is None:
        return own
    with about("master", call.master.name):
        return promise_from_master(read_declaration(call.master), overrides=own)


def _check_names(arrival: "Arrival", out: Path) -> None:
    """Raise UsageError where a rendition's name is taken: before hours of coding."""
    from ..core.cured.copying import check_free
    from ..core.rehearsed.ladder.making import file_name

    for plan in arrival.plans:
        if not plan.is_sent:
            check_free(out / file_name(plan))


def _moved(found: "Rehearsal", out: Path) -> "dict[Plan, Path]":
    """Move renditions to where they were asked for."""
    made = {one.plan: one.source.path for one in found.renditions if not one.plan.is_sent}
    return {plan: path.rename(out / path.name) for plan, path in made.items()}


def rehearsal_lines(found: "Rehearsal") -> list[str]:
    """Return a rehearsal in lines to read."""
    arrival = found.arrival
    lines = [f"{arrival.stand_in.name} (a simulation)"]
    lines.append("accepted" if arrival.acceptance.accepted else "refused")
    for kind, findings in (
        ("refused", arrival.acceptance.refusals),
        ("warning", arrival.acceptance.warnings),
    ):
        lines += [f"  {kind}: {f.text} {f.value}; {f.limit}. {f.cure}" for f in findings]
    for one in arrival.recognition.wrong:
        lines.append(f"  {one.trait} taken for {one.taken}: {one.why}. {one.consequence}")
    for rendition in found.renditions:
        plan, figures = rendition.plan, rendition.figures
        told = f"SSIM {figures.ssim:.4f}, worst at frame {figures.worst}"
        lines.append(f"  after {plan.arrives_s:.0f} s: {plan.name}, {plan.rung.codec}, {told}")
    if found.sound:
        lines.append(f"  sound: {found.sound.text}")
    return lines
