"""Two eyes: how they are packed, and whether they still see the same depth."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from statistics import median

from ...geometry.packing import SIDE_BY_SIDE, TOP_BOTTOM, way_of
from ...measured import StereoFindings, StereoMoment
from ...promised import SHOWN_FLAT, SHOWN_TWICE, TWO_EYES
from .. import tolerances
from ..evidence import Evidence
from ..geometry import shown_ratio
from ..model import CANNOT_TELL, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven
from ..pairing import look_exchanged
from .tag import judge_tag, shown

ONE = "mono"
SIDE_BY_SIDE_SHAPE, TOP_BOTTOM_SHAPE = 3.0, 1.0
"""Two 16:9 eyes side by side 3.56, one over the other 0.89. Common practice, no source."""
HALVED = 0.02


def eyes_of(evidence: Evidence) -> StereoFindings | None:
    """Return what was measured of two eyes; None where nothing was."""
    return evidence.survey.eyes if evidence.survey else None


def moments_of(evidence: Evidence) -> tuple[StereoMoment, ...]:
    """Return the moments at which both eyes were looked at."""
    found = eyes_of(evidence)
    return found.moments if found else ()


def judge_stereo(evidence: Evidence, trait: str) -> Ruling:
    """Judge the flag, and how the eyes are packed: the picture outranks the flag."""
    promised, found = evidence.promised(trait), eyes_of(evidence)
    picture = found.packings[1] if found else None
    tags = judge_tag(evidence, trait)
    if promised.value == ONE:
        state = CANNOT_TELL if picture is None else KEPT if picture == ONE else LOST
        return replace(_judge_one(evidence, tags, picture), picture_state=state)
    if promised.value not in TWO_EYES:
        return tags if tags.verdict != "kept" else unproven("The tags are right; no picture shows.")
    if found is None or picture is None:
        return _unseen(tags)
    if fault := _fault(evidence, found, picture):
        return lost(fault, picture=ONE if found.repeated else picture, picture_state=LOST)
    if promised.origin == SHOWN_TWICE and (ruling := _judge_shown(evidence, picture)):
        return ruling
    if tags.verdict != "kept":
        state = KEPT if found.sure else CANNOT_TELL
        return lost(tags.why, picture=picture, picture_state=state)
    if not found.sure:
        return unproven("The tags are right; both eyes are too alike to tell which is which.")
    text = "Each eye sits where it was promised."
    return kept(text, picture=picture, picture_state=KEPT)


def _fault(evidence: Evidence, found: StereoFindings, picture: str) -> str | None:
    """Return what is wrong with how the picture holds its eyes; None where nothing is."""
    promised = evidence.promise.value("stereo")
    if found.swapped:
        return "The eyes follow each other the other way round."
    if found.repeated:
        return "Both places show one and the same eye."
    if look_exchanged(found):
        return "Each eye's picture is nearer to the master's other eye than to its own."
    if picture != promised:
        return f"Promised {promised}, but the picture is {picture}."
    if is_squeezed(evidence):
        return "Each eye is squeezed, or stretched, to another share of its width."
    return None


def _judge_shown(evidence: Evidence, picture: str) -> Ruling | None:
    """Judge eyes of which the master does not say which one is left; None where a flag is missing.

    A flag that names the right two places, in either order, may be true.
    """
    spoken, own = evidence.spoken("stereo"), way_of(picture)
    said = [way_of(value) for value in spoken]
    if not spoken or own is None or evidence.in_conflict("stereo"):
        return None
    if any(told is None or told[0] != own[0] for told in said):
        return None
    return unproven(
        "Both eyes are where the master has them; which is the left one only its flag, or the "
        "promise, can tell.",
        picture=picture,
    )


def _unseen(tags: Ruling) -> Ruling:
    if tags.verdict != "kept":
        return tags
    return unproven("The tags are right; nothing in the picture tells how eyes are packed.")


def _judge_one(evidence: Evidence, tags: Ruling, picture: str | None) -> Ruling:
    if tags.verdict == "kept":
        return kept("One eye, as promised.", picture=picture)
    silent = evidence.promised("stereo").origin == SHOWN_FLAT
    if silent and picture != ONE and _may_be_two(evidence):
        said = shown("stereo", evidence.spoken("stereo")[0])
        return unproven(
            f"The export says {said}, the master nothing, and its shape fits. Promise it, if the "
            "master is so."
        )
    return lost(tags.why, picture=picture)


def _may_be_two(evidence: Evidence) -> bool:
    shape = evidence.promise.value("shown_shape")
    return isinstance(shape, float) and (shape >= SIDE_BY_SIDE_SHAPE or shape <= TOP_BOTTOM_SHAPE)


def is_squeezed(evidence: Evidence) -> bool:
    """Return whether eyes went from full to half size or back, packed the same way as before."""
    ratio, told = shown_ratio(evidence), way_of(evidence.promise.value("stereo"))
    if ratio is None or told is None or told[0] not in (SIDE_BY_SIDE, TOP_BOTTOM):
        return False
    return min(abs(ratio / 2 - 1), abs(ratio * 2 - 1)) < HALVED


def _over(
    moments: Sequence[StereoMoment], part: Callable[[StereoMoment], float | None]
) -> float | None:
    """Return the middle of what all moments tell; None where none does."""
    values = [value for one in moments if (value := part(one)) is not None]
    return median(values) if values else None


def _between(moment: StereoMoment, across: bool) -> float | None:
    """Return the right eye's shift less the left eye's, against the master's, in %."""
    if moment.shifts is None:
        return None
    left, right = moment.shifts
    if min(left.likeness, right.likeness) < tolerances.EYE_LIKENESS:
        return None
    return right.dx - left.dx if across else right.dy - left.dy


def height_between(evidence: Evidence) -> float | None:
    """Return by how much lower the right eye's picture stands than it did, in % of its height."""
    return _over(moments_of(evidence), lambda one: _between(one, across=False))


def convergence_change(evidence: Evidence) -> float | None:
    """Return by how much further right the right eye lies than promised, in % of its width."""
    found = _over(moments_of(evidence), lambda one: _between(one, across=True))
    return None if found is None else found - promised_shift(evidence)


def promised_shift(evidence: Evidence) -> float:
    """Return the promised shift of the right eye against the master's, in % of its width."""
    promised = evidence.promise.value("convergence")
    shift = promised.get("shift") if isinstance(promised, Mapping) else None
    return float(shift) if isinstance(shift, int | float) else 0.0


def judge_eye_height(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether both eyes stand equally high, against the master's."""
    off = height_between(evidence)
    if off is None:
        return unproven("The eyes could not be laid over the master's.")
    measure = Measure(
        "right eye lower than left", round(off, 3), "% of height", tolerances.EYE_DROP
    )
    if abs(off) <= tolerances.EYE_DROP:
        return kept("Both eyes stand as high as they did.", picture="as mastered", measure=measure)
    word = "lower" if off > 0 else "higher"
    text = f"The right eye's picture stands {abs(off):.2f} % of its height {word} than it did."
    judge = lost if abs(off) > tolerances.EYE_DROP_LOST else bent
    return judge(text, picture="moved", measure=measure)


def judge_convergence(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether the same depth lies at the screen as was promised."""
    off = convergence_change(evidence)
    if off is None:
        return unproven("The eyes could not be laid over the master's.")
    measure = Measure("right eye's shift", round(off, 3), "% of width", tolerances.EYE_SHIFT)
    if abs(off) <= tolerances.EYE_SHIFT:
        return kept("The same depth lies at the screen.", picture="as promised", measure=measure)
    word = "back from" if off > 0 else "out towards"
    text = f"Everything went {word} the viewer by {abs(off):.2f} % of the width in parallax."
    text = text.replace("out towards the viewer", "towards the viewer")
    judge = lost if abs(off) > tolerances.EYE_SHIFT_LOST else bent
    return judge(text, picture="moved", measure=measure)


def judge_eye_size(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether both eyes' pictures are equally large, against the master's."""
    ratio = _over(moments_of(evidence), _size_between)
    if ratio is None:
        return unproven("The eyes could not be laid over the master's.")
    limit = tolerances.EYE_SIZE
    measure = Measure("right eye's size ÷ left eye's", round(ratio, 4), "", 1 + limit)
    if abs(ratio - 1) <= limit:
        return kept("Both eyes are equally large.", picture="alike", measure=measure)
    word = "smaller" if ratio < 1 else "larger"
    text = f"The right eye's picture is {abs(ratio - 1) * 100:.1f} % {word} than the left eye's."
    return lost(text, picture="different", measure=measure)


def _size_between(moment: StereoMoment) -> float | None:
    if (
        moment.shifts is None
        or min(one.likeness for one in moment.shifts) < tolerances.EYE_LIKENESS
    ):
        return None
    left, right = moment.shifts
    return right.size / left.size


def parallax_share(evidence: Evidence) -> float | None:
    """Return the export's reach of parallax, nearest to farthest, ÷ the master's."""
    shares = []
    for one in moments_of(evidence):
        master, export = one.parallax
        if master is None or export is None:
            continue
        reach = master.farthest - master.nearest
        if reach > tolerances.LEAST_PARALLAX:
            shares.append((export.farthest - export.nearest) / reach)
    return median(shares) if shares else None


def judge_parallax(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether there is as much depth as in the master."""
    share = parallax_share(evidence)
    if share is None:
        return unproven(
            "Depth could not be matched: too little of it, too little structure, or a pattern that "
            "repeats."
        )
    limit = tolerances.PARALLAX_SHARE
    measure = Measure("depth ÷ the master's", round(share, 3), "", 1 + limit)
    if abs(share - 1) <= limit:
        return kept("As much depth as mastered.", picture="as mastered", measure=measure)
    word = "less" if share < 1 else "more"
    return bent(f"There is {word} depth: {share:.2f} of it.", picture="changed", measure=measure)


def judge_eye_colour(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether the eyes differ more in colour than the master's do."""
    off = _over(moments_of(evidence), lambda one: _more(one.colour))
    if off is None:
        return unproven("The eyes' colours could not be held against each other.")
    limit = tolerances.EYE_COLOUR
    measure = Measure("ΔE between eyes beyond the master's", round(off, 2), "", limit)
    if off <= limit:
        return kept("Both eyes see the same colours.", picture="alike", measure=measure)
    text = "The eyes see different colours at the same places: surfaces shimmer."
    return bent(text, picture="different", measure=measure)


def _more(pair: tuple[float | None, float | None]) -> float | None:
    master, export = pair
    return None if master is None or export is None else export - master


def judge_eye_sharpness(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether one eye is less sharp than the other, more than in the master."""
    share = _over(moments_of(evidence), lambda one: _share(one.sharpness))
    if share is None:
        return unproven("There is too little fine structure to tell.")
    limit = tolerances.EYE_SHARPNESS
    measure = Measure("right eye's sharpness ÷ left eye's", round(share, 3), "", limit)
    if 1 / limit <= share <= limit:
        return kept("Both eyes are equally sharp.", picture="alike", measure=measure)
    side = "right" if share < 1 else "left"
    return bent(f"The {side} eye is less sharp.", picture="different", measure=measure)


def _share(pair: tuple[float | None, float | None]) -> float | None:
    master, export = pair
    return export / master if master and export else None


def judge_eye_time(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether both eyes show the same moment, where anything moves."""
    found = eyes_of(evidence)
    left, right = found.late if found else (None, None)
    if left is None or right is None:
        return unproven("Too little moves to tell.")
    off = right - left
    measure = Measure("right eye behind left", float(off), "frames", 0)
    if off == 0:
        return kept("Both eyes show the same moment.", picture="alike", measure=measure)
    side = "right" if off > 0 else "left"
    frames = "a frame" if abs(off) == 1 else f"{abs(off)} frames"
    return lost(f"The {side} eye is {frames} behind.", picture="different", measure=measure)
