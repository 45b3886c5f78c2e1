"""Acts on tone, levels and light levels."""

from collections.abc import Iterator, Set

from .. import tolerances
from ..evidence import Evidence, may_be_sdr, needed_act, tone_act
from ..model import Cause, explained
from ..rules.light import (
    bits_left,
    declared_light,
    has_staircase,
    is_combed,
    light_figure,
    measured_light,
    plain_light,
    staircase_share,
)

RANGE_TEXTS = {
    "range-compressed": (
        "Code values were squeezed from full to limited range, but are read as before: "
        "blacks are lifted, whites greyed.",
        "Export again with the range left as in the master, once: a limited-range master must "
        "not be treated as full range.",
    ),
    "range-expanded": (
        "Code values were stretched from limited to full range, but are read as before: "
        "shadows are crushed and highlights cut.",
        "Export again with limited range, or flag the file as full range if every receiver reads "
        "that flag.",
    ),
}


def explain_tone(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield a range act or a power law, where it explains the tone better than any other."""
    act = tone_act(evidence.survey)
    if act is None or not act.clear:
        return
    if act.act in RANGE_TEXTS and act.act != needed_act(evidence):
        why, cure = RANGE_TEXTS[act.act]
        yield Cause(
            id=act.act,
            traits=explained(broken, "range", "tone", "gamut"),
            strength=act.strength,
            values={},
            why=why,
            remedy="re-export",
            cure=cure,
        )
    elif act.act == "gamma-shifted" and act.exponent is not None:
        word = "darker" if act.exponent > 1 else "lighter"
        yield Cause(
            id="gamma-shifted",
            traits=explained(broken, "tone", "transfer", "range", "gamut"),
            strength=act.strength,
            values={"exponent": round(act.exponent, 3)},
            why=f"Mid-tones came out {word}: tone follows the power {act.exponent:.3f} of what was "
            "signed off.",
            remedy="re-export",
            cure="Look for a viewing table or a gamma change that was burnt in at export, switch "
            f"it off, and export again; or take back the power with 1 ÷ {act.exponent:.3f} "
            f"= {1 / act.exponent:.3f}.",
        )


def explain_bit_depth(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield depth-reduced where the picture shows 8-bit levels in a deeper file."""
    survey = evidence.survey
    if "bit_depth" not in broken or survey is None or survey.export_codes.depth <= 8:
        return
    combed = is_combed(survey.export_codes) and not is_combed(survey.master_codes)
    if not combed and not has_staircase(evidence):
        return
    share = staircase_share(evidence) or 0.0
    levels, bits = survey.export_codes.levels, bits_left(evidence)
    yield Cause(
        id="depth-reduced",
        traits=("bit_depth",),
        strength=0.97 if combed else round(min(0.6 + share / 3, 0.9), 2),
        values={"levels": levels if combed else 1 << bits, "bits": bits},
        why=f"The file declares {survey.export_codes.depth} bits, but its levels are those of "
        f"{bits}.",
        remedy="re-export",
        cure="Find the step that works in fewer bits (an intermediate, an effect, a still) and "
        "export again from the deeper material.",
    )


def explain_light_level(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield a missing light level, or one below the promise and the picture's own light."""
    if "content_light" not in broken:
        return
    declared, conflict = declared_light(evidence)
    light = evidence.survey.export_light if evidence.survey else None
    figures = {"measured": measured_light(light), "plain": plain_light(light)}
    if declared is None and may_be_sdr(evidence):
        return  # SDR states none
    if declared is None:
        yield Cause(
            id="light-level-missing",
            traits=("content_light",),
            strength=0.98,
            values={"declared": None, **figures},
            why="The promised light level is not in the file, so displays must guess how to "
            "fit it.",
            remedy="retag",
            cure="Write MaxCLL and MaxFALL into a copy, or switch on HDR metadata at export.",
        )
        return
    promised = light_figure(evidence.promise.value("content_light"), "max_cll")
    ceiling = light_figure(declared, "max_cll")
    too_low = ceiling and light and light.p999 > ceiling * tolerances.LIGHT_LEVEL
    if conflict or not (too_low and promised and ceiling and ceiling < promised):
        return
    yield Cause(
        id="light-level-understated",
        traits=("content_light",),
        strength=0.95,
        values={"declared": dict(declared), **figures},
        why=f"The file promises at most {ceiling:.0f} cd/m², but its picture reaches "
        f"{light.p999 if light else 0:.0f} cd/m² (99.9th percentile): displays clip the rest.",
        remedy="retag",
        cure="Write the master's MaxCLL and MaxFALL into a copy.",
    )
