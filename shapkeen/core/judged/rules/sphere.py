"""Spheres: what the picture is laid out as, where its front is, and whether its seam is closed."""

from collections.abc import Mapping
from dataclasses import replace

from ...declared import TraitValue
from ...measured import SphereFindings
from ...promised import SHOWN_FLAT
from .. import tolerances
from ..evidence import Evidence
from ..geometry import framing_of
from ..model import CANNOT_TELL, KEPT, LOST, Measure, Ruling, kept, lost, unproven
from .tag import judge_tag, shown

FLAT, WHOLE = "rectilinear", "equirectangular"
UNSEEN = frozenset({"fisheye", "mesh"})
"""Layouts that no picture proves by itself."""
DOUBLE_SHAPE, NEAR_SHAPE = 2.0, 0.02


SURELY_APART = 4.0
"""Steps at the seam ÷ between neighbours: however far unrelated columns part, as those of a smooth
picture do, edges that meet show at most 3.1."""


def sphere_of(evidence: Evidence) -> SphereFindings | None:
    """Return what was measured of a sphere; None where nothing was."""
    return evidence.survey.sphere if evidence.survey else None


def shown_projection(evidence: Evidence) -> str | None:
    """Return what the export's picture is laid out as; None where that cannot be told.

    By its own signs; or by the master's, where all of that lies in it and nothing contradicts.
    """
    found = sphere_of(evidence)
    if found is None:
        return None
    if found.kinds[1] is not None:
        return found.kinds[1]
    framing = framing_of(evidence)
    return found.kinds[0] if framing is not None and not framing.has_cut else None


def judge_projection(evidence: Evidence, trait: str) -> Ruling:
    """Judge the flag by all witnesses, the picture above the others."""
    promised, picture = evidence.promised(trait), shown_projection(evidence)
    state = _layout_state(promised.value, picture)
    tags = judge_tag(evidence, trait)
    if promised.value == FLAT:
        return replace(_judge_flat(evidence, tags, picture), picture_state=state)
    if picture is not None and picture != promised.value and promised.value not in UNSEEN:
        text = f"Promised {shown(trait, promised.value)}, but the picture is {_words(picture)}."
        return lost(text, picture=picture, picture_state=state)
    if tags.verdict != "kept":
        return lost(tags.why, picture=picture, picture_state=state)
    if picture is None or promised.value in UNSEEN:
        return unproven("The tags are right; the picture cannot show that it is so.")
    text = "Every witness says so, and so does the picture."
    return kept(text, picture=picture, picture_state=state)


def _layout_state(promised: TraitValue | None, picture: str | None) -> str:
    if picture is None or promised in UNSEEN:
        return CANNOT_TELL
    return KEPT if picture == promised else LOST


def _judge_flat(evidence: Evidence, tags: Ruling, picture: str | None) -> Ruling:
    if tags.verdict == "kept":
        return kept("Flat, as promised.", picture=picture)
    if picture == FLAT:
        return lost(f"{tags.why} The picture itself is flat.", picture=FLAT)
    silent = evidence.promised("projection").origin == SHOWN_FLAT
    if silent and picture is None and _may_be_whole(evidence):
        said = shown("projection", evidence.spoken("projection")[0])
        return unproven(
            f"The export says {said}, the master nothing, and its shape fits. Promise it, if the "
            "master is so."
        )
    return lost(tags.why, picture=picture)


def _may_be_whole(evidence: Evidence) -> bool:
    shape = evidence.promise.value("shown_shape")
    return isinstance(shape, float) and abs(shape - DOUBLE_SHAPE) < NEAR_SHAPE


def _words(layout: str) -> str:
    return "flat" if layout == FLAT else layout


def judge_bounds(evidence: Evidence, trait: str) -> Ruling:
    """Judge which part of the sphere is said to be covered, against what is seen."""
    tags = judge_tag(evidence, trait)
    if tags.verdict != "kept":
        return tags
    promised, picture = evidence.promised(trait).value, shown_projection(evidence)
    if picture == WHOLE and isinstance(promised, Mapping) and any(promised.values()):
        return lost(
            "The picture covers the whole sphere: its edges meet, and both poles are there. The "
            "bounds deny it.",
            picture="whole",
            picture_state=LOST,
        )
    framing = framing_of(evidence)
    if framing is None or not framing.is_whole:
        return unproven("The tags are right; the picture does not show all of the master's.")
    text = "Stated as promised, and all of the master's picture is there."
    return kept(text, picture=promised, picture_state=KEPT)


def turned_by(evidence: Evidence) -> tuple[float, float, float] | None:
    """Return yaw, pitch and roll in degrees by which the sphere's content went; None if unknown."""
    found = sphere_of(evidence)
    if found is None or (found.turn_likeness is None and not found.moments):
        return None
    if found.turn_likeness is not None and found.turn_likeness < tolerances.TURN_LIKENESS:
        return None  # bent otherwise: no turn brings it back
    known = found.turn_likeness is not None or any(one.yaw is not None for one in found.moments)
    turn = found.turn
    return (turn.yaw, turn.pitch, turn.roll) if known else None


def judge_front(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether what lies ahead is where it was; a stated pose may make up for it."""
    turn = turned_by(evidence)
    if turn is None:
        return unproven("Nothing in the picture tells where the front is.")
    yaw, pitch, roll = turn
    limit = tolerances.SPHERE_TURN_DEG
    most = max(abs(yaw), abs(pitch), abs(roll))
    measure = Measure("turned by", round(most, 3), "degrees", limit)
    if most <= limit:
        return kept("What lies ahead still does.", picture="as mastered", measure=measure)
    if _pose_makes_up(evidence, turn):
        text = "The content was turned, and the stated pose turns it back."
        return kept(text, picture=turn_words(turn), measure=measure)
    return lost(f"The sphere was turned: {turn_words(turn)}.", picture="turned", measure=measure)


def turn_words(turn: tuple[float, float, float]) -> str:
    """Return a turn in words: what of it is more than nothing."""
    named = zip(
        turn, (("left", "right"), ("down", "up"), ("anticlockwise", "clockwise")), strict=True
    )
    parts = [
        f"{abs(angle):.2f}° {words[angle > 0]}"
        for angle, words in named
        if abs(angle) > tolerances.SPHERE_TURN_DEG / 2
    ]
    return ", ".join(parts) or "not at all"


def _pose_makes_up(evidence: Evidence, turn: tuple[float, float, float]) -> bool:
    """Return whether the export states a pose that undoes the turn; players apply it.

    A pose's yaw turns the content to the left (anticlockwise seen from above): Spherical Video V2.
    """
    stated, promised = evidence.spoken("pose"), evidence.promise.value("pose")
    if not stated:
        return False
    limit = tolerances.SPHERE_TURN_DEG
    change = [_angle(stated[0], name) - _angle(promised, name) for name in ("yaw", "pitch", "roll")]
    level = max(abs(turn[1]), abs(turn[2]), abs(change[1]), abs(change[2])) <= limit
    return level and abs((change[0] - turn[0] + 180) % 360 - 180) <= limit


def posed_by(evidence: Evidence) -> float | None:
    """Return by how many degrees a pose that nobody promised moves the content to the right.

    None where none is stated.
    """
    stated = evidence.spoken("pose")
    if not stated:
        return None
    return _angle(evidence.promise.value("pose"), "yaw") - _angle(stated[0], "yaw")


def _angle(pose: TraitValue | None, name: str) -> float:
    value = pose.get(name, 0.0) if isinstance(pose, Mapping) else 0.0
    return float(value) if isinstance(value, int | float) else 0.0


def judge_pose(evidence: Evidence, trait: str) -> Ruling:
    """Judge the stated initial view, together with where the content is."""
    tags, turn = judge_tag(evidence, trait), turned_by(evidence)
    if turn is not None and _pose_makes_up(evidence, turn):
        text = "It makes up for a turn of the content: viewers look the same way first."
        return kept(text, picture_state=KEPT)
    if tags.verdict != "kept":
        return tags
    if turn is None:
        return unproven("The tag is right; nothing tells where the picture's front is.")
    promised = evidence.promised(trait).value
    return kept("Stated as promised.", picture=promised, picture_state=KEPT)


def judge_seam(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether both edges still meet, by what the export adds there and elsewhere."""
    found = sphere_of(evidence)
    if found is None or found.seam is None or found.ordinary is None:
        return unproven("The edges could not be held against the master's.")
    ratio = found.seam / found.ordinary
    limit = tolerances.SEAM_RATIO
    measure = Measure("step added at the seam ÷ elsewhere", round(ratio, 2), "", limit)
    if is_open(evidence):
        text = f"Left and right edge part by {found.seam:.1f} codes of 1023 more than the master's."
        if is_out_of_place(evidence) and (own := found.signs[1].seam) is not None:
            text = f"Its own edges part {own:.1f} times as far as neighbouring columns do."
        if is_torn(evidence) and found.tear is not None:
            text = f"The right edge stands {found.tear:+.2f} % of the height lower than the left."
        return lost(text, picture="open", measure=measure)
    return kept("Left and right edge meet as the master's do.", picture="closed", measure=measure)


def is_open(evidence: Evidence) -> bool:
    """Return whether the export's edges part more than its master's, and more than coding makes."""
    found = sphere_of(evidence)
    if found is None or found.seam is None or found.ordinary is None:
        return False
    if is_out_of_place(evidence):
        return _parts_itself(found)
    visible = found.seam - found.ordinary > tolerances.SEAM_CODES
    return is_torn(evidence) or (visible and found.seam > tolerances.SEAM_RATIO * found.ordinary)


def is_out_of_place(evidence: Evidence) -> bool:
    """Return whether the picture fits its master at no place and no turn: bent, or sheared."""
    place = evidence.survey.registration if evidence.survey else None
    found = sphere_of(evidence)
    turned = found.turn_likeness if found and found.turn_likeness is not None else 1.0
    return place is not None and (
        place.likeness < tolerances.IN_PLACE
        or max(place.likeness, turned) < tolerances.TURN_LIKENESS
    )


def _parts_itself(found: SphereFindings) -> bool:
    """Return whether a picture's own edges part as unrelated columns do, and its master's meet."""
    own, here = found.signs
    if own.seam is None or here.seam is None or here.unrelated is None:
        return False
    apart = max(tolerances.SEAM_RATIO, min(here.unrelated / 4, SURELY_APART))
    return here.seam > apart and here.seam > tolerances.SEAM_RATIO * own.seam


def is_torn(evidence: Evidence) -> bool:
    """Return whether the picture stands higher at one edge than at the other; bars hide edges."""
    found, framing = sphere_of(evidence), framing_of(evidence)
    if framing is not None and framing.has_bars:
        return False
    return found is not None and found.tear is not None and abs(found.tear) > tolerances.SEAM_TEAR
