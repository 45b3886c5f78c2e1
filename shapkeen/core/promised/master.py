"""A promise derived from a master: what it declares and shows must survive."""

from collections.abc import Iterator, Mapping

from ..colour.codepoints import HDR_TRANSFERS
from ..declared import Declaration, TraitValue
from ..geometry.codec_profiles import CHROMA_ORDER
from .forms import AS_MASTERED
from .model import Promise, Promised
from .sound import sound_promised, without_sound
from .stated import stated_by
from .traits import SOUND, TRAITS, Trait
from .validation import check_validity

CUSTOMARY: dict[str, tuple[TraitValue, str]] = {
    "index_first": (True, "common practice: playback can begin at once"),
    "intact": ("whole", "goes without saying: every coded picture decodes"),
    "framing": ("whole", "master's picture"),
    "level": ("kept to", "the codec's standard: decoders rely on the declared level"),
}
"""Promised whatever the master declares."""


def promise_from_master(master: Declaration, *, overrides: Promise | None = None) -> Promise:
    """Return what every export of this master must keep.

    Every value says where it came from; `overrides` (from a promise file) win trait by trait.
    """
    traits = {trait.name: p for trait in TRAITS if (p := _from_master(trait, master))}
    if overrides:
        for name in _of_another_light(traits, overrides):
            traits.pop(name, None)
        traits |= overrides.traits
        for name in tuple(without_sound(traits)):
            traits.pop(name)
    for name in REDUCED:
        if name not in traits and (said := stated_by(master, name)):
            traits[name] = _reduced(name, said[1].value, _value(traits, "transfer"))
    traits |= _within(traits)
    traits["shown_shape"] = traits.get("shown_shape") or _shown_shape(traits, master)
    promise = Promise(traits=traits)
    if overrides:
        check_validity(promise, master)
    return promise


REDUCED = ("chroma", "bit_depth")
"""What every delivery reduces: as fine as the master's nobody asks for it."""


def _reduced(name: str, mastered: TraitValue, transfer: TraitValue | None) -> Promised:
    """Return the least that a delivery must have, where nobody asks for more."""
    if name == "chroma":
        least: TraitValue = min("4:2:0", str(mastered), key=CHROMA_ORDER.index)
        origin = "common practice: deliveries are 4:2:0"
    else:
        wanted = 10 if transfer in HDR_TRANSFERS else 8
        least = min(wanted, mastered) if isinstance(mastered, int) else wanted
        origin = "common practice: 10 bits under PQ and HLG, 8 otherwise"
    return Promised(value=least, at_least=least, origin=origin)


WHOLE_SPHERE = "equirectangular"
TWO_EYES = frozenset({"left-right", "right-left", "top-bottom", "bottom-top", "frame-sequential"})


def _within(traits: Mapping[str, Promised]) -> dict[str, Promised]:
    """Return what is promised of the picture because a whole sphere is, or two eyes are."""
    has = {
        "projection": _value(traits, "projection") == WHOLE_SPHERE,
        "stereo": _value(traits, "stereo") in TWO_EYES,
    }
    return {
        trait.name: Promised(value=AS_MASTERED, origin="master's picture")
        for trait in TRAITS
        if has.get(trait.within) and trait.name not in traits
    }


def _value(traits: Mapping[str, Promised], name: str) -> TraitValue | None:
    promised = traits.get(name)
    return promised.value if promised else None


def promise_shown(promise: Promise, *, projection: str | None, stereo: str | None) -> Promise:
    """Return the promise with what a silent master's picture shows to be: a sphere, or two eyes."""
    shown = {"projection": (projection, SHOWN_SPHERICAL), "stereo": (stereo, SHOWN_TWICE)}
    traits = dict(promise.traits)
    for name, (value, origin) in shown.items():
        if value is not None and name not in traits:
            traits[name] = Promised(value=value, origin=origin)
    return Promise(traits={**traits, **_within(traits)})


def _of_another_light(traits: Mapping[str, Promised], overrides: Promise) -> Iterator[str]:
    """Yield what the master says of its own light only, once another transfer is promised."""
    wanted = overrides.traits.get("transfer")
    had = traits.get("transfer")
    if wanted is None or had is None or wanted.value == had.value:
        return
    yield "alternative_transfer"
    if wanted.value not in HDR_TRANSFERS:
        yield from ("mastering_display", "content_light", "dynamic_hdr")


def _from_master(trait: Trait, master: Declaration) -> Promised | None:
    if trait.name in CUSTOMARY:
        customary, origin = CUSTOMARY[trait.name]
        return Promised(value=customary, origin=origin)
    if trait.family == SOUND:
        return sound_promised(trait, master)
    if trait.within:
        return None  # follows from another trait
    if trait.name == "shown_shape":
        return None  # follows from raster and pixel aspect, once those are settled
    if not trait.declared:
        return Promised(value=AS_MASTERED, origin="master's picture")
    said = stated_by(master, trait.name)
    if said is None:
        return _neutral(trait)
    if trait.name in REDUCED:
        return None  # follows from the transfer function, once that is settled
    witness, value = said
    if trait.name == "display_size" and _is_derived_size(master, value.value):
        return None
    return Promised(value=value.value, origin=f"master's {witness}: {value.where}")


SHOWN_SPHERICAL = "master's picture: its edges meet, and it is stretched towards the poles"
SHOWN_TWICE = "master's picture: two views of one scene; which is the left one it leaves open"
SHOWN_FLAT = "master is silent, so players show it flat"
SHOWN_AHEAD = "master is silent, so viewers begin at its middle"
SHOWN_WHOLE = "master is silent, so players show all of it"


def promise_beside(promise: Promise, export: Declaration) -> Promise:
    """Return the promise with what silence of the master means where an export breaks it.

    A master that states neither sphere nor eyes is shown flat, and one without a clean aperture is
    shown whole. That goes without saying, until an export says otherwise.
    """
    added = {
        trait.name: Promised(value=trait.flat, origin=SHOWN_FLAT)
        for trait in TRAITS
        if trait.flat and trait.name not in promise.traits and _says_otherwise(trait, export)
    }
    pose = stated_by(export, "pose")
    if "pose" not in promise.traits and pose is not None and _is_turned(pose[1].value):
        added["pose"] = Promised(value={"yaw": 0, "pitch": 0, "roll": 0}, origin=SHOWN_AHEAD)
    if "clean_aperture" not in promise.traits and stated_by(export, "clean_aperture"):
        added["clean_aperture"] = Promised(value="whole", origin=SHOWN_WHOLE)
    return Promise(traits={**promise.traits, **added}) if added else promise


def _is_turned(pose: TraitValue) -> bool:
    return isinstance(pose, Mapping) and any(pose.values())


def _says_otherwise(trait: Trait, export: Declaration) -> bool:
    said = stated_by(export, trait.name)
    return said is not None and said[1].value != trait.flat


def _neutral(trait: Trait) -> Promised | None:
    if trait.neutral is None:
        return None
    value: TraitValue = trait.neutral  # type: ignore[assignment]  # the registry's own values
    return Promised(value=value, origin="master is silent, which means this")


def _is_derived_size(master: Declaration, size: TraitValue) -> bool:
    """Return whether a display size is only raster × pixel aspect, as many writers put it."""
    raster, aspect = stated_by(master, "raster"), stated_by(master, "pixel_aspect")
    if raster is None or not isinstance(size, tuple) or not isinstance(raster[1].value, tuple):
        return False
    h, v = aspect[1].value if aspect and isinstance(aspect[1].value, tuple) else (1, 1)
    width, height = raster[1].value
    return abs(size[0] - width * h / v) <= 1 and abs(size[1] - height) <= 1


def _shown_shape(traits: Mapping[str, Promised], master: Declaration) -> Promised:
    raster = traits["raster"].value if "raster" in traits else None
    aspect = traits["pixel_aspect"].value if "pixel_aspect" in traits else (1, 1)
    if not isinstance(raster, tuple) or not isinstance(aspect, tuple):
        return Promised(value=None, origin=f"{master.file.name} states no raster")
    shape = raster[0] * aspect[0] / (raster[1] * aspect[1])
    return Promised(value=round(shape, 4), origin="promised raster × promised pixel aspect")
