"""The child process in which files are read and decoded, under limits.

Reads one JSON request from standard input and writes JSON lines to standard output: any
number of {"progress": [done, total]}, then one {"result": …} or {"error": …}. A crash here is
a finding about the file, never a dead server.
"""

import base64
import contextlib
import json
import os
import resource
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

Answer = dict[str, Any]


def _say(**answer: object) -> None:
    sys.stdout.write(json.dumps(answer) + "\n")
    sys.stdout.flush()


def _read(request: Answer) -> Answer:
    from ...core.declared import fingerprint, read_declaration
    from ...core.reported.declaration import declaration_object

    path = Path(request["path"])
    declared = declaration_object(read_declaration(path))
    mark = fingerprint(path)
    return {
        "declaration": declared,
        "size_bytes": mark.size_bytes,
        "changed_ns": mark.changed_ns,
    }


def _outline(request: Answer) -> Answer:
    from ...core.declared import read_declaration, read_outline
    from ...core.reported.declaration import declaration_object
    from ...core.reported.sheet import outline_object

    path = Path(request["path"])
    return {
        "declaration": declaration_object(read_declaration(path)),
        "outline": outline_object(read_outline(path)),
    }


def _compare(request: Answer) -> Answer:
    from ...core.judged import compare_files
    from ...core.promised import promise_from_json
    from ...core.reported.bench import tally
    from ...core.reported.record import record_from_comparison

    text = request.get("promise") or ""
    comparison = compare_files(
        Path(request["master"]),
        Path(request["export"]),
        overrides=promise_from_json(text, origin=request["origin"]) if text else None,
        frames=request["frames"],
        workers=request.get("workers"),
        folder=Path(request["folder"]) if request.get("folder") else None,
        progress=lambda done, total: _say(progress=[done, total]),
    )
    return {
        "record": record_from_comparison(comparison),
        "overall": comparison.survival.overall,
        "tally": tally(comparison.survival.verdicts),
    }


def _moment(request: Answer) -> Answer:
    """Keep one moment of both files, and draw their difference."""
    from ...core.declared import read_declaration
    from ...core.judged import planned_readings, promised_coding
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Registration, Source
    from ...core.measured.alignment.picture_map import at_frame, picture_map_or_identity
    from ...core.measured.model import coding_of
    from ...core.promised import promise_from_json, promise_from_master
    from ...core.rehearsed.heat import render_difference
    from ...core.rehearsed.moment import save_moment

    paths = [Path(request[side]) for side in ("master", "export")]
    master, export = (read_declaration(path) for path in paths)
    text = request.get("promise") or ""
    overrides = promise_from_json(text, origin=request["origin"]) if text else None
    promise = promise_from_master(master, overrides=overrides)
    sources = [
        Source(path, reading)
        for path, reading in zip(paths, planned_readings(promise, master, export), strict=True)
    ]
    numbers = (int(request["frames"][0]), int(request["frames"][1]))
    own, place = coding_of(sources[0].reading), request["place"]
    found = Registration(**place) if place else None
    picture_map = picture_map_or_identity(
        at_frame(found, tuple(request["of_master"]), sources[0].reading, numbers[0])
        if found
        else None,
        tuple(request["raster"]),
        own=own,
        goal=promised_coding(promise, master) or own,
    )
    moment = save_moment(Path(request["goal"]), sources[0], sources[1], numbers, picture_map)
    png = render_difference(moment, aspect_of(export))
    return {"png": base64.b64encode(png).decode()}


def _stills(request: Answer) -> Answer:
    """Draw frames of one file, in rising order, as PNG."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Source
    from ...core.rehearsed.screen import render_stills

    path = Path(request["path"])
    declared = read_declaration(path)
    drawn = render_stills(
        Source(path, plan_reading(declared)),
        request["frames"],
        display=request["display"],
        aspect=aspect_of(declared),
        most=(request["width"], request["height"]),
    )
    return {"pngs": [base64.b64encode(png).decode() for png in drawn]}


def _proxy(request: Answer) -> Answer:
    """Write some seconds of both files, the master's picture over the export's."""
    from fractions import Fraction

    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.measured import Source
    from ...core.rehearsed.proxy import write_proxy

    sources = [
        Source(path, plan_reading(read_declaration(path)))
        for path in (Path(request["master"]), Path(request["export"]))
    ]
    frames = write_proxy(
        Path(request["goal"]),
        (sources[0], sources[1]),
        [(int(one), int(other)) for one, other in request["pairs"]],
        display=request["display"],
        rate=Fraction(request["rate"]),
    )
    return {"frames": frames}


def _depth(request: Answer) -> Answer:
    """Draw one frame's parallax."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.measured import Source
    from ...core.rehearsed.parallax import render_parallax

    path = Path(request["path"])
    source = Source(path, plan_reading(read_declaration(path)))
    png = render_parallax(source, int(request["frame"]), request["stereo"])
    return {"png": base64.b64encode(png).decode()}


def _speed(request: Answer) -> Answer:
    from ...core.measured.encoding import measure_speed

    speed = measure_speed(
        Path(request["path"]),
        request["codec"],
        (request["raster"][0], request["raster"][1]),
        depth=request["depth"],
        bit_rate=request["bit_rate"],
    )
    return {"samples_a_second": speed}


WORKS: dict[str, Callable[[Answer], Answer]] = {
    "read": _read,
    "outline": _outline,
    "compare": _compare,
    "stills": _stills,
    "moment": _moment,
    "proxy": _proxy,
    "depth": _depth,
    "speed": _speed,
}


def _limit(memory_bytes: int, time_s: int) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CPU, (time_s, time_s))
    resource.setrlimit(resource.RLIMIT_NOFILE, (256, 256))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def main() -> int:
    """Do one request and say its result."""
    from ...core.errors import CoreError
    from ...core.reported.error import error_object

    request = json.loads(sys.stdin.readline())
    _limit(request["memory_bytes"], request["time_s"])
    try:
        _say(result=WORKS[request["work"]](request))
    except CoreError as error:
        _say(error=error_object(error))
        return 1
    except MemoryError:
        _say(
            error={
                "code": "too-large",
                "text": "The file needs more memory than one job may take.",
                "where": "",
            }
        )
        return 1
    return 0


if __name__ == "__main__":
    # Libraries below write warnings of their own; the parent reads only standard output.
    with contextlib.suppress(BrokenPipeError):
        os._exit(main())
