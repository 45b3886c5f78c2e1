"""The evidence slip of one trait: who says what and where, the drawing that proves it, the cure."""

from dataclasses import dataclass

from ..colour.difference import difference_name
from ..declared import Declaration, TraitValue
from ..judged import Cause, Comparison, Verdict
from ..measured import CodeUse, Damage, LikenessSummary
from ..promised import SOUND, Trait, promise_words, stated_by, trait_by_name
from .bench import cause_title
from .drawings import DRAWN_BY, SCREEN, drawing_of
from .hearing import sound_lines
from .immersive import eyes_lines, sphere_lines

TONE_TRAITS = frozenset({"tone", "transfer"})
CONVERT_GRAPHICS = (
    "Convert graphics and stills to the picture's transfer function before they are laid in, with "
    "SDR white at 203 cd/m² (ITU-R BT.2408), and export again."
)
LIGHT_TRAITS = frozenset({"content_light", "mastering_display"})
MOST_STRETCHES = 6
GAMUT_TRAITS = frozenset({"gamut", "primaries"})


@dataclass(frozen=True, slots=True)
class WitnessLine:
    """One line of a slip: who says what, where."""

    witness: str
    value: str
    place: str


@dataclass(frozen=True, slots=True)
class Slip:
    """The evidence for one trait. view: which page shows it best: look, around or eyes.

    drawing: the name of the figure (explained.py), empty where there is none.
    """

    verdict: Verdict
    trait: Trait
    lines: tuple[WitnessLine, ...]
    cause: Cause | None
    cause_title: str
    runner_up: str
    hint: str
    figure: str
    figure_caption: str
    frame: int
    view: str = "look"
    drawing: str = ""


def slip_of(comparison: Comparison, verdict: Verdict) -> Slip:
    """Return the evidence slip of one trait."""
    trait = trait_by_name(verdict.trait)
    assert trait is not None  # noqa: S101  (as in row_of)
    cause = next((c for c in comparison.survival.causes if trait.name in c.traits), None)
    figure, caption = drawing_of(comparison, trait)
    return Slip(
        verdict=verdict,
        trait=trait,
        lines=tuple(_lines(comparison, trait, verdict)),
        cause=cause,
        cause_title=cause_title(cause) if cause else "",
        runner_up=_runner_up(comparison, cause),
        hint=CONVERT_GRAPHICS if trait.name == "tone" and comparison.survey.misplaced else "",
        figure=figure,
        figure_caption=caption,
        frame=_telling_frame(comparison, trait),
        view=_telling_view(comparison, trait),
        drawing=DRAWN_BY[trait.name] if figure else "",
    )


def _telling_view(comparison: Comparison, trait: Trait) -> str:
    survey = comparison.survey
    if trait.family == "sphere" and survey.sphere and survey.sphere.is_seen_around:
        return "around"
    return "eyes" if trait.family == "eyes" and survey.eyes else "look"


def _telling_frame(comparison: Comparison, trait: Trait) -> int:
    """Return the export's frame that shows best what happened."""
    survey = comparison.survey
    if trait.name in TONE_TRAITS and survey.misplaced:
        return survey.misplaced[0].frame
    damage = survey.export_statistics.damage
    if trait.name == "intact" and damage.first is not None:
        return damage.first
    if trait.name == "frames" and survey.timing is not None:
        events = (*survey.timing.dropped, *survey.timing.repeated)
        if events:
            return min(event.export_frame for event in events)
    if trait.family == SOUND and survey.sound and survey.sound.gaps:
        return round(survey.sound.gaps[0][0] * (survey.export_frames or 0) / _seconds(comparison))
    if trait.family == "sphere" and survey.sphere and survey.sphere.worst_frame is not None:
        return survey.sphere.worst_frame
    if survey.difference:
        return survey.difference.worst_frame
    return survey.pairs[0].export_frame if survey.pairs else damage.first or 0


def _seconds(comparison: Comparison) -> float:
    return comparison.export.video.duration_s or 1.0


def _lines(comparison: Comparison, trait: Trait, verdict: Verdict) -> list[WitnessLine]:
    promised = comparison.promise.traits[trait.name]
    lines = [WitnessLine("promise", promise_words(trait, promised), promised.origin)]
    if trait.name == "index_first":
        where = "after the picture data" if verdict.wrapper is False else "before the picture data"
        return [*lines, WitnessLine("wrapper", where, "moov and mdat, in file order")]
    if trait.name == "level":
        stated = comparison.export.video.level or "none"
        return [*lines, WitnessLine("stream", stated, _measured_words(verdict))]
    if trait.declared:
        lines.append(_declared_line("master", comparison.master, trait))
        for name, witness in (
            ("wrapper", comparison.export.wrapper),
            ("stream", comparison.export.stream),
        ):
            said = witness.get(trait.name)
            shown = _code_and_name(trait, said.value) if said else "silent"
            lines.append(WitnessLine(name, shown, said.where if said else ""))
    shown = trait.show(verdict.picture) if verdict.picture is not None else "cannot tell"
    if verdict.picture is None and verdict.verdict == "kept":
        shown = "not needed"
    heard = trait.family == SOUND
    lines.append(WitnessLine("sound" if heard else "picture", shown, _measured_words(verdict)))
    if trait.name == "range":
        lines.append(_codes_line(comparison.survey.export_codes))
    lines += _whole_lines(comparison, trait)
    return lines


def _whole_lines(comparison: Comparison, trait: Trait) -> list[WitnessLine]:
    """Return what every frame shows beside the trait: gamut in use, light above the display."""
    whole, lines = comparison.survey.export_statistics, []
    if trait.name in GAMUT_TRAITS and whole.gamut is not None:
        gamut = whole.gamut
        shares = f"{gamut.outside_p3:.2%} outside P3-D65, {gamut.outside_bt709:.2%} outside BT.709"
        most = f"of all samples; most at {gamut.worst_s:.2f} s: {gamut.worst_p3:.2%} outside P3-D65"
        lines.append(WitnessLine("gamut in use", shares, most))
    if trait.name in LIGHT_TRAITS and whole.light is not None:
        light = whole.light
        levels = f"MaxCLL {light.max_cll:.0f}, MaxFALL {light.max_fall:.0f} cd/m²"
        more = f"99.99 % of the brightest frame below {light.p9999:.0f} cd/m²"
        if light.above_peak is not None:
            more = f"{more}; {light.above_peak:.3%} of samples above the stated display's peak"
        lines.append(WitnessLine("measured", levels, more))
    if trait.name == "detail" and comparison.survey.likeness:
        lines.append(_likeness(comparison.survey.likeness, comparison.promise.value("transfer")))
    if trait.name == "intact" and whole.damage.stretches:
        lines.append(WitnessLine("frames", _stretches(whole.damage), "cannot be relied on"))
    if trait.family == "sphere":
        lines += [WitnessLine(*line) for line in sphere_lines(comparison)]
    if trait.family == "eyes":
        lines += [WitnessLine(*line) for line in eyes_lines(comparison, SCREEN)]
    if trait.family == SOUND:
        lines += [WitnessLine(*line) for line in sound_lines(comparison)]
    if trait.name == "bit_depth" and whole.banding is not None:
        text = f"{whole.banding:.0%} of steps on even gradients are 3 codes of 1023 or more"
        lines.append(WitnessLine("levels", f"{whole.codes.levels} codes in use", text))
    return lines


def _stretches(damage: Damage) -> str:
    """Return the first stretches of broken frames in words."""
    told = [
        f"{first}" if first == last else f"{first} to {last}"
        for first, last in damage.stretches[:MOST_STRETCHES]
    ]
    more = len(damage.stretches) - len(told)
    return ", ".join(told) + (f", and {more} more stretches" if more else "")


def _likeness(found: LikenessSummary, transfer: TraitValue | None) -> WitnessLine:
    """Return how like the expected picture the export is, over every frame."""
    shown = f"SSIM {found.ssim_mean:.4f}, worst frame {found.worst_frame}: {found.ssim_worst:.4f}"
    more = [f"PSNR {found.psnr_mean:.1f} dB"]
    if found.delta_e is not None:
        unit = difference_name(transfer if isinstance(transfer, int) else 0)
        more.append(f"{unit} {found.delta_e:.2f}, worst place {found.delta_e_worst or 0.0:.1f}")
    return WitnessLine(
        "likeness", shown, f"{'; '.join(more)}; all {found.frames} frames, made small"
    )


def _codes_line(codes: CodeUse) -> WitnessLine:
    """Return which luma codes the export's picture uses, on the file's own scale."""
    outside = f"{codes.below_black:.2%} below limited black, {codes.above_white:.2%} above white"
    span = f"{codes.p001} to {codes.p999} of {(1 << codes.depth) - 1}"
    return WitnessLine("codes", span, f"99.8 % of samples; {outside}")


def _declared_line(name: str, declaration: Declaration, trait: Trait) -> WitnessLine:
    said = stated_by(declaration, trait.name)
    if said is None:
        return WitnessLine(name, "silent", "")
    return WitnessLine(name, _code_and_name(trait, said[1].value), f"{said[0]}: {said[1].where}")


def _code_and_name(trait: Trait, value: TraitValue) -> str:
    shown = trait.show(value)
    is_code = trait.name in ("primaries", "transfer", "matrix", "alternative_transfer")
    return f"{value} {shown}" if is_code else shown


def _measured_words(verdict: Verdict) -> str:
    measure = verdict.measure
    if measure is None:
        return ""
    unit = f" {measure.unit}" if measure.unit else ""
    return f"{measure.name} {measure.value:g}{unit}, limit {measure.limit:g}{unit}"


def _runner_up(comparison: Comparison, cause: Cause | None) -> str:
    """Return the next best explanation of a changed tone, with what it leaves over."""
    tone = comparison.survey.tone
    if cause is None or tone is None or not any(fit.act == cause.id for fit in tone.fits):
        return ""
    own = tone.residual(cause.id)
    other = next(fit for fit in tone.fits if fit.act != cause.id)
    return (
        f"It leaves {own:.1f} codes unexplained; the next best, "
        f"{other.act.replace('-', ' ')}, leaves {other.residual:.1f}."
    )
