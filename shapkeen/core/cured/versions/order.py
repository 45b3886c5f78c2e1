"""An order: a recipe settled for one master, or the reason why no version can be made so."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from ...colour.codepoints import HDR_TRANSFERS
from ...declared import Declaration, TraitValue
from ...errors import UsageError
from ...geometry.framing import Size, broken_steps
from ...judged import plan_reading
from ...judged.evidence import shown_rate
from ...judged.readings import promised_coding
from ...measured.model import coding_of
from ...promised import (
    Promise,
    Promised,
    freeze,
    promise_from_master,
    stated_by,
    value_stated,
)
from ...promised.specification import Specification
from ..wishes import SAYABLE
from .encoders import ENCODERS, ENDINGS, Encoder, encoder_of
from .naming import filled
from .picture.burning import areas_of
from .picture.conversion import Fold
from .picture.maker import Piece, Samples, Way
from .placing import Picture, Placing, placing_of
from .recipe import Recipe
from .refusals import carriage_faults, faults_of
from .specified import departures

LIGHT_NAMES = {16: "PQ", 18: "HLG"}


@dataclass(frozen=True, kw_only=True)
class Order:
    """All that making a version needs.

    promise: all that the version is held to; asked: what of it the recipe asks for. kind: the
    libraries' name of the samples' format. rate: frames a second. first, end: the master's frames,
    end not included. group: the most frames between pictures that need no other.
    """

    recipe: Recipe
    promise: Promise
    asked: Promise
    encoder: Encoder
    profile: str
    kind: str
    way: Way
    placing: Placing
    aspect: Size
    rate: Fraction
    first: int
    end: int
    group: int

    @property
    def frames(self) -> int:
        """Return how many frames the version has."""
        return self.end - self.first

    @property
    def wishes(self) -> dict[str, TraitValue | None]:
        """Return what both witnesses are to say."""
        said: dict[str, TraitValue | None] = {
            name: promised.value
            for name, promised in self.promise.traits.items()
            if name in SAYABLE and promised.value is not None
        }
        kept = {name: value for name, value in said.items() if name not in ("scan", "index_first")}
        if kept.get("mirror") is False:
            kept["mirror"] = None
        if self.recipe.wrapper in ("mp4", "mov"):
            kept["index_first"] = True
        return kept


def order_version(
    master: Declaration, recipe: Recipe, *, specification: Specification | None = None
) -> Order:
    """Return the order for a master; raises UsageError saying what of the recipe cannot be made.

    specification: what the recipe was made for, None where it names none.
    """
    asked = recipe.asks(master.video.frame_count)
    promise = promise_from_master(master, overrides=asked)
    encoder = _encoder(recipe)
    own = _own_samples(master)
    goal, profile, kind = _goal_samples(master, promise, recipe, encoder, own)
    rate = _rate(master, promise)
    shown = Picture(goal.raster, _aspect(promise.value("pixel_aspect")), _stereo(promise, master))
    placing = placing_of(_picture(master), shown, promise, goal.chroma)
    first, end = _marks(master, recipe)
    asked, promise = _with_burn_in(asked, promise, recipe, goal, placing)
    for where, text in faults_of(master, promise, recipe, encoder, goal):
        raise _refuse(text, where)
    for where, text in carriage_faults(recipe, profile, goal, rate):
        raise _refuse(text, where)
    for where, text in departures(recipe, specification, profile, goal, rate):
        raise _refuse(text, where)
    return Order(
        recipe=recipe,
        promise=promise,
        asked=asked,
        encoder=encoder,
        profile=profile,
        kind=kind,
        way=_way(own, goal, recipe),
        placing=placing,
        aspect=shown.aspect,
        rate=rate,
        first=first,
        end=end,
        group=max(round(recipe.coding.keyframes_s * rate), 1),
    )


def _with_burn_in(
    asked: Promise, promise: Promise, recipe: Recipe, goal: Samples, placing: Placing
) -> tuple[Promise, Promise]:
    """Return both promises with what is burnt in: it is meant to lie over the picture."""
    boxes = list(areas_of(recipe.burn_in, goal.raster))
    if not boxes:
        return asked, promise
    if len(placing.pieces) > 1:
        raise _refuse("Timecode and text are burnt into pictures of one eye.", "burn_in")
    framing = promise.value("framing")
    made = dict(framing) if isinstance(framing, Mapping) else _framing(placing.pieces[0], goal)
    value = freeze({**made, "overlays": boxes})
    covered = Promised(value=value, origin=f"recipe {recipe.name}", explicit=True)
    one, other = (Promise(traits={**p.traits, "framing": covered}) for p in (asked, promise))
    return one, other


def _framing(piece: Piece, goal: Samples) -> dict[str, object]:
    """Return where the picture lies, as a framing says it."""
    part, place = piece.part, piece.place
    bars = {
        "top": place.top,
        "bottom": goal.raster[1] - place.top - place.height,
        "left": place.left,
        "right": goal.raster[0] - place.left - place.width,
    }
    made: dict[str, object] = {"crop": [part.left, part.top, *part.size]}
    return {**made, "bars": bars} if any(bars.values()) else made


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="cannot-make", where=where)


def _encoder(recipe: Recipe) -> Encoder:
    coding = recipe.coding
    encoder = encoder_of(coding.codec)
    if encoder is None:
        known = ", ".join(one.codec for one in ENCODERS)
        raise _refuse(f"No encoder for that codec is at hand; known are {known}.", "coding.codec")
    if coding.profile and coding.profile not in encoder.profiles:
        known = ", ".join(encoder.profiles)
        raise _refuse(
            f"The encoder at hand makes no such profile of {coding.codec}; it makes {known}.",
            "coding.profile",
        )
    if recipe.wrapper not in encoder.wrappers:
        known = ", ".join(encoder.wrappers)
        raise _refuse(f"{coding.codec} is put into {known} here, nothing else.", "wrapper")
    return encoder


def _own_samples(master: Declaration) -> Samples:
    raster = stated_by(master, "raster")
    if raster is None or not isinstance(raster[1].value, tuple):
        raise _refuse("Nothing states the master's raster.", "master")
    depth, chroma = (value_stated(master, name) for name in ("bit_depth", "chroma"))
    coding = coding_of(plan_reading(master))
    own = Samples(
        raster=(int(raster[1].value[0]), int(raster[1].value[1])),
        depth=depth if isinstance(depth, int) else 8,
        chroma=str(chroma or "4:2:0"),
        location=_location(value_stated(master, "chroma_location")),
        coding=coding,
    )
    if own.chroma == "4:0:0":
        raise _refuse("A master without chroma is not made into versions.", "master")
    return own


def _location(value: TraitValue | None) -> int:
    return value if isinstance(value, int) else 0


def _goal_samples(
    master: Declaration, promise: Promise, recipe: Recipe, encoder: Encoder, own: Samples
) -> tuple[Samples, str, str]:
    """Return the version's samples, the profile, and the libraries' name of their format."""
    raster = promise.value("raster")
    size = (int(raster[0]), int(raster[1])) if isinstance(raster, tuple) else own.raster
    coding = promised_coding(promise, master) or own.coding
    chroma, depth, profile = _fitting(
        promise, recipe, encoder, own, hdr=coding.transfer in HDR_TRANSFERS
    )
    if fault := broken_steps(size, chroma):
        raise _refuse(fault, "promise/raster")
    location = promise.value("chroma_location")
    goal = Samples(
        raster=size, depth=depth, chroma=chroma, location=_location(location), coding=coding
    )
    return goal, profile, encoder.profiles[profile][chroma, depth]


def _fitting(
    promise: Promise, recipe: Recipe, encoder: Encoder, own: Samples, *, hdr: bool
) -> tuple[str, int, str]:
    """Return chroma sampling, depth and profile: as the recipe says, else the least promised."""
    chroma = recipe.coding.chroma or _least(promise, "chroma", "4:2:0")
    depth = recipe.coding.bit_depth or _least(promise, "bit_depth", own.depth)
    profiles = [recipe.coding.profile] if recipe.coding.profile else list(encoder.profiles)
    kinds = [(name, kind) for name in profiles for kind in encoder.profiles[name]]
    wanted = (str(chroma), max(int(str(depth)), 10 if hdr else 8))
    asked = recipe.coding.chroma, recipe.coding.bit_depth
    fitting = [
        (name, kind)
        for name, kind in kinds
        if kind[0] >= wanted[0]
        and kind[1] >= wanted[1]
        and all(said in (None, has) for said, has in zip(asked, kind, strict=True))
    ]
    found = min(fitting, key=lambda one: one[1], default=None)
    if found is None:
        made = "; ".join(sorted({f"{c} at {d} bits" for _, (c, d) in kinds}))
        raise _refuse(
            f"{wanted[0]} at {wanted[1]} bits is wanted; {recipe.coding.codec} "
            f"{recipe.coding.profile} carries {made} here.".replace("  ", " "),
            "coding.profile" if recipe.coding.profile else "coding.codec",
        )
    (profile, (chroma, depth)) = found
    return chroma, depth, profile


def _least(promise: Promise, trait: str, usual: TraitValue) -> TraitValue:
    """Return the least that is promised of a trait."""
    promised = promise.traits.get(trait)
    if promised is None:
        return usual
    least = promised.value if promised.value is not None else promised.at_least
    return least if least is not None else usual


def _rate(master: Declaration, promise: Promise) -> Fraction:
    own, _ = shown_rate(master)
    if own is None:
        raise _refuse("Nothing states the master's frame rate.", "master")
    wanted = promise.value("frame_rate")
    goal = Fraction(int(wanted[0]), int(wanted[1])) if isinstance(wanted, tuple) else own
    if goal != own:
        raise _refuse(
            f"The master plays {float(own):g} frames/s and {float(goal):g} are promised: versions "
            "keep every frame at its own time.",
            "promise/frame_rate",
        )
    return own


def _aspect(value: TraitValue | None) -> Size:
    return (int(value[0]), int(value[1])) if isinstance(value, tuple) else (1, 1)


def _stereo(promise: Promise, master: Declaration) -> str:
    return str(promise.value("stereo") or value_stated(master, "stereo") or "mono")


def _picture(master: Declaration) -> Picture:
    raster = value_stated(master, "raster")
    size = (int(raster[0]), int(raster[1])) if isinstance(raster, tuple) else (1, 1)
    stereo = str(value_stated(master, "stereo") or "mono")
    return Picture(size, _aspect(value_stated(master, "pixel_aspect")), stereo)


def _marks(master: Declaration, recipe: Recipe) -> tuple[int, int]:
    count = master.video.frame_count
    if not count:
        raise _refuse("Nothing states how many frames the master has.", "master")
    first, end = recipe.first or 0, recipe.end if recipe.end is not None else count
    if not first < end <= count:
        raise _refuse(f"The marks lie outside the master's {count} frames.", "in, out")
    return first, end


def _way(own: Samples, goal: Samples, recipe: Recipe) -> Way:
    light = recipe.light
    fold = Fold(method=light.tone_map, peak_nits=light.peak_nits, white_nits=light.white_nits)
    if own.coding.is_known and goal.coding.is_known:
        return Way(own=own, goal=goal, fold=fold, linear=recipe.scaling.linear)
    # What nobody states is not converted: codes are scaled as they are.
    same = replace(goal, coding=replace(own.coding, full_range=goal.coding.full_range))
    return Way(own=own, goal=same, fold=fold)


def name_of(order: Order) -> str:
    """Return the name of a version's file, as the recipe's pattern has it."""
    recipe, goal = order.recipe, order.way.goal
    values = {
        "name": recipe.name,
        "width": goal.raster[0],
        "height": goal.raster[1],
        "light": LIGHT_NAMES.get(goal.coding.transfer, "SDR"),
        "codec": recipe.coding.codec,
        "rate": f"{float(order.rate):g}",
        "specification": recipe.specification or "master",
    }
    return f"{filled(recipe.file, values)}{ENDINGS[recipe.wrapper]}"
