"""Tags: missing, in conflict, or wrong, while the picture's code values are unchanged."""

from collections.abc import Callable, Iterator, Mapping, Set
from dataclasses import replace

from ...declared import TraitValue
from ...promised import COLOUR, LIGHT, TRAITS, Trait
from ..evidence import (
    CHANGED,
    UNCHANGED,
    UNKNOWN,
    Evidence,
    colour_state,
    is_range_converted,
    is_still,
    is_surely_moved,
    may_be_sdr,
    tone_state,
)
from ..geometry import shown_ratio
from ..model import Cause
from ..rules.eyes import eyes_of
from ..rules.sphere import shown_projection
from ..rules.tag import shown

OWN_CAUSES = frozenset({"raster", "bit_depth", "chroma", "frame_rate", "content_light"})
"""Traits whose tags follow the picture: a tag alone never is what went wrong with them."""
UNFLAGGED = {"projection": "sphere-unflagged", "stereo": "stereo-unflagged"}
COLOURED = frozenset({LIGHT, COLOUR})
PICTURED = frozenset({"tone", "gamut"})
"""What the pixels alone show of light and colour."""
WITH_PROJECTION = frozenset({"projection_bounds", "pose"})
TURNING = {"rotation": "rotated", "mirror": "mirrored"}
"""Flags that turn the picture by themselves."""
MISFLAGGED = {"projection": "sphere-misflagged", "stereo": "stereo-misflagged"}


def explain_tags(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield at most one cause of each kind, over all traits that it explains."""
    harmed = _is_unexplained(broken) or is_surely_moved(evidence)
    # Whether another transfer function is a wrong tag or another picture, code values alone tell.
    unsure = "transfer" in broken and _kind(evidence, "transfer") is None
    found: dict[str, list[Trait]] = {}
    for trait in TRAITS:
        if trait.name not in broken or not trait.declared or trait.name in OWN_CAUSES:
            continue
        if trait.name == "alternative_transfer" and "transfer" in broken:
            continue  # the message follows the transfer function
        if trait.name == "mastering_display" and may_be_sdr(evidence):
            continue  # SDR states none
        kind = _kind(evidence, trait.name)
        if kind == "tag-wrong" and (harmed or unsure) and trait.family in COLOURED:
            continue
        if kind is not None:
            found.setdefault(kind, []).append(trait)
    for kind, traits in found.items():
        # Colour tags first, then in the registry's order: the first one gives the values.
        ordered = sorted(traits, key=lambda trait: not trait.colour_tag)
        maker = _misflagged if kind in MISFLAGGED.values() else _unflagged
        cause = MAKERS.get(kind, maker(kind))(evidence, ordered)
        if kind == "tag-conflict" and "pixel_aspect" in cause.traits and "shown_shape" in broken:
            cause = replace(cause, traits=(*cause.traits, "shown_shape"))
        if harmed and any(trait.family in COLOURED for trait in ordered):
            cause = replace(cause, remedy="re-export", cure=_first_the_picture(ordered))
        yield cause


def _is_unexplained(left: Set[str]) -> bool:
    """Return whether tones or colours went wrong by no act that is named.

    left: the traits that no cause explains so far. A tag in a copy of such a picture would only
    make a wrong picture look promised.
    """
    return not left.isdisjoint(PICTURED)


def _first_the_picture(traits: list[Trait]) -> str:
    return (
        f"Find out what changed the picture, and export again with {_names(traits)} stated. Tags "
        "written into this copy would only call a changed picture right."
    )


def _kind(evidence: Evidence, trait: str) -> str | None:
    if not evidence.spoken(trait):
        said = evidence.spoken("projection")
        if trait in WITH_PROJECTION and not said:
            trait = "projection"  # one flag holds all of it
        elif trait in WITH_PROJECTION and said[0] != evidence.promise.value("projection"):
            return MISFLAGGED["projection"]
        return UNFLAGGED.get(trait, "tag-missing")
    if evidence.in_conflict(trait):
        return "tag-conflict"
    if trait in TURNING:
        return TURNING[trait]
    if trait == "range" and is_range_converted(evidence):
        return None  # flag and code values changed together: viewers see no change
    # A tag explains nothing that the pixels contradict.
    state = picture_state(evidence, trait)
    if state == CHANGED or (trait == "transfer" and state == UNKNOWN and not is_still(evidence)):
        return None
    return MISFLAGGED.get(trait, "tag-wrong")


def picture_state(evidence: Evidence, trait: str) -> str:
    """Return whether the picture behind a tag is unchanged, changed, or cannot tell."""
    if trait in ("transfer", "range"):
        return tone_state(evidence)
    if trait in ("primaries", "matrix"):
        return colour_state(evidence)
    if trait == "projection":
        return _agrees(shown_projection(evidence), evidence.promise.value(trait))
    if trait == "stereo":
        found = eyes_of(evidence)
        return _agrees(found.packings[1] if found else None, evidence.promise.value(trait))
    if trait == "pixel_aspect":
        # A known shape has been judged by then: right, so the picture was resampled to it.
        return UNKNOWN if shown_ratio(evidence) is None else CHANGED
    return UNCHANGED


def _agrees(picture: str | None, promised: TraitValue | None) -> str:
    """Return whether the picture is what was promised: then only its flag went wrong.

    A flat picture under a sphere's flag is wrong by its flag too.
    """
    return UNCHANGED if picture == promised else UNKNOWN


def _strength(evidence: Evidence, traits: list[Trait]) -> float:
    """Return how sure: tags are facts; that nothing else happened, only the picture proves."""
    proven = all(picture_state(evidence, trait.name) == UNCHANGED for trait in traits)
    return 0.98 if proven else 0.7


def _names(traits: list[Trait]) -> str:
    return ", ".join(trait.title.lower() for trait in traits)


def _missing(evidence: Evidence, traits: list[Trait]) -> Cause:
    names = _names(traits)
    return Cause(
        id="tag-missing",
        traits=tuple(trait.name for trait in traits),
        strength=_strength(evidence, traits),
        values={},
        why=f"No witness states {names}, so every player guesses.",
        remedy="retag",
        cure=f"Write {names} into a copy; the picture need not be encoded again. "
        "In the export settings, switch on the colour and HDR tags.",
    )


def _conflict(evidence: Evidence, traits: list[Trait]) -> Cause:
    first = traits[0].name
    wrapper, stream = evidence.stated(first)
    return Cause(
        id="tag-conflict",
        traits=tuple(trait.name for trait in traits),
        strength=_strength(evidence, traits),
        values={
            "wrapper": wrapper,
            "stream": stream,
            "traits": {trait.name: _both(evidence, trait.name) for trait in traits},
        },
        why=f"Wrapper and stream disagree on {_names(traits)} "
        f"({shown(first, wrapper)} against {shown(first, stream)}), and players choose "
        "differently.",
        remedy="retag",
        cure=f"Make both say {_promised_words(evidence, traits)} in a copy, without encoding "
        "again.",
    )


def _both(evidence: Evidence, trait: str) -> dict[str, TraitValue]:
    said = zip(("wrapper", "stream"), evidence.stated(trait), strict=True)
    return {name: value for name, value in said if value is not None}


def _promised_words(evidence: Evidence, traits: list[Trait]) -> str:
    return ", ".join(shown(trait.name, evidence.promise.value(trait.name)) for trait in traits)


def _wrong(evidence: Evidence, traits: list[Trait]) -> Cause:
    pairs: dict[str, Mapping[str, TraitValue | None]] = {
        trait.name: {
            "from": evidence.promise.value(trait.name),
            "to": evidence.spoken(trait.name)[0],
        }
        for trait in traits
    }
    first = traits[0].name
    return Cause(
        id="tag-wrong",
        traits=tuple(trait.name for trait in traits),
        strength=_strength(evidence, traits),
        values={**pairs[first], "traits": pairs},  # type: ignore[dict-item]  # JSON null is meant
        why=f"The file calls itself {shown(first, pairs[first]['to'])} where "
        f"{shown(first, pairs[first]['from'])} was promised, though its code values are untouched.",
        remedy="retag",
        cure=f"Correct the tags to {_promised_words(evidence, traits)} in a copy, "
        "without encoding again.",
    )


def _unflagged(kind: str) -> Callable[[Evidence, list[Trait]], Cause]:
    def make(evidence: Evidence, traits: list[Trait]) -> Cause:
        promised = _promised_words(evidence, traits)
        return Cause(
            id=kind,
            traits=tuple(trait.name for trait in traits),
            strength=_strength(evidence, traits),
            values={},
            why=f"Promised {promised}, and no witness says so: players show it flat.",
            remedy="retag",
            cure=f"Write the flag ({promised}) into a copy; the picture need not change.",
        )

    return make


def _misflagged(kind: str) -> Callable[[Evidence, list[Trait]], Cause]:
    def make(evidence: Evidence, traits: list[Trait]) -> Cause:
        promised, name = _promised_words(evidence, traits), traits[0].name
        stated = evidence.spoken(name)[0]
        source = evidence.promise.value(name)
        why = f"Promised {promised}, but the file says {shown(name, stated)}"
        cure = f"Correct the flag to {promised} in a copy; the picture need not change."
        if stated == source:  # the flag is as promised, and the picture is not
            source = shown_projection(evidence) if name == "projection" else None
            why = f"The file says {promised} as promised, but its picture is {source}"
            cure = "Export the promised picture; or flag the copy as what its picture is."
        return Cause(
            id=kind,
            traits=tuple(trait.name for trait in traits),
            strength=_strength(evidence, traits),
            values={"from": source, "to": stated},
            why=f"{why}: players lay it out the wrong way.",
            remedy="retag",
            cure=cure,
        )

    return make


def _turned_by_flag(kind: str) -> Callable[[Evidence, list[Trait]], Cause]:
    def make(evidence: Evidence, traits: list[Trait]) -> Cause:
        name = traits[0].name
        stated, promised = evidence.spoken(name)[0], evidence.promise.value(name)
        values: dict[str, TraitValue | None] = {"axis": "horizontal"}
        if kind == "rotated" and isinstance(stated, int) and isinstance(promised, int | None):
            values = {"degrees": (stated - (promised or 0)) % 360}
        return Cause(
            id=kind,
            traits=tuple(trait.name for trait in traits),
            strength=0.98,
            values=values,
            why=f"The picture is stored as it was, but a flag says {shown(name, stated)}: players "
            "turn it.",
            remedy="retag",
            cure="Take the flag out of a copy; the picture need not change.",
        )

    return make


MAKERS = {
    "rotated": _turned_by_flag("rotated"),
    "mirrored": _turned_by_flag("mirrored"),
    "tag-missing": _missing,
    "tag-conflict": _conflict,
    "tag-wrong": _wrong,
}
