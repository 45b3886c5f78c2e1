"""Conversions of light and colour that nobody promised."""

from collections.abc import Callable, Iterator, Mapping, Set

from ...colour.codepoints import MATRICES, PRIMARIES, TRANSFERS
from ...colour.coding import SDR_WHITE_NITS
from ...declared import TraitValue
from ...measured import Act
from ...promised import stated_by
from ..conversion import FoundAct, found_conversion
from ..evidence import Evidence, is_as_sdr, tone_act
from ..model import Cause, explained
from ..pairing import is_out_of_step

Values = Mapping[str, float]
PQ = 16
TRAITS = {
    "matrix-swapped": ("matrix", "gamut"),
    "gamut-converted": ("primaries", "gamut"),
    "gamut-clipped": ("gamut",),
    "transfer-converted": (
        "transfer",
        "alternative_transfer",
        "tone",
        "range",
        "gamut",
        "content_light",
    ),
    "tone-compressed": ("tone", "transfer", "range", "gamut"),
    "highlights-clipped": ("tone", "range", "gamut"),
}
FOLDED = (
    "tone",
    "transfer",
    "alternative_transfer",
    "primaries",
    "matrix",
    "gamut",
    "range",
    "bit_depth",
    "mastering_display",
    "content_light",
    "detail",
)
"""All that follows where HDR became SDR."""
WHY: dict[str, Callable[[Values, str], str]] = {
    "matrix-swapped": lambda v, _: (
        f"The picture was coded with the {MATRICES[int(v['from'])]} matrix and read with "
        f"{MATRICES[int(v['to'])]}: reds and greens shift."
    ),
    "gamut-converted": lambda v, _: (
        f"Colours were converted from {PRIMARIES[int(v['from'])]} to {PRIMARIES[int(v['to'])]}, "
        "and the tags still say the former."
    ),
    "gamut-clipped": lambda v, _: (
        f"Colours outside {PRIMARIES[int(v['to'])]} were cut to its edge."
    ),
    "transfer-converted": lambda v, _: (
        f"Tone was converted from {TRANSFERS[int(v['from'])]} to {TRANSFERS[int(v['to'])]}."
    ),
    "tone-compressed": lambda v, unit: f"Tone was rolled off to a peak of {v['peak']:.4g}{unit}.",
    "highlights-clipped": lambda v, unit: f"Everything above {v['level']:.4g}{unit} was cut flat.",
}
UNMADE = "The promised conversion was not made: tones still are as mastered."
UNFOLD = (
    "Export in the master's own HDR: set the output's transfer function and primaries to the "
    "master's and switch tone mapping off; or, if an SDR version was wanted, promise SDR."
)
MAKE_IT = (
    "Switch the conversion on at export: set the output's transfer function to the promised one, "
    "so that the picture is converted and not only tagged."
)
CURES = {
    "matrix-swapped": "Find the step that reads or writes the picture with another matrix (a "
    "still, a plug-in, an SD setting) and export again.",
    "gamut-converted": "Switch off the colour space conversion at export; or, if it was wanted, "
    "promise it and tag the file with the new primaries.",
    "gamut-clipped": "Export in the master's colour space; a smaller one in between cuts colours.",
    "transfer-converted": "Switch off the conversion at export; or, if it was wanted, promise it "
    "and tag the file with the new transfer function.",
    "tone-compressed": "Switch off tone mapping at export; it belongs in the display.",
    "highlights-clipped": "Find the step that limits the peak (a legaliser, an SDR viewer, a "
    "display setting) and export again without it.",
}


def explain_conversion(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield the conversion that explains the picture, or both acts where it took two.

    A range act or power that followed a conversion is told by light.explain_tone.
    """
    found = found_conversion(evidence.survey)
    if found is None:
        yield from _made_sdr(evidence, broken)
        return
    unit = " cd/m²" if evidence.promise.value("transfer") == PQ else " of the signal"
    left = set(broken)
    for act in found.fit.acts:
        if act.name not in TRAITS:
            continue
        traits = FOLDED if found.fold else TRAITS[act.name]
        unmade = _unmade(evidence, act)
        if not left & set(traits):
            continue
        why = UNMADE if unmade else WHY[act.name](act.values, unit)
        if found.fold:
            white = f"{act.values['peak']:.0f} cd/m²"
            why = f"HDR was tone-mapped into SDR, whose white stands for {white}."
        yield Cause(
            id=act.name,
            traits=explained(frozenset(left), *traits),
            strength=found.strength,
            values=_plain(act.values),
            why=f"{why} {_runner_up(found)}".rstrip(),
            remedy="re-export",
            cure=MAKE_IT if unmade else UNFOLD if found.fold else CURES[act.name],
        )
        # What is left for the second act: tone, where the first moved only colours.
        left -= set(traits)


def _made_sdr(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield a fold into SDR whose curve a picture of few tones does not show.

    Its tags say SDR, and its tones are not the master's: so it was converted, not only tagged.
    """
    survey, act = evidence.survey, tone_act(evidence.survey)
    if "transfer" not in broken or not is_as_sdr(evidence) or (act and act.clear):
        return
    if survey is None or survey.registration is None:
        return
    if is_out_of_step(evidence, survey.registration):
        return  # another moment has other tones too
    yield Cause(
        id="tone-compressed",
        traits=explained(frozenset(broken), *FOLDED),
        strength=0.7,
        values={"peak": SDR_WHITE_NITS},
        why="HDR was made SDR: its tags say so, and tones are not where they were. Too few of them "
        "to tell along which curve.",
        remedy="re-export",
        cure=UNFOLD,
    )


def _unmade(evidence: Evidence, act: Act) -> bool:
    """Return whether the picture still is as mastered, where the promise asks for another."""
    if act.name != "transfer-converted":
        return False
    had = stated_by(evidence.master, "transfer")
    return had is not None and had[1].value == int(act.values["to"])


def _plain(values: Values) -> dict[str, TraitValue]:
    """Return codes as whole numbers and figures as they are."""
    return {name: int(v) if name in ("from", "to") else v for name, v in values.items()}


def _runner_up(found: FoundAct) -> str:
    if found.runner_up is None:
        return ""
    word = found.runner_up.act.replace("-", " ").replace("+", " and ")
    who = "Both together leave" if found.fit.parts else "It leaves"
    return (
        f"{who} {found.fit.residual:.1f} codes unexplained; the next best, {word}, leaves "
        f"{found.runner_up.residual:.1f}."
    )
