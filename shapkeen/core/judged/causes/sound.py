"""Acts on sound: left out, moved, cut, mixed, made louder, held down."""

from collections.abc import Iterator, Set

from ...declared import TraitValue
from ...measured import SoundFindings
from ...promised.traits import SOUND, TRAITS
from .. import tolerances
from ..evidence import Evidence
from ..hearing import (
    BROKEN,
    FOREIGN,
    MISSING,
    SILENT,
    Sync,
    absence,
    channels_of,
    gaps_within,
    sound_in,
    sure_moments,
    sync_of,
)
from ..model import Cause, explained

NAMES = tuple(trait.name for trait in TRAITS if trait.family == SOUND)
ABSENT = {
    MISSING: (
        "sound-missing",
        "The export has no sound track.",
        "Switch sound on in the export settings, check that the sound track of the timeline is not "
        "muted, and export again.",
    ),
    SILENT: (
        "sound-silent",
        "The export's sound track is there, but nothing is heard in it.",
        "Look for a muted track or an output that is not connected, and export again.",
    ),
    FOREIGN: (
        "sound-foreign",
        "Another sound is heard than the master's.",
        "Put the right sound under the picture, and export again.",
    ),
    BROKEN: (
        "sound-damaged",
        "The sound track cannot be decoded.",
        "Export again, or copy the file anew if it came over a line.",
    ),
}


def explain_sound(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield what was done to sound, the act before its consequences."""
    lost = tuple(name for name in NAMES if name in broken)
    if not lost:
        return
    if why := absence(evidence):
        id_, text, cure = ABSENT[why]
        yield _cause(id_, lost, {}, text, cure)
        return
    sound = sound_in(evidence)
    if sound is None or sound.export is None or sound.master is None:
        return
    left = set(broken)
    acts = [_explain_time(evidence, sound, broken), _explain_stated(evidence, sound, broken)]
    if sure_moments(sound) or not sound.moments:  # else it may be another sound
        acts[1:1] = [_explain_channels(sound, broken), _explain_level(sound, left)]
    for found in acts:
        for cause in found:
            yield cause
            left -= set(cause.traits)


def _cause(
    id_: str, traits: tuple[str, ...], values: dict[str, TraitValue | None], why: str, cure: str
) -> Cause:
    return Cause(
        id=id_, traits=traits, strength=0.95, values=values, why=why, remedy="re-export", cure=cure
    )


def _explain_time(evidence: Evidence, sound: SoundFindings, broken: Set[str]) -> Iterator[Cause]:
    """Yield what moved sound against its picture: what is moved also ends elsewhere."""
    sync = sync_of(sound)
    if "sound_sync" in broken and sync is not None:
        traits = explained(broken, "sound_sync", "sound_length")
        yield _shifted(sync, traits) if sync.is_steady else _drifts(sync, traits)
        if sync.is_steady:
            broken = broken - {"sound_length"}
    if "sound_length" in broken or "sound" in broken:
        gaps = gaps_within(evidence, sound)
        missing = round(sum(last - first for first, last in gaps), 2)
        yield _cause(
            "sound-cut",
            explained(broken, "sound", "sound_length", "loudness", "loudness_range"),
            {"at_s": gaps[0][0] if gaps else 0.0, "seconds": missing},
            f"{missing:g} s of the master's sound are silent in the export.",
            "Look for a gap or a muted clip in the sound track, and whether it reaches to the last "
            "frame; then export again.",
        )


def _shifted(sync: Sync, traits: tuple[str, ...]) -> Cause:
    late = round(sync.late)
    way = "late" if late > 0 else "early"
    return _cause(
        "sound-shifted",
        traits,
        {"late_ms": late},
        f"All of the sound is heard {abs(late)} ms too {way}.",
        f"Move the sound track {abs(late)} ms {'forward' if late > 0 else 'back'} against the "
        "picture, or look for an offset in the export settings; then export again.",
    )


def _drifts(sync: Sync, traits: tuple[str, ...]) -> Cause:
    first, last = round(sync.first), round(sync.last)
    return _cause(
        "sound-drifts",
        traits,
        {"from_ms": first, "to_ms": last},
        f"Sound and picture part: {first:+d} ms at the start, {last:+d} ms at the end (late is "
        "positive).",
        "Play sound and picture at the same speed: frame rates or samples a second were taken for "
        "one another. Then export again.",
    )


def _explain_channels(sound: SoundFindings, broken: Set[str]) -> Iterator[Cause]:
    if "sound_channels" not in broken or sound.master is None or sound.export is None:
        return
    own, came = sound.master, sound.export
    traits = explained(broken, "sound_channels", "loudness")  # what is mixed, adds up otherwise
    found = channels_of(sound.mix) if sound.mix else None
    if own.channels != came.channels:
        yield _cause(
            "channels-folded",
            traits,
            {"from": own.channels, "to": came.channels},
            f"The master has {own.channels} channels, the export {came.channels}.",
            "Set the channels of the export to those of the master, and export again.",
        )
    elif found is not None and found.turned:
        yield _cause(
            "channel-inverted",
            traits,
            {"channels": tuple(at + 1 for at in found.turned)},
            "One channel's wave is upside down beside the others.",
            "Take the phase reversal off that channel, and export again.",
        )
    elif found is not None:
        yield _ordered(found.sources, traits)


def _ordered(sources: tuple[tuple[int, ...], ...], traits: tuple[str, ...]) -> Cause:
    order = tuple(row[0] + 1 if len(row) == 1 else 0 for row in sources)
    if 0 in order or len(set(order)) < len(order):
        return _cause(
            "channels-folded",
            traits,
            {"from": len(sources), "to": len(set(sources))},
            "Channels were mixed together, or one is heard in place of another.",
            "Set each track of the timeline to its own channels, and export again.",
        )
    return _cause(
        "channels-swapped",
        traits,
        {"order": order},
        f"The export's channels carry the master's {', '.join(map(str, order))}.",
        "Put the channels into the master's order in the export settings, and export again.",
    )


def _explain_level(sound: SoundFindings, broken: Set[str]) -> Iterator[Cause]:
    """Yield what was done to the level: cut off because it was made louder is one act."""
    own, came = sound.master, sound.export
    if own is None or came is None:
        return
    held = sound.mix.held_down_db if sound.mix else None
    cut = held is not None and held > tolerances.HELD_DOWN_DB
    if "true_peak" in broken and cut:
        yield _cause(
            "sound-clipped",
            explained(broken, "true_peak", "loudness", "loudness_range"),
            {"db": held},
            f"The loudest peaks are cut off at full scale, by {held:.1f} dB.",
            "Bring the level down before the export, and export again.",
        )
        return
    if "loudness" in broken:
        yield _cause(
            "loudness-changed",
            ("loudness",),
            {"from": own.integrated_lufs, "to": came.integrated_lufs},
            f"{came.integrated_lufs} LUFS in the export, {own.integrated_lufs} in the master.",
            "Set the level of the export's sound to what is promised, and take automatic levelling "
            "off; then export again.",
        )
    if "loudness_range" in broken:
        yield _cause(
            "dynamics-squeezed",
            ("loudness_range",),
            {"from": own.range_lu, "to": came.range_lu},
            "Loud and quiet lie closer together than in the master."
            if (came.range_lu or 0) <= (own.range_lu or 0)
            else "Loud and quiet lie further apart than is promised.",
            "Take a compressor or limiter off the output, and export again.",
        )
    if "true_peak" in broken:
        yield _cause(
            "peak-exceeded",
            ("true_peak",),
            {"peak": came.true_peak_dbtp},
            f"The highest peak between samples is {came.true_peak_dbtp} dBTP.",
            "Bring the level down by that, or limit true peaks in the mix; then export again.",
        )


def _explain_stated(evidence: Evidence, sound: SoundFindings, broken: Set[str]) -> Iterator[Cause]:
    if "sound_sampling" in broken and sound.master and sound.export:
        came = sound.export.sample_rate_hz
        yield _cause(
            "sound-resampled",
            ("sound_sampling",),
            {"from": sound.master.sample_rate_hz, "to": came},
            f"The sound is sampled at {came} Hz.",
            "Set the sampling of the export's sound to what is promised, and export again.",
        )
    if "sound_language" in broken:
        found = evidence.export.audio[0].language if evidence.export.audio else None
        yield _cause(
            "language-changed",
            ("sound_language",),
            {"from": evidence.promise.value("sound_language"), "to": found},
            f"The track is stated to be in {found}." if found else "The track states no language.",
            "Set the language of the sound track, and export again.",
        )
