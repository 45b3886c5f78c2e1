"""What a plan itself still brings.

Limits are the specification's; sentences without a limit are common practice.
"""

from collections.abc import Callable, Iterator
from fractions import Fraction
from math import log2

from ...geometry.codec_profiles import MEZZANINE, CodecProfile
from ...geometry.framing import is_whole
from ...geometry.sphere import degrees_a_sample, samples_in_view
from ...geometry.words import ratio_words as told
from ...geometry.words import size_words as sized
from .plan import Plan
from .warning import HARM, NOTE, REFUSED, SHAPES_ALIKE, PlanWarning
from .warnings_without_plan import length_warnings

POOR_ENLARGEMENT = 3
HIDDEN_GAIN = 50e6
"""Above this a service's own encoding hides the gain (common practice)."""
SPHERE_SHAPE = Fraction(2)
SPHERE_DEGREES = {"equirectangular": 360.0, "half-equirectangular": 180.0}
VIEW_DEG = 90.0


def _carried(plan: Plan) -> Iterator[PlanWarning]:
    if plan.codec_profile.fits:
        return
    fitting = [one.title for one in plan.codec_profiles if one.fits and _is_taken(plan, one)]
    measure = f"Choose {' or '.join(fitting)}." if fitting else "Choose a smaller size or rate."
    yield PlanWarning(REFUSED, f"{plan.codec_profile.title} {plan.codec_profile.refusal}.", measure)


def _is_taken(plan: Plan, codec_profile: CodecProfile) -> bool:
    return any(coding.known == codec_profile.profile for coding in plan.specification.codecs)


def _stored_shape(plan: Plan) -> Iterator[PlanWarning]:
    spec, layout = plan.specification, plan.layout
    if spec.square and layout.aspect != (1, 1):
        yield PlanWarning(
            REFUSED,
            f"A pixel aspect of {layout.aspect[0]}:{layout.aspect[1]} is stated where square "
            "samples are asked for.",
            "Resample to square samples.",
        )
    if layout.has_bars and not spec.bars:
        yield PlanWarning(
            REFUSED,
            "Bars inside the picture are not taken; on a wide screen they leave black on all "
            "four sides.",
            "Deliver the picture's own shape, or fill and cut.",
        )
    if spec.shape and abs(layout.shape / Fraction(*spec.shape) - 1) > SHAPES_ALIKE:
        yield PlanWarning(
            REFUSED,
            f"The frame is {told(layout.shape)}:1; {spec.shape[0]}:{spec.shape[1]} is asked for.",
            "Fill the frame and cut, or fit it with bars where they are taken.",
        )
    if spec.projection == "equirectangular" and layout.shape != SPHERE_SHAPE:
        yield PlanWarning(
            HARM,
            f"A whole sphere is 2:1; in a frame of {told(layout.shape)}:1 players stretch it.",
            "Choose a size of 2:1, such as 4096×2048 or 3840×1920.",
        )


def _sphere_view(plan: Plan) -> Iterator[PlanWarning]:
    """Yield how little of a sphere a viewer has before them at a time."""
    degrees = SPHERE_DEGREES.get(plan.specification.projection or "")
    if degrees is None:
        return
    width = plan.layout.cell[0]
    seen = samples_in_view(width, VIEW_DEG, degrees)
    yield PlanWarning(
        NOTE,
        f"Of {width} samples across, a view of {VIEW_DEG:g}° shows {seen:.0f}: "
        f"{degrees_a_sample(width, degrees):.3f}° a sample.",
        "Judge sharpness in such a view, not in the whole picture; send the largest size taken.",
    )


def _sharpness(plan: Plan) -> Iterator[PlanWarning]:
    layout = plan.layout
    ratio = layout.enlargement
    if ratio <= 1:
        return
    lines = layout.picture.height / float(ratio)
    cost = f"the finest detail stays that of {lines:.0f} lines among {layout.picture.height}"
    if not is_whole(ratio):
        yield PlanWarning(
            HARM,
            f"An enlargement by {told(ratio)} is not whole: {cost}, and the grid of samples is "
            "lost, which softens unevenly.",
            "Choose a size that is a whole multiple (2 is seen as good), or none.",
        )
    elif ratio >= POOR_ENLARGEMENT:
        yield PlanWarning(
            HARM,
            f"An enlargement by {ratio} is seen as poor: {cost}.",
            "Enlarge by 2 at most, or start from a larger master.",
        )
    else:
        yield PlanWarning(
            NOTE,
            f"An enlargement by exactly {ratio} keeps the grid of samples; {cost}.",
            "Use a sharp kernel (cubic or windowed sine), never repeated samples.",
        )


def _file_size_warnings(plan: Plan) -> Iterator[PlanWarning]:
    spec, file_size, rate = plan.specification, plan.file_size, plan.choices.bit_rate
    if spec.most_bytes and file_size.bytes and file_size.bytes > spec.most_bytes:
        most = max((file_size.most_bit_rate or 0) / 1e6, 0)
        yield PlanWarning(
            REFUSED,
            f"The file is {file_size.bytes / 1e6:.0f} MB; at most {spec.most_bytes / 1e6:.0f} "
            "MB are taken.",
            f"Lower the bit rate to {most:.1f} Mb/s, or shorten the picture.",
        )
    limits = spec.bit_rate
    if plan.choices.coding.codec in MEZZANINE:
        return
    if limits.least and rate < limits.least:
        yield PlanWarning(
            HARM,
            f"{rate / 1e6:g} Mb/s are below the {limits.least / 1e6:g} Mb/s that satisfy here.",
            f"Use about {limits.target / 1e6:g} Mb/s, two passes, variable.",
        )
    if limits.most and rate > limits.most:
        yield PlanWarning(
            REFUSED,
            f"{rate / 1e6:g} Mb/s are above the {limits.most / 1e6:g} Mb/s that are taken.",
            f"Use about {limits.target / 1e6:g} Mb/s.",
        )
    elif rate > HIDDEN_GAIN and plan.light == "sdr":
        yield PlanWarning(
            NOTE,
            "Above about 50 Mb/s the service's own encoding hides the gain.",
            "Lower the rate if time to send matters.",
        )


def _changed_rate(plan: Plan) -> Iterator[PlanWarning]:
    own, rate = plan.subject.rate, plan.choices.rate
    if own == rate:
        return
    if plan.changes_speed:
        yield _other_speed(plan)
        return
    near = abs(float(rate / own) - 1) < 0.002
    text = (
        f"{told(own)} and {told(rate)} frames/s are not the same: played as the other, sound "
        "drifts by 3.6 s an hour; converted, every thousandth frame is repeated."
        if near
        else f"From {told(own)} to {told(rate)} frames/s frames are left out or shown twice: "
        "movement stutters."
    )
    yield PlanWarning(HARM, text, "The rate follows the source wherever the service lets it.")


def _other_speed(plan: Plan) -> PlanWarning:
    """Return what playing each frame once at another rate does to length and pitch."""
    change = float(plan.speed - 1)
    semitones = 12 * log2(plan.speed)
    way = "faster" if change > 0 else "slower"
    return PlanWarning(
        NOTE,
        f"Every frame is kept and plays {abs(change) * 100:.2g} % {way}: an hour becomes "
        f"{60 / float(plan.speed):.1f} minutes, and the sound {abs(semitones):.2g} semitones "
        f"{'higher' if change > 0 else 'lower'}; sound that is left as it is drifts by "
        f"{3600 * abs(1 - 1 / float(plan.speed)):.3g} s an hour.",
        "Change the speed of picture and sound together, and set the sound's pitch back.",
    )


def _cutting(plan: Plan) -> Iterator[PlanWarning]:
    layout = plan.layout
    if layout.is_cut and not plan.choices.shots:
        yield PlanWarning(
            NOTE,
            f"{100 * (1 - layout.kept_share):.0f} % of the picture is cut off, at one place for "
            "all shots.",
            "Look through the shots, and give those a place of their own whose subject is cut.",
        )


def _half_packed(plan: Plan) -> Iterator[PlanWarning]:
    if "half" in plan.choices.packing:
        way = "side to side" if plan.choices.packing.startswith("side") else "up and down"
        yield PlanWarning(
            NOTE,
            f"Each eye has half its samples {way}.",
            f"Name the version by its packing; each eye is stored as {sized(plan.layout.cell)}.",
        )


WITH_PLAN: tuple[Callable[[Plan], Iterator[PlanWarning]], ...] = (
    _carried,
    _stored_shape,
    _sphere_view,
    _sharpness,
    _file_size_warnings,
    _changed_rate,
    length_warnings,
    _cutting,
    _half_packed,
)
