"""The picture's sample entry, made to say what is wished.

Each sayer takes an entry and gives it back with its boxes put right; SAYERS is the list. What a
box has no place for is left as it is: reading the copy back shows it. Layouts: the tables of
declared/wrappers/isobmff, declared/st2086.py and docs/glossary.md.
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import TypeAlias

from ...declared.st2086 import CONTENT_LIGHT, FIXED_POINT_DISPLAY, MASTERING_DISPLAY
from ...declared.wrappers.config import VPCC
from ...declared.wrappers.isobmff import layouts
from ..context import Context
from ..headers.configuration import UnreadableRecordError, with_units
from ..headers.frame_headers import said_in_configuration
from ..headers.obu import ObuEditor
from ..headers.units import Editor
from ..light import display_fields, fixed_point_fields, light_fields
from ..wishes import COLOUR_CODES, Wishes
from .tree import Node

RECORDS = {"h264": "avcC", "h265": "hvcC"}
UNSPECIFIED = 2
FULL_BOX = bytes(4)
FIELDS = {"progressive": (1, 0), "top-first": (2, 9), "bottom-first": (2, 14), "interlaced": (2, 0)}
"""`fiel` of fields woven into frames; 1 and 6 where an entry has them already."""
STORED_APART = {"top-first": 1, "bottom-first": 6}
VP9_SITES, AV1_SITES = {0: 0, 2: 1}, {0: 1, 2: 2}
"""H.273 chroma location → chroma_sample_position of `vpcC` (as 4:2:0's kinds) and of `av1C`."""
VP9_420 = (0, 1)


Sayer: TypeAlias = Callable[[Node, Wishes, Context], Node]


def said_in_entry(entry: Node, wishes: Wishes, context: Context) -> Node:
    """Return a sample entry that says what is wished, as far as its boxes can."""
    for say in SAYERS:
        entry = say(entry, wishes, context)
    return entry


def with_box(entry: Node, name: str, body: bytes) -> Node:
    """Return an entry with the one box of that name holding this body; others of it go."""
    old = entry.all(name)
    if not old:
        return entry.with_child(Node(name.encode("latin-1"), body))
    made = entry.with_child(replace(old[0], head=body, children=None, tail=b""), instead=old[0])
    kept = tuple(c for c in made.children or () if c.name != name or c.head == body)
    return replace(made, children=kept)


def _codes(wishes: Wishes, own: Mapping[str, int], context: Context) -> dict[str, int]:
    """Return all three code points: wished, else the box's, else the other witness's, else 2."""
    found = {}
    for trait in COLOUR_CODES:
        if trait in wishes:
            wished = wishes[trait]
            found[trait] = wished if isinstance(wished, int) else UNSPECIFIED
        else:
            other = context.stated.get(trait)
            found[trait] = own.get(trait, other if isinstance(other, int) else UNSPECIFIED)
    return found


def _is_full(wishes: Wishes, own: bool | None, context: Context) -> bool:
    if "range" in wishes:
        return wishes["range"] == "full"
    return own if own is not None else context.stated.get("range") == "full"


def say_colour(entry: Node, wishes: Wishes, context: Context) -> Node:
    """Say code points and range in `colr`, and in `vpcC` where there is one."""
    if not wishes.keys() & {*COLOUR_CODES, "range"}:
        return entry
    entry = _say_in_vpcc(entry, wishes, context)
    old = next((c for c in entry.all("colr") if c.head[:4] in (b"nclx", b"nclc")), None)
    codes_go = all(trait in wishes and wishes[trait] is None for trait in COLOUR_CODES)
    if codes_go and wishes.get("range") is None:
        return _without_colour(entry)
    if old is not None and old.head[:4] == b"nclc":
        own = dict(layouts.COLR_NCLC.read(old.head))
        if not wishes.keys() & {*COLOUR_CODES}:
            return entry  # it has no place for a range
        body = layouts.COLR_NCLC.write(**own | _codes(wishes, own, context))
        return entry.with_child(replace(old, head=body), instead=old)
    if old is None and context.is_mov and "range" not in wishes:
        made = layouts.COLR_NCLC.write(
            colour_type=int.from_bytes(b"nclc", "big"), **_codes(wishes, {}, context)
        )
        return entry.with_child(Node(b"colr", made))
    own = dict(layouts.COLR_NCLX.read(old.head)) if old is not None else {}
    if old is None and _says_nothing(wishes):
        return entry
    full = _is_full(wishes, bool(own["full_range"]) if own else None, context)
    body = layouts.COLR_NCLX.write(
        colour_type=int.from_bytes(b"nclx", "big"), full_range=int(full),
        **_codes(wishes, own, context),
    )  # fmt: skip
    if old is None:
        return entry.with_child(Node(b"colr", body))
    return entry.with_child(replace(old, head=body + old.head[len(body) :]), instead=old)


def _says_nothing(wishes: Wishes) -> bool:
    return all(wishes.get(trait) is None for trait in (*COLOUR_CODES, "range"))


def _without_colour(entry: Node) -> Node:
    kept = tuple(
        c for c in entry.children or () if c.name != "colr" or c.head[:4] not in (b"nclx", b"nclc")
    )
    return replace(entry, children=kept)


def _say_in_vpcc(entry: Node, wishes: Wishes, context: Context) -> Node:
    old = entry.first("vpcC")
    if old is None:
        return entry
    own = dict(VPCC.read(old.head))
    codes = _codes(wishes, {trait: own[trait] for trait in COLOUR_CODES}, context)
    full = _is_full(wishes, bool(own["full_range"]), context)
    body = VPCC.write(**own | codes | {"full_range": int(full)})
    return entry.with_child(replace(old, head=body + old.head[len(body) :]), instead=old)


def say_chroma_location(entry: Node, wishes: Wishes, _context: Context) -> Node:
    """Say where chroma samples lie, in `vpcC` and `av1C`."""
    if "chroma_location" not in wishes:
        return entry
    wished = wishes["chroma_location"]
    vp9, av1 = entry.first("vpcC"), entry.first("av1C")
    if vp9 is not None and wished in VP9_SITES:
        own = dict(VPCC.read(vp9.head))
        if own["chroma_subsampling"] in VP9_420:
            body = VPCC.write(**own | {"chroma_subsampling": VP9_SITES[int(wished)]})  # type: ignore[arg-type]
            return entry.with_child(replace(vp9, head=body + vp9.head[len(body) :]), instead=vp9)
    if av1 is not None and len(av1.head) > 2 and (wished is None or wished in AV1_SITES):
        site = AV1_SITES[int(wished)] if isinstance(wished, int) else 0
        third = av1.head[2] & 0b11111100 | site
        head = av1.head[:2] + bytes([third]) + av1.head[3:]
        return entry.with_child(replace(av1, head=head), instead=av1)
    return entry


def say_pixel_aspect(entry: Node, wishes: Wishes, _context: Context) -> Node:
    """Say the pixel aspect in `pasp`."""
    if "pixel_aspect" not in wishes:
        return entry
    wished = wishes["pixel_aspect"]
    if not isinstance(wished, tuple):
        return entry.without("pasp")
    h, v = (int(part) for part in wished)
    return with_box(entry, "pasp", layouts.PASP.write(h_spacing=h, v_spacing=v))


def say_clean_aperture(entry: Node, wishes: Wishes, _context: Context) -> Node:
    """Say the clean aperture in `clap`; the whole is said by silence."""
    if "clean_aperture" not in wishes:
        return entry
    wished = wishes["clean_aperture"]
    if not isinstance(wished, Mapping):
        return entry.without("clap")
    fields = {}
    for name in ("width", "height", "h_offset", "v_offset"):
        ratio = wished.get(name)
        if not isinstance(ratio, tuple) or len(ratio) != 2:
            return entry
        fields[f"{name}_n"], fields[f"{name}_d"] = (int(part) for part in ratio)
    return with_box(entry, "clap", layouts.CLAP.write(**fields))


def say_scan(entry: Node, wishes: Wishes, _context: Context) -> Node:
    """Say in `fiel` whether the picture is progressive, or which field comes first."""
    if "scan" not in wishes:
        return entry
    wished = wishes["scan"]
    if not isinstance(wished, str):
        return entry.without("fiel")
    fields, detail = FIELDS[wished]
    old = entry.first("fiel")
    if old is not None and wished in STORED_APART and old.head[1:2] in (b"\1", b"\6"):
        detail = STORED_APART[wished]
    return with_box(entry, "fiel", layouts.FIEL.write(fields=fields, detail=detail))


def say_light(entry: Node, wishes: Wishes, _context: Context) -> Node:
    """Say mastering display and light level: in `mdcv` and `clli`, of VP9 in `SmDm` and `CoLL`."""
    vp9 = entry.first("vpcC") is not None
    if "mastering_display" in wishes:
        wished = wishes["mastering_display"]
        if not isinstance(wished, Mapping):
            entry = entry.without("mdcv", "SmDm")
        elif vp9 and entry.first("mdcv") is None:
            body = FULL_BOX + FIXED_POINT_DISPLAY.write(**fixed_point_fields(wished))
            entry = with_box(entry, "SmDm", body)
        else:
            entry = with_box(entry, "mdcv", MASTERING_DISPLAY.write(**display_fields(wished)))
            entry = entry.without("SmDm")
    if "content_light" in wishes:
        wished = wishes["content_light"]
        if not isinstance(wished, Mapping):
            return entry.without("clli", "CoLL")
        body = CONTENT_LIGHT.write(**light_fields(wished))
        if vp9 and entry.first("clli") is None:
            return with_box(entry, "CoLL", FULL_BOX + body)
        return with_box(entry, "clli", body).without("CoLL")
    return entry


def say_in_record(entry: Node, wishes: Wishes, context: Context) -> Node:
    """Say it in the parameter sets of the configuration record: the stream's word, kept there.

    A record or a set that cannot be read to its end stays as it is.
    """
    box = entry.first("av1C" if context.codec == "av1" else RECORDS.get(context.codec, ""))
    if box is None:
        return entry
    if context.codec == "av1":
        head = ObuEditor(wishes, context.stated).configured(box.head)
        return entry.with_child(replace(box, head=head), instead=box)
    try:
        editor = Editor(context.codec, 4, wishes, context.stated)
        head = with_units(box.head, context.codec, editor.changed)
    except UnreadableRecordError:
        return entry
    return entry.with_child(replace(box, head=head), instead=box)


def say_in_esds(entry: Node, wishes: Wishes, context: Context) -> Node:
    """Say in the frame header that the decoder's configuration keeps."""
    box = entry.first("esds")
    if box is None:
        return entry
    body = said_in_configuration(box.head, context.codec, wishes)
    return entry if body == box.head else entry.with_child(replace(box, head=body), instead=box)


SAYERS: tuple[Sayer, ...] = (
    say_in_record,
    say_in_esds,
    say_colour,
    say_chroma_location,
    say_pixel_aspect,
    say_clean_aperture,
    say_scan,
    say_light,
)
