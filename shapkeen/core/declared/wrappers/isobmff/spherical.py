"""Spherical and stereoscopic boxes: version 2 (st3d, sv3d) and the version 1 XML.

Source: Spherical Video V1 and V2, public format texts (from memory).
"""

from collections.abc import Iterator

from ...model import Notice, Said, TraitValue
from ...projection import projection_traits
from ...window import ShortReadError
from . import layouts
from .boxes import Box

V1_UUID = bytes.fromhex("ffcc8263f8554a938814587a02521fdd")
MAX_XML_BYTES = 256 * 1024
STEREO_MODES = {0: "mono", 1: "top-bottom", 2: "left-right", 3: "other", 4: "right-left"}
V1_STEREO_MODES = {"mono": "mono", "left-right": "left-right", "top-bottom": "top-bottom"}
PROJECTION_BOXES = {"equi": "equirectangular", "cbmp": "cubemap", "mshp": "mesh"}


def read_st3d(box: Box) -> Iterator[tuple[str, TraitValue] | Notice]:
    """State how two eyes are packed."""
    mode = layouts.ST3D.read(box.bytes(5))["stereo_mode"]
    if mode in STEREO_MODES:
        yield "stereo", STEREO_MODES[mode]
    else:
        yield Notice("unknown-stereo", f"Stereo mode {mode} is not defined.", box.path)


def read_sv3d(box: Box) -> Iterator[tuple[str, TraitValue] | Notice]:
    """State the projection, its bounds and the pose."""
    project = next((b for b in box.children() if b.type == "proj"), None)
    if project is None:
        yield Notice("no-projection", "A spherical box without a projection inside.", box.path)
        return
    for part in project.children():
        if part.type == "prhd":
            yield from _pose(part)
        elif part.type in PROJECTION_BOXES:
            bounds = _bounds(part) if part.type == "equi" else None
            yield from projection_traits(PROJECTION_BOXES[part.type], bounds)


def _pose(box: Box) -> Iterator[tuple[str, TraitValue]]:
    raw = layouts.PRHD.read(box.bytes(layouts.PRHD.size_bytes))
    pose = {axis: raw[axis] / 65536 for axis in ("yaw", "pitch", "roll")}
    if any(pose.values()):
        yield "pose", pose


def _bounds(box: Box) -> dict[str, float]:
    raw = layouts.EQUI.read(box.bytes(layouts.EQUI.size_bytes))
    return {side: raw[side] / 2**32 for side in ("top", "bottom", "left", "right")}


def read_v1(box: Box) -> tuple[dict[str, Said], list[Notice]]:
    """Return what a version 1 description in a `uuid` box states; nothing for other uuids."""
    try:
        data = box.bytes(MAX_XML_BYTES)
    except ShortReadError:
        return {}, []
    if data[:16] != V1_UUID:
        return {}, []
    texts = _element_texts(data[16:])
    if texts is None:
        return {}, [Notice("bad-spherical-xml", "The spherical XML cannot be read.", box.path)]
    return {trait: Said(value=v, where=box.path) for trait, v in _v1_traits(texts)}, []


def v1_texts(box: Box) -> dict[str, str]:
    """Return every element of a version 1 description and its text; nothing for damaged XML."""
    return _element_texts(box.bytes(MAX_XML_BYTES)[16:]) or {}


def _element_texts(xml: bytes) -> dict[str, str] | None:
    """Return local element name → text, or None where it is not plain XML."""
    # Imported here: most files have no such box, and `read` starts faster without it.
    from xml.etree import ElementTree as Tree

    if b"<!" in xml.replace(b"<!--", b""):
        return None  # entities have no place here, and can be made to explode
    try:
        # The first bytes are the writer's; the namespace is left to the local names.
        root = Tree.fromstring(xml.strip(b"\0 \r\n\t"))  # noqa: S314  (no entities, see above)
    except (Tree.ParseError, ValueError):
        return None
    return {child.tag.rpartition("}")[2]: (child.text or "").strip() for child in root.iter()}


def _v1_traits(texts: dict[str, str]) -> Iterator[tuple[str, TraitValue]]:
    if texts.get("Spherical", "").lower() != "true":
        return
    projection = texts.get("ProjectionType", "equirectangular").lower()
    yield from projection_traits(projection, _v1_bounds(texts))
    stereo = V1_STEREO_MODES.get(texts.get("StereoMode", "").lower())
    if stereo:
        yield "stereo", stereo
    axes = {"yaw": "Heading", "pitch": "Pitch", "roll": "Roll"}
    pose = {axis: _number(texts, f"InitialView{word}Degrees") for axis, word in axes.items()}
    if any(pose.values()):
        yield "pose", {axis: value or 0.0 for axis, value in pose.items()}


def _number(texts: dict[str, str], name: str) -> float | None:
    try:
        value = float(texts[name])
    except (KeyError, ValueError):
        return None
    return value if abs(value) < 1e9 else None


def _v1_bounds(texts: dict[str, str]) -> dict[str, float] | None:
    full = [_number(texts, f"FullPano{side}Pixels") for side in ("Width", "Height")]
    names = ("ImageWidth", "ImageHeight", "Left", "Top")
    cut = [_number(texts, f"CroppedArea{name}Pixels") for name in names]
    if not all(full) or any(value is None for value in cut):
        return None
    (full_w, full_h), (width, height, left, top) = (
        [v or 0.0 for v in full],
        [v or 0.0 for v in cut],
    )
    return {
        "top": top / full_h,
        "bottom": (full_h - top - height) / full_h,
        "left": left / full_w,
        "right": (full_w - left - width) / full_w,
    }


def merge_versions(
    v2: dict[str, Said], v1: dict[str, Said]
) -> tuple[dict[str, Said], list[Notice]]:
    """Return both versions' traits, version 2 outranking; each contradiction is a notice."""
    notices = [
        Notice(
            "spherical-versions-differ",
            f"Version 1 and version 2 of the spherical description state different {trait}; "
            "version 2 stands.",
            said.where,
        )
        for trait, said in v1.items()
        if trait in v2 and v2[trait].value != said.value
    ]
    # A version 1 bound or pose must not be mixed into a version 2 projection.
    added = {} if "projection" in v2 else v1
    return {**added, **v2}, notices
