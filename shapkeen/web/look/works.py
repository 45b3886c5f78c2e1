"""What the child process does for Look: drawing frames, differences, proxies and parallax."""

import base64
from fractions import Fraction
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..work.child import Answer, Report, hand_over
from ..work.giving_way import give_way

if TYPE_CHECKING:
    from ...core.measured import Source


def moment(request: Answer, _report: Report) -> Answer:
    """Keep one moment of both files in the file `goal`, and draw their difference."""
    from ...core.declared import read_declaration
    from ...core.judged import planned_readings, promised_coding
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Registration, Source
    from ...core.measured.alignment.picture_map import (
        picture_map_or_identity,
        registration_at_frame,
    )
    from ...core.measured.model import coding_of
    from ...core.promised import promise_from_layers, promise_from_master
    from ...core.rehearsed.heat import render_difference
    from ...core.rehearsed.moment import save_moment

    paths = [Path(request[side]) for side in ("master", "export")]
    master, export = (read_declaration(path) for path in paths)
    overrides = promise_from_layers(request["promises"])
    promise = promise_from_master(master, overrides=overrides)
    sources = [
        Source(path, reading)
        for path, reading in zip(paths, planned_readings(promise, master, export), strict=True)
    ]
    numbers = (int(request["frames"][0]), int(request["frames"][1]))
    own, place = coding_of(sources[0].reading), request["place"]
    found = Registration(**place) if place else None
    picture_map = picture_map_or_identity(
        registration_at_frame(found, tuple(request["of_master"]), sources[0].reading, numbers[0])
        if found
        else None,
        tuple(request["raster"]),
        own=own,
        goal=promised_coding(promise, master) or own,
    )
    saved = save_moment(Path(request["goal"]), sources[0], sources[1], numbers, picture_map)
    png = render_difference(saved, aspect_of(export))
    return {"png": base64.b64encode(png).decode()}


def load() -> None:
    """Import what drawing needs: two thirds of a second, before anybody waits."""
    from ...core import declared, judged, measured  # noqa: F401
    from ...core.rehearsed import screen, stills  # noqa: F401

    screen.prepare()


def stills(request: Answer, _report: Report) -> Answer:
    """Draw frames of one file, in rising order, as PNG."""
    from ...core.rehearsed.stills import render_stills

    source, look = _asked(request)
    drawn = render_stills(source, request["frames"], **look)
    return {"pngs": [base64.b64encode(png).decode() for png in drawn]}


def around(request: Answer, _report: Report) -> Answer:
    """Draw a frame as PNG, hand it over, then its neighbours."""
    from ...core.rehearsed.stills import render_around

    source, look = _asked(request)
    for number, png in render_around(source, request["frame"], request["neighbours"], **look):
        hand_over({"frame": number, "png": base64.b64encode(png).decode()})
        if number == request["frame"]:
            give_way()  # what somebody waits for comes before what nobody asked for yet
    return {}


def _asked(request: Answer) -> "tuple[Source, dict[str, Any]]":
    """Return the file that is to be drawn, and how."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Source

    path = Path(request["path"])
    declared = read_declaration(path)
    most = (request["width"], request["height"])
    look = {"display": request["display"], "aspect": aspect_of(declared), "most": most}
    return Source(path, plan_reading(declared)), look


def pair(request: Answer, _report: Report) -> Answer:
    """Draw one moment of both files, cut to where they differ most."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Source
    from ...core.rehearsed.telling import telling_pair

    paths = Path(request["master"]), Path(request["export"])
    declared = [read_declaration(path) for path in paths]
    sources = [Source(path, plan_reading(one)) for path, one in zip(paths, declared, strict=True)]
    made = telling_pair(
        (sources[0], sources[1]),
        (int(request["frames"][0]), int(request["frames"][1])),
        display=request["display"],
        aspects=(aspect_of(declared[0]), aspect_of(declared[1])),
        whole=request["whole"],
    )
    pngs = made.master_png, made.export_png
    return {"pngs": [base64.b64encode(png).decode() for png in pngs], "cut": made.cut}


def band(request: Answer, _report: Report) -> Answer:
    """Draw one file as a band: a column a frame."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.judged.geometry import aspect_of
    from ...core.measured import Source
    from ...core.rehearsed.telling import film_band

    path = Path(request["path"])
    declared = read_declaration(path)
    source = Source(path, plan_reading(declared))
    png = film_band(
        source, request["frames"], display=request["display"], aspect=aspect_of(declared)
    )
    return {"png": base64.b64encode(png).decode()}


def proxy(request: Answer, _report: Report) -> Answer:
    """Write some seconds of both files, the master's picture over the export's."""
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
        [(int(master), int(export)) for master, export in request["pairs"]],
        display=request["display"],
        rate=Fraction(request["rate"]),
    )
    return {"frames": frames}


def parallax(request: Answer, _report: Report) -> Answer:
    """Draw one frame's parallax."""
    from ...core.declared import read_declaration
    from ...core.judged import plan_reading
    from ...core.measured import Source
    from ...core.rehearsed.parallax import render_parallax

    path = Path(request["path"])
    source = Source(path, plan_reading(read_declaration(path)))
    png = render_parallax(source, int(request["frame"]), request["stereo"])
    return {"png": base64.b64encode(png).decode()}
