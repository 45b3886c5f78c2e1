"""What the child process does for rehearsals: coding, measuring, drawing."""

import base64
import json
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING

from ..work.child import Answer, Report

if TYPE_CHECKING:
    from ...core.promised import Promise
    from ...core.rehearsed.ladder import Excerpt
    from ...core.rehearsed.ladder.making import Sent
    from ...core.rehearsed.rehearsal import Arrival
    from ...core.rehearsed.viewers import Screen
    from ...core.rehearsed.viewers.playing import Side
    from ...core.rehearsed.viewers.showing import View


def load() -> None:
    """Import what drawing needs, before anybody waits."""
    from ...core import declared, judged, measured  # noqa: F401
    from ...core.rehearsed import rehearsal, screen  # noqa: F401

    screen.prepare()


def rehearse(request: Answer, report: Report) -> Answer:
    """Rehearse; return the contract's object, with every measured frame."""
    from ...core.measured.spans.cluster import cluster_here
    from ...core.rehearsed.rehearsal import rehearse as rehearse_file
    from ...core.rehearsed.stand_in import stand_in_from_json
    from ...core.reported.rehearsal import rehearsal_object

    folder = Path(request["folder"])
    folder.mkdir(parents=True, exist_ok=True)
    found = rehearse_file(
        Path(request["path"]),
        stand_in_from_json(request["stand_in"]),
        folder,
        promise=_promise(request),
        whole=request["whole"],
        progress=report,
        far=cluster_here(),
    )
    files = {one.plan: Path(one.source.path.name) for one in found.renditions}
    return dict(rehearsal_object(found, files, series=True))


def try_ways(request: Answer, report: Report) -> Answer:
    """Try ways of sending the master's hardest moment; return what each came to."""
    import cattrs

    from ...core.rehearsed.ladder import choose_excerpts
    from ...core.rehearsed.what_if import question_from, try_variants
    from ...core.rehearsed.what_if.variants import FRAMES

    folder = Path(request["folder"])
    folder.mkdir(parents=True, exist_ok=True)
    _, sent = _sent(request)
    question = question_from(json.loads(request["question"]))
    frames = sent.source.reading.frame_count or FRAMES
    moments = {
        k: at for one in choose_excerpts(sent.source, frames) for k, at in one.moments.items()
    }
    outcomes = try_variants(
        sent,
        _around(moments.get("hardest", 0), frames),
        question,
        folder,
        length_s=float(frames / sent.source.reading.rate),
        progress=report,
    )
    return {"outcomes": [cattrs.Converter().unstructure(one) for one in outcomes]}


def _around(at: int, frames: int) -> "Excerpt":
    from ...core.rehearsed.ladder import Excerpt
    from ...core.rehearsed.what_if.variants import FRAMES

    size = min(FRAMES, frames)
    first = min(max(at - size // 2, 0), frames - size)
    return Excerpt(first=first, end=first + size, moments={"hardest": at})


def stills(request: Answer, _report: Report) -> Answer:
    """Draw one frame of several sides on several screens: what is decoded once serves all.

    sides: master, sent or rendition. Returns pictures by side, each by screen.
    """
    from ...core.rehearsed.viewers.showing import show

    arrival, sent = _sent(request)
    pngs: dict[str, dict[str, str]] = {}
    for name in request["sides"]:
        side = _side(request, name, arrival, sent, [request["frame"]])
        frame = next(side.frames, None)
        if frame is None:
            raise _no_frame(request["frame"])
        pngs[name] = {}
        for screen in request["screens"]:
            shown = _screen({**request, "screen": screen})
            png = show(frame, side.reading, shown, side.layout, _view(request))
            pngs[name][screen] = base64.b64encode(png).decode()
    return {"pngs": pngs}


def pair(request: Answer, _report: Report) -> Answer:
    """Write the excerpts of what was sent and of a rendition, in step on a screen."""
    from ...core.rehearsed.viewers.playing import write_pair

    arrival, sent = _sent(request)
    plan = arrival.plans[request["rendition"]]
    sides = (
        _side(request, request["against"], arrival, sent, request["numbers"]),
        _side(request, "rendition", arrival, sent, request["numbers"]),
    )
    rate = Fraction(plan.rate)
    frames = write_pair(Path(request["goal"]), sides, _screen(request), rate, _view(request))
    return {"frames": frames}


def _promise(request: Answer) -> "Promise":
    from ...core.declared import read_declaration
    from ...core.promised import promise_from_layers, promise_from_master

    own = promise_from_layers(request["promises"])
    return promise_from_master(read_declaration(Path(request["master"])), overrides=own)


def _sent(request: Answer) -> "tuple[Arrival, Sent]":
    from ...core.declared import read_declaration
    from ...core.rehearsed.rehearsal import arrive, sent_of
    from ...core.rehearsed.stand_in import stand_in_from_json

    path, promise = Path(request["path"]), _promise(request)
    arrival = arrive(read_declaration(path), stand_in_from_json(request["stand_in"]), promise)
    return arrival, sent_of(path, arrival, promise)


def _side(
    request: Answer, side: str, arrival: "Arrival", sent: "Sent", numbers: "list[int]"
) -> "Side":
    """Return frames of a side and how a screen takes them. numbers: rising, the export's."""
    from ...core.rehearsed import looking

    if side == "master":
        there = [request["pairs"].get(str(number), number) for number in numbers]
        return looking.master_side(Path(request["master"]), there)
    if side == "sent":
        return looking.sent_side(sent, numbers)
    plan, folder = arrival.plans[request["rendition"]], Path(request["folder"])
    return looking.received_side(sent, plan, request["shown"], folder, numbers)


def _screen(request: Answer) -> "Screen":
    from ...core.rehearsed.viewers import screen_named

    screen = screen_named(request["screen"])
    return screen.with_peak(request["peak"]) if request.get("peak") else screen


def _view(request: Answer) -> "View":
    from ...core.geometry.sphere import Turn
    from ...core.rehearsed.viewers.showing import View

    return View(turn=Turn(yaw=request.get("yaw") or 0.0, pitch=request.get("pitch") or 0.0))


def _no_frame(number: int) -> Exception:
    from ...core.errors import UnreadableFileError

    return UnreadableFileError(
        f"There is no frame {number}. Choose an earlier one.", code="no-frame", where="frame"
    )


def trial_picture(request: Answer, _report: Report) -> Answer:
    """Draw a part of a tried way's picture, sample for sample as its screen shows it."""
    from ...core.rehearsed.looking import part_of_file

    png = part_of_file(Path(request["file"]), _screen(request), Path(request["like"]))
    return {"png": base64.b64encode(png).decode()}
