"""Sound: whether it is there, heard with its picture, in its channels, and as loud as promised."""

from ...measured import SoundFindings, SoundTrack
from ...promised.forms import AS_MASTERED
from .. import tolerances
from ..evidence import Evidence, satisfies
from ..hearing import (
    BROKEN,
    FOREIGN,
    MISSING,
    SILENT,
    absence,
    channels_of,
    gaps_within,
    shown_seconds,
    sound_in,
    sure_moments,
    sync_of,
)
from ..model import BENT, CANNOT_TELL, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven

ABSENT = {
    MISSING: "The export has no sound track.",
    SILENT: "The export's sound track is silent.",
    FOREIGN: "What is heard in the export is not the master's sound.",
    BROKEN: "The export's sound track cannot be decoded.",
}
NOT_HEARD = "The sound was not listened to."
PART_HEARD = "Only the beginning was listened to."


def gone_ruling(evidence: Evidence) -> Ruling | None:
    """Return the ruling on every trait of a sound that is not there, or was not heard."""
    why = absence(evidence)
    if why:
        return lost(ABSENT[why], picture=why, picture_state=LOST)
    sound = sound_in(evidence)
    if sound is None or sound.export is None:
        return unproven(NOT_HEARD)
    if sound.master is None:
        return unproven(f"The master's sound cannot be decoded: {sound.faults[0]}.")
    return None


def judge_sound(evidence: Evidence, trait: str) -> Ruling:
    """Judge whether the master's sound is there, and heard all the way."""
    if evidence.promised(trait).value == "none":
        return _judge_none(evidence)
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    assert sound.master is not None  # noqa: S101  (told by gone_ruling)
    if sound.master.silent >= tolerances.SILENT_SHARE:
        return kept("The master's sound is silent.", picture_state=CANNOT_TELL)
    begin, end = shown_seconds(evidence, sound)
    holes = [gap for gap in gaps_within(evidence, sound) if not _at_an_end(gap, begin, end)]
    silent = sum(last - first for first, last in holes)
    measure = Measure("silent where the master sounds", round(silent, 2), "s", 0)
    if holes:
        text = f"The sound drops out for {_told(silent)} s, first {_told(holes[0][0])} s in."
        return lost(text, picture="drops out", measure=measure)
    if not sure_moments(sound):
        if sound.moments:
            return unproven("What is heard is like the master's sound, but not surely that.")
        text = "There is sound all the way; it is too even to tell it from another."
        return kept(text, picture_state=CANNOT_TELL, measure=measure)
    return kept("The master's sound is heard all the way.", picture="as mastered", measure=measure)


def _judge_none(evidence: Evidence) -> Ruling:
    if evidence.export.audio:
        return bent("No sound is promised, but there is a track.", picture="present")
    return kept("No sound is promised, and there is none.", picture="none")


def heard_in(evidence: Evidence) -> SoundFindings:
    """Return what was heard, where `gone_ruling` rules nothing."""
    sound = sound_in(evidence)
    assert sound is not None  # noqa: S101  (told by gone_ruling)
    return sound


def tracks_of(sound: SoundFindings) -> tuple[SoundTrack, SoundTrack]:
    """Return the master's track and the export's, where both were heard."""
    assert sound.master is not None  # noqa: S101  (told by gone_ruling)
    assert sound.export is not None  # noqa: S101  (as above)
    return sound.master, sound.export


def _told(seconds: float) -> str:
    return f"{seconds:.1f}" if seconds < 10 else f"{seconds:.0f}"


def _at_an_end(gap: tuple[float, float], begin: float, end: float) -> bool:
    return gap[0] - begin < tolerances.SOUND_END_S or end - gap[1] < tolerances.SOUND_END_S


def judge_sync(evidence: Evidence, trait: str) -> Ruling:
    """Judge whether sound is heard with its picture."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    sync = sync_of(sound)
    if sync is None:
        if sound.moments:
            return unproven("No moment of the master's sound was surely found in the export.")
        text = "The sound is too even to tell when it is heard."
        return kept(text, picture_state=CANNOT_TELL)
    asked = evidence.promised(trait).tolerance
    early, late = (asked, asked) if asked else (tolerances.SYNC_EARLY_MS, tolerances.SYNC_LATE_MS)
    limit = early if sync.worst < 0 else late
    measure = Measure("sound against picture", round(sync.worst, 1), "ms", limit)
    shown = _sync_words(sync.worst)
    if abs(sync.worst) <= limit:
        text = f"Sound is heard with its picture: {shown}, of {limit:g} allowed."
        return kept(text, picture=shown, measure=measure)
    sure = tolerances.SYNC_EARLY_LOST_MS if sync.worst < 0 else tolerances.SYNC_LATE_LOST_MS
    where = "" if sync.is_steady else f", {_told(sync.at_s)} s in"
    text = f"Sound is heard {shown}{where}; {limit:g} ms go unnoticed."
    return (lost if abs(sync.worst) > sure else bent)(text, picture=shown, measure=measure)


def _sync_words(late_ms: float) -> str:
    if abs(late_ms) < 0.5:
        return "0 ms off"
    return f"{abs(late_ms):.0f} ms {'late' if late_ms > 0 else 'early'}"


def judge_length(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether sound begins and ends with the picture."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    if not sound.whole:
        return unproven(PART_HEARD)
    begin, end = shown_seconds(evidence, sound)
    ends = [gap for gap in gaps_within(evidence, sound) if _at_an_end(gap, begin, end)]
    missing = sum(last - first for first, last in ends)
    measure = Measure("missing at the ends", round(missing, 2), "s", tolerances.SOUND_END_S)
    came = f"{tracks_of(sound)[1].seconds:.1f} s"
    if missing > tolerances.SOUND_END_S:
        where = "start" if ends[0][0] - begin < tolerances.SOUND_END_S else "end"
        text = (
            f"{_told(missing)} s of sound are missing at the {where}, though its picture is shown."
        )
        return lost(text, picture=came, measure=measure)
    return kept("Sound begins and ends with its picture.", picture=came, measure=measure)


def judge_channels(evidence: Evidence, trait: str) -> Ruling:
    """Judge how many channels there are, in which order, and whether one is turned over."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    own, came = tracks_of(sound)
    asked = evidence.promised(trait).value
    wanted = own.channels if asked == AS_MASTERED else asked
    shown = _layout_words(came)
    if came.channels != wanted:
        text = f"{_layout_words(own)} in the master, {shown} in the export; {wanted} are promised."
        return lost(text, picture=shown)
    if sound.mix is None or own.channels != came.channels or own.channels == 1:
        why = f"{shown}, as promised."
        told = own.channels == 1 or own.channels != came.channels
        return kept(why, picture=shown) if told else _untold(sound, why)
    found = channels_of(sound.mix)
    if not found.told:
        return _untold(sound, f"{shown}, as promised; which is which cannot be heard.")
    if found.turned:
        names = ", ".join(str(at + 1) for at in found.turned)
        text = f"Channel {names} is upside down beside the others: played in mono, sound cancels."
        return lost(text, picture="turned over")
    return _judge_order(found.sources, shown)


def _untold(sound: SoundFindings, why: str) -> Ruling:
    """Return that the count decides where channels are alike, or too even to be found."""
    alike = not sound.moments or (sound.mix is not None and sound.mix.alike)
    return kept(why, picture_state=CANNOT_TELL) if alike else unproven(why)


def _judge_order(sources: tuple[tuple[int, ...], ...], shown: str) -> Ruling:
    heard = [at for row in sources for at in row]
    for at, row in enumerate(sources):
        if len(row) > 1:
            mixed = " and ".join(str(source + 1) for source in row)
            return lost(f"Channel {at + 1} carries channels {mixed} mixed.", picture="mixed")
    for at, row in enumerate(sources):
        if row and row != (at,):
            text = f"Channel {at + 1} carries the master's channel {row[0] + 1}."
            twice = len(set(heard)) < len(heard)
            return lost(text, picture="one channel twice" if twice else "exchanged")
    return kept(f"{shown}, each where it was.", picture=shown)


def _layout_words(track: SoundTrack) -> str:
    return track.layout if track.layout in ("mono", "stereo") else f"{track.channels} channels"


def judge_sampling(evidence: Evidence, trait: str) -> Ruling:
    """Judge samples a second: fewer lose the highest tones."""
    if gone := _gone_track(evidence):
        return gone
    sound = sound_in(evidence)
    came = sound.export.sample_rate_hz if sound and sound.export else None
    came = came or evidence.export.audio[0].sample_rate_hz
    if came is None:
        return unproven("Nothing states how often sound is sampled.")
    promised = evidence.promised(trait)
    if satisfies(promised, came):
        return kept(f"Sampled at {came} Hz.", picture=came, wrapper_state=KEPT)
    text = f"Sampled at {came} Hz, not at {promised.value}."
    return bent(text, picture=came, wrapper_state=BENT)


def _gone_track(evidence: Evidence) -> Ruling | None:
    """Return the ruling on what a track's header says, where there is none."""
    if not evidence.export.audio:
        return lost(ABSENT[MISSING], picture=MISSING, picture_state=LOST)
    return None


def judge_language(evidence: Evidence, trait: str) -> Ruling:
    """Judge the language that the wrapper states of the track."""
    if gone := _gone_track(evidence):
        return gone
    wanted, found = evidence.promised(trait).value, evidence.export.audio[0].language
    wrapper = evidence.export.file.wrapper
    if found == wanted:
        return kept(f"Stated as {found}.", wrapper_state=KEPT)
    if found is None and wrapper not in SAYS_LANGUAGE:
        return kept("This wrapper has no place for a language.")
    said = f"Stated as {found}" if found else "No language is stated"
    return bent(f"{said}; {wanted} is promised.", wrapper_state=BENT if found else None)


SAYS_LANGUAGE = frozenset({"mp4", "matroska", "webm", "mpegts"})
"""MOV has numbers of its own for it, which are not read."""
