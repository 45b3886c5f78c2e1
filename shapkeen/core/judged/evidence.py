"""The evidence that every rule gets: promise, both declarations, and the survey."""

from dataclasses import dataclass
from fractions import Fraction

from ..colour.codepoints import HDR_TRANSFERS, UNSPECIFIED, mean_the_same
from ..declared import Declaration, TraitValue, Witness
from ..geometry.timecode import StartTimecode, counted
from ..measured import Bars, PairSurvey, ToneFindings
from ..promised import Promise, Promised, meant_by, stated_by
from . import tolerances
from .conversion import FoundAct, found_conversion
from .equivalence import equivalent
from .folding import FoldFault, fault_of

COLOUR_CODES = frozenset({"primaries", "transfer", "matrix"})


@dataclass(frozen=True, slots=True)
class ToneAct:
    """What happened to tone, in code values.

    act: identity, range-compressed, range-expanded, gamma-shifted, a conversion of light (see
    conversion.LIGHT_ACTS), unexplained (moved, and no act tells how), or unclear (moved so
    little that no act gains clearly over none).
    residual: what the act leaves unexplained; moved: what lies between expected and delivered.
    clear: whether no other act explains it as well. fault: of a promised fold into SDR (misfolded).
    """

    act: str
    residual: float
    moved: float
    strength: float
    clear: bool
    exponent: float | None = None
    fault: FoldFault | None = None


@dataclass(frozen=True, slots=True)
class Evidence:
    """All that is known of one export; `survey` is None where nothing could be measured."""

    promise: Promise
    master: Declaration
    export: Declaration
    survey: PairSurvey | None

    def promised(self, trait: str) -> Promised:
        """Return the promise of a trait; raises KeyError where nothing is promised."""
        return self.promise.traits[trait]

    def stated(self, trait: str) -> tuple[TraitValue | None, TraitValue | None]:
        """Return what the export's wrapper and stream say, None where silent or unspecified."""
        wrapper, stream = self.export.wrapper, self.export.stream
        return specified(wrapper, trait, stream), specified(stream, trait, wrapper)

    def spoken(self, trait: str) -> list[TraitValue]:
        """Return the values that the export's witnesses state."""
        return [value for value in self.stated(trait) if value is not None]

    def in_conflict(self, trait: str) -> bool:
        """Return whether both witnesses speak and say different things."""
        wrapper, stream = self.stated(trait)
        return wrapper is not None and stream is not None and not equivalent(trait, wrapper, stream)


def specified(witness: Witness, trait: str, other: Witness | None = None) -> TraitValue | None:
    """Return a witness's word on a trait, beside the other's; "unspecified" counts as silence."""
    said = meant_by(witness, trait, other or {})
    if said is None or (trait in COLOUR_CODES and said.value == UNSPECIFIED):
        return None
    return said.value


def is_full_range(declaration: Declaration) -> bool:
    """Return how decoders read a file: as its stream says, else its wrapper, else limited."""
    for witness in (declaration.stream, declaration.wrapper):
        said = specified(witness, "range")
        if said is not None:
            return said == "full"
    return False


def as_rate(value: TraitValue | None) -> Fraction | None:
    """Return a rate as a fraction, None where it is none."""
    if isinstance(value, tuple) and len(value) == 2 and all(value):
        return Fraction(int(value[0]), int(value[1]))
    return None


def shown_rate(declaration: Declaration) -> tuple[Fraction | None, str]:
    """Return the rate at which players show a file, and who says so."""
    if wrapper := as_rate(specified(declaration.wrapper, "frame_rate")):
        return wrapper, "wrapper"
    if stream := as_rate(specified(declaration.stream, "frame_rate")):
        return stream, "stream"
    video = declaration.video
    if video.frame_count and video.duration_s:
        return Fraction(video.frame_count / video.duration_s).limit_denominator(1001), "average"
    return None, ""


def clock_of(declaration: Declaration) -> StartTimecode:
    """Return how a file's frames are told as timecode: its own, else counted from nought."""
    rate = shown_rate(declaration)[0] or Fraction(25)
    return declaration.file.timecode or StartTimecode(0, counted(rate))


def tone_act(survey: PairSurvey | None) -> ToneAct | None:
    """Return the act that explains tone best, or None where the picture cannot tell."""
    tone = survey.tone if survey else None
    if survey is None or tone is None:
        return None
    converted = found_conversion(survey)
    # The curve of a fold has counted its own tones.
    few = tone.span < tolerances.TONE_SPAN_CODES and survey.fold is None
    if few and not _is_clipped(converted) and not _is_told_apart(tone):
        return None
    if converted is not None:
        return _tone_of(converted)
    if survey.fold is not None and survey.fold.promised:
        fault = fault_of(survey.fold)
        act, left = "misfolded" if fault else "identity", survey.fold.scatter
        return ToneAct(act, left, left, 0.0, clear=False, fault=fault)
    return _lone_act(survey, tone)


def _is_told_apart(tone: ToneFindings) -> bool:
    """Return whether one act fits a few tones, and no other comes anywhere near."""
    best, *others = tone.fits
    next_best = min((fit.residual for fit in others), default=0.0)
    return (
        best.act != "identity"
        and tone.span >= tolerances.LEAST_SPAN_CODES
        and best.residual <= tolerances.EXPLAINED_CODES / 2
        and next_best >= tolerances.SURELY_APART * max(best.residual, 1.0)
    )


def _lone_act(survey: PairSurvey, tone: ToneFindings) -> ToneAct:
    """Return the one act on luma that explains tone best."""
    identity = tone.residual("identity")
    acts = [fit for fit in tone.fits if fit.act != "identity"]
    best, runner_up = acts[0], acts[1]
    if identity <= tolerances.TONE_CODES:
        next_best = min(fit.residual for fit in acts if fit.act != "gamma-shifted")
        return ToneAct("identity", identity, identity, _strength(identity, next_best), clear=True)
    if best.residual > tolerances.EXPLAINED_CODES:
        return ToneAct("unexplained", identity, identity, 0.0, clear=False)
    if identity <= tolerances.CLEAR_WIN * best.residual:
        act = "unclear" if identity <= tolerances.UNCLEAR_CODES else "unexplained"
        return ToneAct(act, identity, identity, 0.0, clear=False)
    if best.exponent is not None and abs(best.exponent - 1) < tolerances.LEAST_POWER:
        return ToneAct("unclear", identity, identity, 0.0, clear=False)
    if best.act == "depth-reduced":  # codes cut off lie lower by half of what was cut
        return ToneAct(
            "identity" if _is_coarser(survey) else "unclear",
            best.residual,
            identity,
            0.5,
            clear=False,
        )
    clear = runner_up.residual > tolerances.CLEAR_WIN * best.residual
    strength = _strength(best.residual, min(runner_up.residual, identity))
    exponent = best.exponent
    if exponent is not None:
        # A power of R, G and B is not the same power of luma: over colours it is found better.
        over_colours = next((fit for fit in survey.acts if fit.act == best.act), None)
        if over_colours is not None and over_colours.residual <= tolerances.EXPLAINED_CODES:
            exponent = over_colours.values["exponent"]
    return ToneAct(best.act, best.residual, identity, strength, clear=clear, exponent=exponent)


def _is_clipped(found: FoundAct | None) -> bool:
    return found is not None and found.fit.act == "highlights-clipped"


def _is_coarser(survey: PairSurvey) -> bool:
    """Return whether the export's levels themselves show that bits are missing."""
    combed = 0 < survey.export_codes.bits < survey.export_codes.depth
    return combed or (
        survey.depth is not None and survey.depth.step_share >= tolerances.STEP_SHARE_REDUCED
    )


def _tone_of(found: FoundAct) -> ToneAct:
    """Return what a found conversion did to tone: acts on colour leave greys where they are."""
    left, sure = found.fit.residual, found.strength
    if found.light is None:
        return ToneAct("identity", left, left, sure, clear=True)
    exponent = found.light.values.get("exponent")
    return ToneAct(found.light.name, left, found.moved, sure, clear=True, exponent=exponent)


def _strength(residual: float, next_best: float) -> float:
    """Return how much better the winner is than the next: 0.5 alike, 1 beyond comparison."""
    return round(next_best / (next_best + residual), 2) if next_best + residual > 0 else 0.5


def needed_act(evidence: Evidence) -> str:
    """Return the range act that the expected picture and the export's flag together ask for."""
    promised = evidence.promise.value("range")
    expected_full = is_full_range(evidence.master) if promised is None else promised == "full"
    if expected_full == is_full_range(evidence.export):
        return "identity"
    return "range-compressed" if expected_full else "range-expanded"


def is_range_converted(evidence: Evidence) -> bool:
    """Return whether code values went from one range to the other just as the flags say."""
    act, needed = tone_act(evidence.survey), needed_act(evidence)
    return act is not None and act.act == needed != "identity"


UNCHANGED, CHANGED, UNKNOWN = "unchanged", "changed", "unknown"
RANGE_GAINS = {"identity": 1.0, "range-compressed": 896 / 1023, "range-expanded": 1023 / 896}


def tone_state(evidence: Evidence) -> str:
    """Return whether the curve from code to light still is the master's, range acts apart."""
    act = tone_act(evidence.survey)
    if act is None or act.act in ("unclear", "tone-compressed"):
        return UNKNOWN
    # Below the level of a clip every code still means what it did.
    return UNCHANGED if act.act in (*RANGE_GAINS, "highlights-clipped") else CHANGED


def is_surely_moved(evidence: Evidence) -> bool:
    """Return whether tones are not where they were, though they are too few to tell by what act."""
    untold = tone_act(evidence.survey) is None and not conversion_promised(evidence)
    return untold and moved_by(evidence.survey) > tolerances.SURELY_MOVED


def is_still(evidence: Evidence) -> bool:
    """Return whether code values are the master's, though no curve of them can be told."""
    survey = evidence.survey
    if survey is None or not is_laid_over(survey):
        return False
    seen = survey.tone is not None or survey.highlights is not None
    return seen and moved_by(survey) <= tolerances.FOLD_MOVED


def moved_by(survey: PairSurvey | None) -> float:
    """Return by how many codes tones moved: all of them, or the brightest, which dark ones show.

    0 where other moments or places were held against each other, or something covers the picture.
    """
    if survey is None or not is_laid_over(survey):
        return 0.0
    moved = [survey.tone.residual("identity")] if survey.tone else []
    moved += [survey.highlights.kept] if survey.highlights else []
    return max(moved, default=0.0)


def is_laid_over(survey: PairSurvey) -> bool:
    """Return whether a picture lies over its own master's, frame for frame, and nothing on it."""
    place, timing = survey.registration, survey.timing
    if place is None or place.likeness < tolerances.IN_PLACE:
        return False
    return not (timing is not None and timing.has_events) and not is_covered(survey)


def is_covered(survey: PairSurvey) -> bool:
    """Return whether something lies over the picture: text, a mark, bars painted over its edge."""
    return bool(survey.overlays or survey.misplaced) or _has_painted_bars(survey)


def _has_painted_bars(survey: PairSurvey) -> bool:
    """Return whether bars that the master has not reach into the place where its picture lies."""
    own, came, place = survey.master_bars, survey.export_bars, survey.registration
    if came is None or place is None:
        return False
    width, height = survey.export_raster
    right, below = width - place.left - place.width, height - place.top - place.height
    given = own or Bars()
    reach = (
        came.left - given.left - max(place.left, 0.0),
        came.top - given.top - max(place.top, 0.0),
        came.right - given.right - max(right, 0.0),
        came.bottom - given.bottom - max(below, 0.0),
    )
    return max(reach) > tolerances.FRAMING_SAMPLES


def is_as_sdr(evidence: Evidence) -> bool:
    """Return whether a picture that was promised in HDR is stated as SDR, and surely is another."""
    if moved_by(evidence.survey) <= tolerances.SURELY_MOVED:
        return False
    return _is_stated_as_sdr(evidence)


def may_be_sdr(evidence: Evidence) -> bool:
    """Return whether a picture that was promised in HDR is stated as SDR, and no tone of it shows
    that it is not: blown out, say. What HDR states besides would then be false."""
    untold = evidence.survey is not None and evidence.survey.tone is None
    return is_as_sdr(evidence) or (untold and _is_stated_as_sdr(evidence))


def _is_stated_as_sdr(evidence: Evidence) -> bool:
    if conversion_promised(evidence):
        return False
    said, wanted = evidence.spoken("transfer"), evidence.promise.value("transfer")
    as_sdr = bool(said) and all(one not in HDR_TRANSFERS for one in said)
    return as_sdr and wanted in HDR_TRANSFERS


def colour_state(evidence: Evidence) -> str:
    """Return whether colours sit where they did, range acts apart; a grey picture can't tell."""
    survey, act = evidence.survey, tone_act(evidence.survey)
    if survey is None or survey.tone is None or act is None:
        return UNKNOWN
    if survey.fold is not None and survey.fold.promised:
        hue = survey.fold.hue
        return UNKNOWN if hue is None else UNCHANGED if hue <= tolerances.FOLD_HUE else CHANGED
    found = found_conversion(survey)
    if found is not None and found.colour is not None:
        return CHANGED
    tone = survey.tone
    if act.act == "highlights-clipped":  # below the cut colours are where they were
        return UNCHANGED if tone.chroma_residual <= tolerances.CHROMA_CODES else UNKNOWN
    if tone.chroma_span < tolerances.CHROMA_SPAN_CODES or act.act not in RANGE_GAINS:
        return UNKNOWN
    if act.act == "identity":
        return _chroma_state(tone)
    off = abs(tone.chroma_gain / RANGE_GAINS[act.act] - 1)
    return UNCHANGED if off <= tolerances.CHROMA_GAIN else CHANGED


def _chroma_state(tone: ToneFindings) -> str:
    """Return whether colours moved: what is small and bright fades by mere coding, too."""
    if tone.chroma_residual <= tolerances.CHROMA_CODES:
        return UNCHANGED
    faded = tone.uneven > 0.5 and tone.chroma_residual <= tolerances.CHROMA_CODES_UNEVEN
    return UNKNOWN if faded else CHANGED


def conversion_promised(evidence: Evidence) -> bool:
    """Return whether the promise asks for other light or colour than the master has."""
    for trait in COLOUR_CODES:
        wanted = evidence.promise.value(trait)
        had = stated_by(evidence.master, trait)
        if wanted is not None and had and not mean_the_same(trait, wanted, had[1].value):
            return True
    return False


def satisfies(promised: Promised, value: TraitValue) -> bool:
    """Return whether a value keeps to a promise's own bounds, or equals its value."""
    if promised.one_of:
        return value in promised.one_of
    if promised.at_least is not None and not _ordered(promised.at_least, value):
        return False
    if promised.at_most is not None and not _ordered(value, promised.at_most):
        return False
    bounded = promised.at_least is not None or promised.at_most is not None
    return value == promised.value or (bounded and promised.value is None)


def _ordered(low: TraitValue, high: TraitValue) -> bool:
    """Return whether low ≤ high: numbers, and pairs part by part (a raster)."""
    if isinstance(low, tuple) and isinstance(high, tuple):
        return all(a <= b for a, b in zip(low, high, strict=False))
    if isinstance(low, int | float) and isinstance(high, int | float):
        return low <= high
    return low == high
