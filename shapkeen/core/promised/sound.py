"""What a master with sound promises of it, and what follows for a delivery."""

from collections.abc import Iterator, Mapping

from ..declared import AudioTrack, Declaration
from .forms import AS_MASTERED
from .model import Promised
from .traits import SOUND, TRAITS, Trait

NO_SOUND = "none"
USUAL_RATE_HZ = 48_000
"""Of masters above it deliveries take this one (common practice, no source)."""
NAMES = tuple(trait.name for trait in TRAITS if trait.family == SOUND)


def sound_promised(trait: Trait, master: Declaration) -> Promised | None:
    """Return what is promised of one trait of the sound; None without a track in the master."""
    if not master.audio:
        return None
    track = master.audio[0]
    if trait.name == "sound_sampling":
        return _sampling(track)
    if trait.name == "sound_language":
        return _language(track)
    return Promised(value=AS_MASTERED, origin="master's sound")


def without_sound(traits: Mapping[str, Promised]) -> Iterator[str]:
    """Yield what is no longer promised where a delivery is meant to have no sound."""
    sound = traits.get("sound")
    if sound is not None and sound.value == NO_SOUND:
        yield from (name for name in NAMES if name != "sound" and name in traits)


def _sampling(track: AudioTrack) -> Promised | None:
    rate = track.sample_rate_hz
    if not rate:
        return None
    least = min(rate, USUAL_RATE_HZ)
    origin = "master's sound" if least == rate else "common practice: deliveries have 48 kHz"
    return Promised(value=least, at_least=least, origin=origin)


def _language(track: AudioTrack) -> Promised | None:
    if track.language is None:
        return None
    return Promised(value=track.language, origin="master's wrapper", weight="should")
