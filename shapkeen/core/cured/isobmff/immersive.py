"""Sphere and eyes as boxes of the sample entry say them: `st3d`, `sv3d`, `vexu`.

Source: Spherical Video V2, public format text; the reference's layouts of extended usage.
"""

from collections.abc import Mapping
from dataclasses import replace

from ...declared import TraitValue
from ...declared.wrappers.isobmff import layouts
from ..wishes import HALF_BOUNDS, SPHERE, Wishes
from .tree import Node

FULL_BOX = bytes(4)
STEREO_MODES = {"mono": 0, "top-bottom": 1, "left-right": 2, "right-left": 4}
PACKINGS = {
    # packing → kind, and whether the right eye comes first
    "left-right": (b"side", 0),
    "right-left": (b"side", 1),
    "top-bottom": (b"over", 0),
    "bottom-top": (b"over", 1),
}
KINDS = {
    "rectilinear": b"rect",
    "equirectangular": b"equi",
    "half-equirectangular": b"hequ",
    "fisheye": b"fish",
}
WHOLE, HALF, CUBE = "equirectangular", "half-equirectangular", "cubemap"
IN_SV3D = frozenset({WHOLE, HALF, CUBE})
SIDES = ("top", "bottom", "left", "right")
AXES = ("yaw", "pitch", "roll")
MADE_BY = b"Shapkeen\0"
MOST_BOUND = 0xFFFFFFFF


def say_stereo(entry: Node, wishes: Wishes) -> Node:
    """Say how two eyes are packed: in `vexu` where there is one or no other place, in `st3d`."""
    if "stereo" not in wishes:
        return entry
    wished = wishes["stereo"]
    usage = entry.first("vexu")
    if wished is None:
        entry = entry.without("st3d")
        return _with_usage(entry, usage, _without_eyes(usage))
    if wished not in STEREO_MODES and wished not in PACKINGS:
        return entry
    if wished in STEREO_MODES:
        body = layouts.ST3D.write(stereo_mode=STEREO_MODES[str(wished)])
        entry = _first_box(entry, "st3d", body)
    else:
        entry = entry.without("st3d")
        usage = usage or Node(b"vexu", children=())
        if entry.first("vexu") is None:
            entry = entry.with_child(usage)
    packing = PACKINGS.get(str(wished))
    made = _without_eyes(usage) if packing is None else _with_eyes(usage, *packing)
    return _with_usage(entry, usage, made)


def _first_box(entry: Node, name: str, body: bytes) -> Node:
    old = entry.first(name)
    if old is None:
        return entry.with_child(Node(name.encode("latin-1"), body))
    return entry.with_child(replace(old, head=body), instead=old)


def _with_usage(entry: Node, old: Node | None, made: Node | None) -> Node:
    if old is None or made is None:
        return entry
    if not made.children:
        return entry.without("vexu")
    return entry.with_child(made, instead=old)


def _without_eyes(usage: Node | None) -> Node | None:
    return None if usage is None else usage.without("eyes", "pack")


def _with_eyes(usage: Node | None, kind: bytes, reversed_: int) -> Node | None:
    """Return extended usage with both eyes in one picture; other boxes of it stay."""
    if usage is None:
        return None
    stri = layouts.STRI.write(eye_views_reversed=reversed_, right_eye=1, left_eye=1)
    pkin = layouts.PKIN.write(kind=int.from_bytes(kind, "big"))
    for holder, name, body in (("eyes", "stri", stri), ("pack", "pkin", pkin)):
        old = usage.first(holder) or Node(holder.encode("latin-1"), children=())
        made = _first_box(old, name, body)
        known = usage.first(holder)
        usage = usage.with_child(made) if known is None else usage.with_child(made, instead=known)
    return usage


def say_sphere(entry: Node, wishes: Wishes) -> Node:
    """Say projection, bounds and pose: in `sv3d`, and in `vexu` where it has a projection."""
    if not wishes.keys() & SPHERE:
        return entry
    usage, old = entry.first("vexu"), entry.first("sv3d")
    if "projection" in wishes:
        wished = wishes["projection"]
        if wished is None:
            entry = entry.without("sv3d")
            return _with_usage(entry, usage, usage.without("proj") if usage else None)
        entry = _say_in_usage(entry, str(wished), anew=wished not in IN_SV3D and wished in KINDS)
        if wished not in IN_SV3D:
            return entry.without("sv3d") if wished in KINDS else entry
    elif old is None:
        return entry
    sphere = _sphere(old, wishes)
    if sphere is None:
        return entry
    return entry.with_child(sphere) if old is None else entry.with_child(sphere, instead=old)


def _say_in_usage(entry: Node, projection: str, *, anew: bool) -> Node:
    """anew: also where nothing of that kind is there yet."""
    usage = entry.first("vexu")
    known = usage.first("proj") if usage else None
    if not anew and known is None:
        return entry
    if usage is None:
        usage = Node(b"vexu", children=())
        entry = entry.with_child(usage)
    kind = KINDS.get(projection)
    if kind is None:
        return _with_usage(entry, usage, usage.without("proj"))
    body = layouts.PRJI.write(kind=int.from_bytes(kind, "big"))
    made = _first_box(known or Node(b"proj", children=()), "prji", body)
    told = usage.with_child(made) if known is None else usage.with_child(made, instead=known)
    return entry.with_child(told, instead=usage)


def _sphere(old: Node | None, wishes: Wishes) -> Node | None:
    """Return `sv3d` as wished; None where it holds a mesh, which has neither bounds nor a half."""
    known = old.first("proj") if old else None
    head = known.first("prhd") if known else None
    layout = next((c for c in (known.children or ()) if c.name in LAYOUTS), None) if known else None
    if layout is not None and layout.name == "mshp" and "projection" not in wishes:
        return None if "projection_bounds" in wishes else _put(old, known, head, layout, wishes)
    return _put(old, known, head, _layout(layout, wishes), wishes)


LAYOUTS = frozenset({"equi", "cbmp", "mshp"})


def _put(
    old: Node | None, known: Node | None, head: Node | None, layout: Node, wishes: Wishes
) -> Node:
    """Return `sv3d` with this layout and the wished pose; its other boxes stay as they are."""
    pose = _pose(head, wishes)
    others = [c for c in (known.children or ()) if c.name != "prhd" and c.name not in LAYOUTS] if (
        known
    ) else []  # fmt: skip
    project = Node(b"proj", known.head if known else b"", (pose, layout, *others))
    if old is None:
        return Node(b"sv3d", children=(Node(b"svhd", FULL_BOX + MADE_BY), project))
    return old.with_child(project, instead=known)


def _pose(head: Node | None, wishes: Wishes) -> Node:
    own = layouts.PRHD.read(head.head) if head is not None else {}
    if "pose" in wishes:
        wished = wishes["pose"]
        own = {**own, **{axis: _degrees(wished, axis) for axis in AXES}}
    return Node(b"prhd", layouts.PRHD.write(**own))


def _degrees(pose: TraitValue | None, axis: str) -> int:
    value = pose.get(axis, 0.0) if isinstance(pose, Mapping) else 0.0
    return round(float(value) * 65_536) if isinstance(value, int | float) else 0


def _layout(old: Node | None, wishes: Wishes) -> Node:
    """Return `equi` or `cbmp`, of the old one what is not wished otherwise."""
    projection = wishes.get("projection")
    if projection == CUBE:
        return (
            old if old is not None and old.name == "cbmp" else Node(b"cbmp", layouts.CBMP.write())
        )
    if projection is None and old is not None and old.name == "cbmp":
        return old
    own = dict(layouts.EQUI.read(old.head)) if old is not None and old.name == "equi" else {}
    bounds = {side: own.get(side, 0) for side in SIDES}
    quarter = round(HALF_BOUNDS * 2**32)
    is_half = (bounds["left"], bounds["right"]) == (quarter, quarter)
    if "projection_bounds" in wishes:
        bounds = {side: _bound(wishes["projection_bounds"], side) for side in SIDES}
    if projection == HALF or (projection is None and is_half):
        if "projection_bounds" not in wishes or projection == HALF:
            bounds |= {"left": quarter, "right": quarter}
    elif projection == WHOLE and is_half and "projection_bounds" not in wishes:
        bounds |= {"left": 0, "right": 0}
    return Node(b"equi", layouts.EQUI.write(**own | bounds))


def _bound(bounds: TraitValue | None, side: str) -> int:
    value = bounds.get(side, 0.0) if isinstance(bounds, Mapping) else 0.0
    share = float(value) if isinstance(value, int | float) else 0.0
    return min(round(share * 2**32), MOST_BOUND)
