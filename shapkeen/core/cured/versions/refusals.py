"""What of a recipe cannot be made, place and words: all told before a frame is decoded."""

from collections.abc import Iterator
from fractions import Fraction

from ...colour.coding import Coding as CodeMeaning
from ...declared import Declaration
from ...geometry.codec_profiles import PROFILES, Wanted, codec_profile_of
from ...judged import plan_reading
from ...measured.alignment.expected import can_convert
from ...measured.model import coding_of
from ...promised import SHARPENED, Promise, value_stated
from .encoders import COPIED_SOUND, SOUND_WRAPPERS, SPEEDS, Encoder
from .picture.maker import Samples
from .recipe import Recipe

MXF_RATES = frozenset(
    {Fraction(n * 1000, 1001) for n in (24, 30, 60)} | {Fraction(n) for n in (24, 25, 30, 50, 60)}
)
"""Edit rates that the libraries' multiplexer writes."""
Fault = tuple[str, str]
"""Place in the recipe, and what is wrong there."""
KNOWN_WHERE_SILENT = CodeMeaning(transfer=1, primaries=1, matrix=1, full_range=False)


def _fault(text: str, where: str) -> Fault:
    return where, text


def faults_of(
    master: Declaration, promise: Promise, recipe: Recipe, encoder: Encoder, goal: Samples
) -> Iterator[Fault]:
    """Yield what cannot be made of this master, the first of it to be raised."""
    yield from _coding_faults(recipe, encoder)
    if goal.raster[0] < encoder.least[0] or goal.raster[1] < encoder.least[1]:
        least = f"{encoder.least[0]}×{encoder.least[1]}"
        yield _fault(f"{recipe.coding.codec} carries {least} samples at least.", "promise/raster")
    yield from _sound_faults(master, recipe)
    own = coding_of(plan_reading(master))
    told = own if own.is_known else KNOWN_WHERE_SILENT
    if goal.coding != own and not can_convert(told, goal.coding):
        yield _fault("No formula leads from the master's colours there.", "promise/transfer")
    if promise.value("detail") == SHARPENED:
        yield _fault("Versions are not sharpened: plan it without.", "promise/detail")
    for trait in ("rotation", "mirror", "projection"):
        had, wanted = value_stated(master, trait), promise.value(trait)
        if had is not None and wanted is not None and had != wanted:
            yield _fault(f"Versions keep the master's {trait}.", f"promise/{trait}")
    if value_stated(master, "scan") not in (None, "progressive"):
        yield _fault(
            "The master's frames are woven from fields: versions need whole ones.", "master"
        )
    if promise.value("scan") not in (None, "progressive"):
        yield _fault("Versions are progressive.", "promise/scan")


def _coding_faults(recipe: Recipe, encoder: Encoder) -> Iterator[Fault]:
    coding, quality = recipe.coding, encoder.quality
    if coding.preset not in SPEEDS:
        yield _fault(f"A preset is one of {', '.join(SPEEDS)}.", "coding.preset")
    if coding.passes not in (1, 2):
        yield _fault("There are one or two passes.", "coding.passes")
    if coding.crf is not None and coding.bit_rate is not None:
        yield _fault("Give a constant quality or a bit rate, not both.", "coding.crf")
    if quality is None and (coding.crf is not None or coding.bit_rate is not None):
        yield _fault(f"The profile of {coding.codec} sets its size by itself.", "coding.crf")
    if coding.crf is not None and quality and not quality.best <= coding.crf <= quality.worst:
        text = f"The quality of {coding.codec} goes from {quality.best:g} to {quality.worst:g}."
        yield _fault(text, "coding.crf")
    if coding.bit_rate is not None and coding.bit_rate < 1000:
        yield _fault("A bit rate is in bits a second, 1000 at least.", "coding.bit_rate")
    if coding.passes == 2 and coding.bit_rate is None:
        yield _fault("Two passes are for a bit rate.", "coding.passes")
    if coding.passes == 2 and not encoder.two_passes:
        yield _fault(f"The encoder of {coding.codec} has one pass here.", "coding.passes")
    if not 0 < coding.keyframes_s <= 60:
        yield _fault("Key frames come at least once a minute.", "coding.keyframes_s")


def _sound_faults(master: Declaration, recipe: Recipe) -> Iterator[Fault]:
    codec = recipe.sound.codec
    if codec == "none" or not master.audio:
        return
    if codec == "copy":
        own, taken = master.audio[0].codec, COPIED_SOUND.get(recipe.wrapper)
        if taken and not own.startswith(taken):
            text = f"The master's sound ({own}) cannot be copied into {recipe.wrapper}"
            yield _fault(f"{text}: have it coded.", "sound.codec")
        return
    if recipe.wrapper not in SOUND_WRAPPERS[codec]:
        yield _fault(f"{codec} is put into {', '.join(SOUND_WRAPPERS[codec])} here.", "sound.codec")


def carriage_faults(recipe: Recipe, profile: str, goal: Samples, rate: Fraction) -> Iterator[Fault]:
    """Yield why the wrapper does not carry the picture, or no level of the profile does."""
    if recipe.wrapper == "mxf" and rate not in MXF_RATES:
        yield "wrapper", f"MXF carries the rates of television, not {float(rate):g} frames/s."
    named = (recipe.coding.codec, profile)
    known = next((one for one in PROFILES if (one.codec, one.name) == named), None)
    if known is None:
        return
    wanted = Wanted(goal.raster, rate, goal.depth, goal.chroma, recipe.coding.bit_rate or 0)
    fitting = codec_profile_of(known, wanted)
    if fitting.refusal:
        yield "coding.profile", f"{fitting.title} {fitting.refusal}."
