"""The version 1 description of a sphere, XML in a `uuid` box: its words changed where they stand.

Source: Spherical Video V1, public format text (docs of declared/wrappers/isobmff/spherical.py).
"""

import re
from collections.abc import Mapping
from dataclasses import replace

from ...declared import TraitValue
from ...declared.wrappers.isobmff.spherical import V1_UUID
from ..wishes import SPHERE, Wishes
from .tree import Node

STEREO = {"mono": "mono", "left-right": "left-right", "top-bottom": "top-bottom"}
PROJECTION, EYES = "ProjectionType", "StereoMode"
POSE = {"yaw": "Heading", "pitch": "Pitch", "roll": "Roll"}
CROPPED = ("ImageWidth", "ImageHeight", "Left", "Top")


def is_v1(box: Node) -> bool:
    """Return whether a box is a version 1 description."""
    return box.name == "uuid" and box.head[:16] == V1_UUID


def said_in_v1(trak: Node, wishes: Wishes, raster: tuple[int, int]) -> Node:
    """Return a track whose version 1 descriptions say what is wished; their other words stay.

    raster: of the picture, from which bounds become samples. Where the sphere is taken away the
    whole description goes.
    """
    if not wishes.keys() & {*SPHERE, "stereo"}:
        return trak
    children = []
    for child in trak.children or ():
        if not is_v1(child):
            children.append(child)
        elif "projection" in wishes and wishes["projection"] is None:
            continue
        else:
            children.append(
                replace(child, head=V1_UUID + _changed(child.head[16:], wishes, raster))
            )
    return replace(trak, children=tuple(children))


def stereo_of_v1(trak: Node) -> str | None:
    """Return the eyes' packing that a version 1 description states."""
    for child in trak.children or ():
        if is_v1(child):
            found = _pattern(EYES).search(child.head[16:])
            word = found.group(2).decode("utf-8", "replace").strip().lower() if found else ""
            if word in STEREO:
                return word
    return None


def _changed(xml: bytes, wishes: Wishes, raster: tuple[int, int]) -> bytes:
    if "stereo" in wishes:
        word = STEREO.get(str(wishes["stereo"]))
        xml = _without(xml, EYES) if word is None else _with(xml, EYES, word)
    projection = wishes.get("projection")
    if isinstance(projection, str):
        flat = "equirectangular" if projection == "half-equirectangular" else projection
        xml = _with(xml, PROJECTION, flat)
    bounds = _bounds(wishes)
    if bounds is not None:
        xml = _with_bounds(xml, bounds, raster)
    if "pose" in wishes:
        pose = wishes["pose"]
        for axis, word in POSE.items():
            value = pose.get(axis, 0) if isinstance(pose, Mapping) else None
            name = f"InitialView{word}Degrees"
            xml = _without(xml, name) if value is None else _with(xml, name, _figure(value))
    return xml


def _bounds(wishes: Wishes) -> Mapping[str, TraitValue] | None:
    """Return the wished bounds, those of a half sphere too; nothing where they are not touched."""
    wished = wishes.get("projection_bounds")
    if isinstance(wished, Mapping):
        return wished
    if wishes.get("projection") == "half-equirectangular":
        return {"left": 0.25, "right": 0.25}
    touched = "projection_bounds" in wishes or wishes.get("projection") == "equirectangular"
    return {} if touched else None


def _with_bounds(xml: bytes, bounds: Mapping[str, TraitValue], raster: tuple[int, int]) -> bytes:
    shares = [bounds.get(side, 0) for side in ("left", "right", "top", "bottom")]
    left, right, top, bottom = (float(s) if isinstance(s, int | float) else 0.0 for s in shares)
    if not any((left, right, top, bottom)):
        for name in (*(f"CroppedArea{word}Pixels" for word in CROPPED), "FullPanoWidthPixels",
                     "FullPanoHeightPixels"):  # fmt: skip
            xml = _without(xml, name)
        return xml
    width, height = raster
    full = round(width / (1 - left - right)), round(height / (1 - top - bottom))
    words = {
        "FullPanoWidthPixels": full[0],
        "FullPanoHeightPixels": full[1],
        "CroppedAreaImageWidthPixels": width,
        "CroppedAreaImageHeightPixels": height,
        "CroppedAreaLeftPixels": round(full[0] * left),
        "CroppedAreaTopPixels": round(full[1] * top),
    }
    for name, value in words.items():
        xml = _with(xml, name, str(value))
    return xml


def _figure(value: TraitValue) -> str:
    return f"{value:g}" if isinstance(value, int | float) else "0"


def _pattern(name: str) -> re.Pattern[bytes]:
    return re.compile(
        rb"(<(?:[\w.-]+:)?"
        + name.encode()
        + rb"\s*>)(.*?)(</(?:[\w.-]+:)?"
        + name.encode()
        + rb"\s*>)",
        re.DOTALL,
    )


def _with(xml: bytes, name: str, text: str) -> bytes:
    """Return the description with one element's text; a missing one stands before its end."""
    if _pattern(name).search(xml):
        return _pattern(name).sub(lambda m: m.group(1) + text.encode() + m.group(3), xml, count=1)
    end = re.search(rb"</(?:[\w.-]+:)?SphericalVideo\s*>", xml)
    if end is None:
        return xml
    prefix = re.search(rb"<((?:[\w.-]+:)?)Spherical\s*>", xml)
    tag = (prefix.group(1) if prefix else b"GSpherical:") + name.encode()
    made = b"<" + tag + b">" + text.encode() + b"</" + tag + b">"
    return xml[: end.start()] + made + xml[end.start() :]


def _without(xml: bytes, name: str) -> bytes:
    return _pattern(name).sub(b"", xml)
