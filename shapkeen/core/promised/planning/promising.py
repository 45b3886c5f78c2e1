"""The promise that a plan makes: what the export must be, beside what the master's promise says."""

from fractions import Fraction

from ...declared import TraitValue
from ..forms import SHARPENED, freeze
from ..model import Promise, Promised
from ..specification import LIGHTS, Sound
from .choices import Shot
from .plan import Plan

PRIMARIES = {"pq": 9, "hlg": 9, "sdr": 1}
"""H.273 colour primaries that go with a kind of light; the matrix has the same code points."""


def promise_of_plan(plan: Plan) -> Promise:
    """Return the traits that the plan decides; all others stay as mastered.

    Every value names the plan as its origin, and what the master has where it is converted.
    """
    spec = plan.specification
    origin = f"plan for {spec.name}, version {spec.version}"
    traits: dict[str, Promised] = {}

    def promise(trait: str, value: TraitValue, own: TraitValue | None = None) -> None:
        turned = own if own is not None and own != value else None
        traits[trait] = Promised(value=value, origin=origin, explicit=True, converted_from=turned)

    subject, layout = plan.subject, plan.layout
    promise("raster", layout.frame, subject.raster)
    promise("pixel_aspect", layout.aspect, subject.aspect)
    promise("frame_rate", _pair(plan.choices.rate), _pair(subject.rate))
    promise("shown_shape", round(float(layout.frame[0] * layout.aspect[0]) / _high(plan), 4))
    framing = _framing(plan)
    if framing is not None:
        promise("framing", framing)
    if plan.choices.is_marked and subject.frames:
        first, end = plan.choices.marks(subject.frames)
        promise("frames", {"in": first, "out": end})
    if plan.is_light_converted:
        promise("transfer", LIGHTS[plan.light], subject.transfer)
        promise("primaries", PRIMARIES[plan.light], subject.primaries)
        promise("matrix", PRIMARIES[plan.light])
    if subject.full_range:
        promise("range", "limited", "full")
    if spec.projection:
        promise("projection", spec.projection)
    if spec.packings:
        promise("stereo", plan.stereo)
    if plan.choices.sharpen:
        promise("detail", SHARPENED)
    traits["bit_depth"] = Promised(
        value=None, origin=origin, explicit=True, at_least=min(spec.bit_depth, subject.bit_depth)
    )
    traits["chroma"] = Promised(value=spec.chroma, origin=origin, explicit=True)
    if spec.sound and subject.has_sound:
        traits |= _sound(spec.sound, origin)
    return Promise(traits=traits)


def _sound(asked: Sound, origin: str) -> dict[str, Promised]:
    """Return what the specification asks of the sound."""

    def promised(value: TraitValue, **more: TraitValue | float | None) -> Promised:
        return Promised(value=value, origin=origin, explicit=True, **more)  # type: ignore[arg-type]

    made = {
        "sound_channels": promised(asked.channels),
        "sound_sampling": promised(asked.sample_rate),
    }
    if asked.loudness_lufs is not None:
        made["loudness"] = promised(asked.loudness_lufs, tolerance=asked.loudness_off_lu)
    if asked.most_range_lu is not None:
        made["loudness_range"] = promised(asked.most_range_lu, at_most=asked.most_range_lu)
    if asked.most_peak_dbtp is not None:
        made["true_peak"] = promised(asked.most_peak_dbtp, at_most=asked.most_peak_dbtp)
    return made


def _high(plan: Plan) -> int:
    return plan.layout.frame[1] * plan.layout.aspect[1]


def _pair(rate: Fraction) -> tuple[int, int]:
    return rate.numerator, rate.denominator


def _framing(plan: Plan) -> TraitValue | None:
    """Return the promised framing; None where the whole picture fills the frame.

    Of packed eyes each is framed for itself, which no crop of the whole raster says.
    """
    layout = plan.layout
    if layout.frame != layout.cell or not (layout.is_cut or layout.has_bars):
        return None
    crop = layout.crop
    made: dict[str, TraitValue] = {"crop": (crop.left, crop.top, crop.width, crop.height)}
    if layout.has_bars:
        made["bars"] = dict(layout.bars)
    if layout.is_cut and plan.choices.shots:
        made["shots"] = freeze([_moved(plan, shot) for shot in plan.choices.shots])
    return made


def _moved(plan: Plan, shot: Shot) -> TraitValue:
    return {"first": shot.first, "last": shot.last, "crop": plan.crop_of(shot)}
