"""Shape: raster, pixel aspect, shown shape, framing, scan."""

from ...measured import Astray, Overlay, Registration
from .. import tolerances
from ..equivalence import equivalent
from ..evidence import Evidence, satisfies
from ..geometry import (
    Framing,
    aspect_of,
    framing_of,
    overlays_of,
    ratios_by_witness,
    shear_of,
    shown_ratio,
    stored_aspect,
    stored_scales,
)
from ..model import BENT, CANNOT_TELL, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven
from ..pairing import is_out_of_step, is_surely_paired
from .tag import conflict_text, judge_tag, shown

FLATTENED = 0.7


def judge_raster(evidence: Evidence, trait: str) -> Ruling:
    """Judge the number of samples; the coded stream's is what decoders give."""
    promised = evidence.promised(trait)
    wrapper, stream = evidence.stated(trait)
    raster = stream if stream is not None else wrapper
    if not isinstance(raster, tuple):
        return unproven("No witness states a raster.")
    if satisfies(promised, raster) and evidence.in_conflict(trait):
        return bent(conflict_text(evidence, trait), picture=raster, picture_state=KEPT)
    if satisfies(promised, raster):
        return kept("As many samples as promised.", picture=raster, picture_state=KEPT)
    wanted = promised.value if promised.value is not None else promised.at_least
    text = f"Promised {shown(trait, wanted)}, delivered {shown(trait, raster)}."
    fewer = isinstance(wanted, tuple) and (raster[0] < wanted[0] or raster[1] < wanted[1])
    if fewer:
        return lost(text, picture=raster, picture_state=LOST)
    return bent(text, picture=raster, picture_state=BENT)


def _ratio_measure(ratio: float, limit: float) -> Measure:
    return Measure("shown width ÷ promised width", round(ratio, 4), "", 1 + limit)


def judge_pixel_aspect(evidence: Evidence, trait: str) -> Ruling:
    """Judge the stated pixel aspect together with the shape that the stored picture has."""
    promised = evidence.promised(trait)
    stated = aspect_of(evidence.export)
    as_promised = satisfies(promised, stated) or (
        promised.value is not None and equivalent(trait, promised.value, stated)
    )
    ratio = shown_ratio(evidence)
    state = _stored_state(evidence, ratio)
    if evidence.in_conflict(trait):
        return lost(conflict_text(evidence, trait), picture_state=state)
    if ratio is None:
        if as_promised:
            return unproven("The tag is right; the picture's own shape cannot be told.")
        return lost(f"Promised {shown(trait, promised.value)}, stated {shown(trait, stated)}.")
    measure, picture = _ratio_measure(ratio, tolerances.SHAPE_RATIO), stored_aspect(evidence)
    right_shape = abs(ratio - 1) <= tolerances.SHAPE_RATIO
    if as_promised and right_shape:
        return kept(
            "Stated as promised, and the picture is stored to match.",
            picture=picture,
            measure=measure,
            picture_state=KEPT,
        )
    if right_shape:
        text = f"Stated {shown(trait, stated)}; the picture was resampled to match it."
        return bent(text, picture=picture, measure=measure, picture_state=BENT)
    if as_promised and stated == aspect_of(evidence.master) == (1, 1):
        return kept(
            "Square samples, as promised; the shape is another matter.",
            picture=picture,
            measure=measure,
            picture_state=KEPT,
        )
    if as_promised:
        return lost(
            "Stated as promised, but the picture is not stored so.",
            picture=picture,
            measure=measure,
            picture_state=LOST,
        )
    silent = "" if evidence.spoken(trait) else " (by silence)"
    text = f"Promised {shown(trait, promised.value)}, stated {shown(trait, stated)}{silent}."
    return lost(text, picture=picture, measure=measure, picture_state=state)


def _stored_state(evidence: Evidence, ratio: float | None) -> str:
    """Return whether the picture would have its promised shape under the promised pixel aspect.

    ratio: shown width ÷ promised width under the stated one.
    """
    promised = evidence.promise.value("pixel_aspect")
    if ratio is None or not isinstance(promised, tuple):
        return CANNOT_TELL
    (h, v), (p, q) = aspect_of(evidence.export), promised
    return KEPT if abs(ratio * p * v / (q * h) - 1) <= tolerances.SHAPE_RATIO else LOST


def judge_shown_shape(evidence: Evidence, _trait: str) -> Ruling:
    """Judge the shape that viewers see."""
    ratio = shown_ratio(evidence)
    if ratio is None:
        return unproven("The picture could not be registered with the master's.")
    tolerance = evidence.promised("shown_shape").tolerance or tolerances.SHAPE_RATIO
    measure = _ratio_measure(ratio, tolerance)
    promised = evidence.promised("shown_shape").value
    picture = round(promised * ratio, 4) if isinstance(promised, int | float) else None
    if abs(ratio - 1) <= tolerance:
        return _unless_another(evidence, tolerance) or kept(
            "Circles stay circles.", picture=promised, measure=measure
        )
    if abs(ratio - 1) <= _uncertain(evidence):
        return unproven(
            "Frames do not agree how large the picture is, so roughly is it coded.", measure=measure
        )
    word = "narrower" if ratio < 1 else "wider"
    text = f"Everything is shown {abs(ratio - 1) * 100:.1f} % {word} than promised."
    visible = abs(ratio - 1) > max(tolerances.SHAPE_VISIBLE, tolerance)
    return (lost if visible else bent)(text, picture=picture, measure=measure)


def _uncertain(evidence: Evidence) -> float:
    """Return by how much the shown ratio may be off, as far as single frames disagree."""
    place = evidence.survey.registration if evidence.survey else None
    if place is None:
        return 0.0
    rough = tolerances.ROUGH_PLACE if place.likeness < tolerances.PLACE_LIKE else 0.0
    if place.spread <= tolerances.PLACE_SPREAD:
        return rough
    return rough + tolerances.SHAPE_SPREAD * place.spread * (1 / place.width + 1 / place.height)


def _unless_another(evidence: Evidence, tolerance: float) -> Ruling | None:
    """Return the ruling where one witness alone shows another shape; players differ."""
    for witness, ratio in ratios_by_witness(evidence).items():
        if abs(ratio - 1) > tolerance:
            word = "narrower" if ratio < 1 else "wider"
            text = f"Players that obey the {witness} show everything {abs(ratio - 1) * 100:.1f} %"
            return bent(
                f"{text} {word}.",
                measure=_ratio_measure(ratio, tolerance),
                picture_state=KEPT,
                wrapper_state=BENT if witness == "wrapper" else None,
                stream_state=BENT if witness == "stream" else None,
            )
    return None


def judge_framing(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether all of the promised picture is there, and nothing round it."""
    framing = framing_of(evidence)
    if framing is None:
        return unproven("The picture could not be registered with the master's.")
    place = evidence.survey.registration if evidence.survey else None
    if place is not None and (place.turn or place.mirrored):
        return lost("The picture was turned or mirrored.", picture="turned")
    limit = tolerances.FRAMING_SHARE * 100
    measure = Measure(
        "largest pad or cut", round(framing.largest_share * 100, 2), "% of side", limit
    )
    if framing.is_whole and (overlays := overlays_of(evidence)):
        return lost(_overlay_text(overlays), picture="covered", measure=measure)
    if framing.is_whole and (sheared := shear_of(evidence)):
        return _judge_sheared(evidence, sheared)
    if framing.is_whole and (astray := frames_astray(evidence)):
        return lost(_astray_text(astray), picture="changed", measure=measure)
    if framing.is_whole:
        return kept("The whole promised picture is there.", picture="whole", measure=measure)
    if framing.bare and not framing.has_bars and not framing.has_cut:
        text = f"The promised bars are missing or smaller: {', '.join(framing.bare)}."
        return bent(text, picture="changed", measure=measure)
    if place is not None and (doubt := _doubt(evidence, framing, place)):
        return unproven(doubt, measure=measure)
    picture = "moved" if framing.shift else "changed"
    return lost(_framing_text(framing), picture=picture, measure=measure)


def _judge_sheared(evidence: Evidence, sheared: float) -> Ruling:
    assert evidence.survey is not None  # noqa: S101  (a shear was measured)
    side = "right" if sheared > 0 else "left"
    share = 100 * abs(sheared) / evidence.survey.export_raster[0]
    limit = tolerances.FRAMING_SHARE * 100
    return lost(
        f"The picture is sheared: its last row lies {abs(sheared):.1f} samples further {side} than "
        "its first.",
        picture="changed",
        measure=Measure("last row against the first", round(share, 2), "% of width", limit),
    )


def _doubt(evidence: Evidence, framing: Framing, place: Registration) -> str:
    """Return why a picture that seems moved may well be in its place; nothing where it is sure."""
    if place.spread > tolerances.PLACE_SPREAD and _is_within(framing, place.spread):
        if is_out_of_step(evidence, place):
            return "Frames do not agree where the picture lies: some may be another's."
        if _is_rough(evidence):
            return "Frames do not agree where the picture lies, so roughly is it coded."
    if place.spread > tolerances.WANDERING and place.likeness < tolerances.IN_PLACE:
        return "The picture is so unlike the master's that every frame lies elsewhere in it."
    if place.likeness < tolerances.PLACE_LIKE and framing.largest_share < tolerances.ROUGH_PLACE:
        return "The picture is so unlike the master's that its place is only roughly known."
    return ""


def _is_rough(evidence: Evidence) -> bool:
    """Return whether next to none of the fine structure is left by which places are found."""
    detail = evidence.survey.detail if evidence.survey else None
    return detail is None or detail.transfer < tolerances.DETAIL_LOST


def _overlay_text(overlays: tuple[Overlay, ...]) -> str:
    first = overlays[0]
    more = f"; {len(overlays)} areas in all" if len(overlays) > 1 else ""
    return (
        f"Something lies over the picture that the master does not have: {first.width}×"
        f"{first.height} samples at {first.x}, {first.y}{more}."
    )


def _is_within(framing: Framing, spread: float) -> bool:
    """Return whether the picture seems moved by no more than frames out of step make."""
    largest = max(*framing.bars.values(), *framing.cut.values())
    return largest < tolerances.PLACE_SURE * spread


def frames_astray(evidence: Evidence) -> tuple[Astray, ...]:
    """Return the frames whose picture lies elsewhere than in most, by more than scaling makes."""
    survey = evidence.survey
    if survey is None or not is_surely_paired(evidence):
        return ()
    place = survey.registration
    rough = place is not None and place.likeness < tolerances.PLACE_LIKE
    share = tolerances.ROUGH_PLACE if rough else tolerances.FRAMING_SHARE
    limits = [max(share * side, tolerances.FRAMING_SAMPLES) for side in survey.export_raster]
    return tuple(one for one in survey.astray if abs(one.dx) > limits[0] or abs(one.dy) > limits[1])


def _astray_text(astray: tuple[Astray, ...]) -> str:
    first = astray[0]
    return (
        f"In some shots the picture lies elsewhere: {first.dx:g} samples right and {first.dy:g} "
        f"down at frame {first.export_frame}; {len(astray)} of the registered frames in all."
    )


def _framing_text(framing: Framing) -> str:
    parts = []
    if framing.has_bars:
        sides = ", ".join(f"{side} {count}" for side, count in framing.bars.items() if count)
        parts.append(f"Bars stand round the picture, in samples: {sides}.")
    if framing.has_cut:
        sides = ", ".join(f"{side} {count}" for side, count in framing.cut.items() if count)
        parts.append(f"Picture is cut off, in master samples: {sides}.")
    return " ".join(parts)


def judge_scan(evidence: Evidence, trait: str) -> Ruling:
    """Judge whether frames are whole or woven from two fields, by tags and by combed edges."""
    promised = evidence.promised(trait).value
    tags = judge_tag(evidence, trait)
    combed = evidence.survey.combed if evidence.survey else None
    if combed is None:
        return tags if tags.verdict != "kept" else unproven("No frame could be looked at.")
    measure = Measure(
        "woven blocks beyond the master's", round(combed, 4), "share", tolerances.COMBED_SHARE
    )
    if promised == "progressive" and is_combed(evidence):
        text = "Lines part from their neighbours where the picture moves: two fields are woven."
        return lost(text, picture="interlaced", measure=measure, picture_state=LOST)
    if evidence.spoken(trait) and tags.verdict != "kept":
        return tags
    difference = evidence.survey.difference if evidence.survey else None
    alike = difference is not None and difference.ssim_worst >= tolerances.PROGRESSIVE_SSIM
    if promised == "progressive" and alike:
        text = "Frames match whole frames of the master."
        return kept(text, picture=promised, measure=measure, picture_state=KEPT)
    text = "Declared as promised; nothing combs, or nothing moves that could."
    return kept(text, measure=measure, picture_state=CANNOT_TELL)


def is_combed(evidence: Evidence) -> bool:
    """Return whether the export's frames are woven where the master's are whole."""
    combed = evidence.survey.combed if evidence.survey else None
    return combed is not None and combed > tolerances.COMBED_SHARE and not _is_flattened(evidence)


def _is_flattened(evidence: Evidence) -> bool:
    """Return whether lines were squeezed together as columns were not: fine structure then combs.

    So it is where eyes were laid one over the other at half their height.
    """
    scales = stored_scales(evidence)
    return scales is not None and scales[1] < FLATTENED * scales[0]
