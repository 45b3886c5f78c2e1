"""A plan made a recipe: what the settings sheet would have someone set by hand."""

from ...declared import Declaration
from ...promised import Promise
from ...promised.planning import Plan, promise_of_plan
from .encoders import SOUND_WRAPPERS, encoder_of
from .recipe import Coding, Recipe, Sound, SoundChannels, SoundCodec, SoundRate

CODED: tuple[SoundCodec, ...] = ("aac", "opus", "pcm")
SOUND_RATES: dict[int, SoundRate] = {44_100: 44_100, 48_000: 48_000, 96_000: 96_000}
SOUND_CHANNELS: dict[int, SoundChannels] = {1: 1, 2: 2}


def recipe_of_plan(plan: Plan, master: Declaration, *, name: str) -> Recipe:
    """Return the recipe that makes what a plan asks for; whether it can be made, an order says."""
    spec, chosen = plan.specification, plan.choices
    encoder = encoder_of(chosen.coding.codec)
    rated = encoder is not None and encoder.quality is not None
    coding = Coding(
        codec=chosen.coding.codec,
        profile=chosen.coding.profile,
        bit_rate=chosen.bit_rate if rated else None,
        passes=2 if rated and encoder is not None and encoder.two_passes else 1,
    )
    taken = encoder.wrappers if encoder else ()
    wrapper = next((one for one in spec.wrappers if one in taken), spec.wrappers[0])
    return Recipe(
        name=name,
        specification=spec.key,
        coding=coding,
        wrapper=wrapper,
        promise=_without_marks(promise_of_plan(plan)),
        first=plan.choices.first,
        end=plan.choices.end,
        sound=_sound(plan, master, wrapper),
    )


def _without_marks(promise: Promise) -> Promise:
    """Return the promise without the marks, which the recipe has itself."""
    return Promise(traits={name: p for name, p in promise.traits.items() if name != "frames"})


def _sound(plan: Plan, master: Declaration, wrapper: str) -> Sound:
    """Return the sound as the specification asks for it; copied where it asks for nothing."""
    asked = plan.specification.sound
    if not master.audio:
        return Sound(codec="none")
    for codec in CODED:
        if asked and asked.codec == codec and wrapper in SOUND_WRAPPERS[codec]:
            own = master.audio[0]
            rate = SOUND_RATES.get(asked.sample_rate)
            channels = SOUND_CHANNELS.get(asked.channels)
            return Sound(
                codec=codec,
                bit_rate=asked.bit_rate,
                loudness_lufs=asked.loudness_lufs,
                channels=channels if own.channels != channels else None,
                sample_rate=rate if own.sample_rate_hz != rate else None,
            )
    return Sound()
