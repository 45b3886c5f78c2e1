"""How loud the sound is, how far loud and quiet lie apart, and how high its peaks go."""

from math import log10

from ...declared import TraitValue
from ...measured import SoundFindings, SoundTrack
from ...promised.forms import AS_MASTERED
from .. import tolerances
from ..evidence import Evidence
from ..model import CANNOT_TELL, Measure, Ruling, bent, kept, lost, unproven
from ..pairing import marks_of
from .sound import PART_HEARD, gone_ruling, heard_in, tracks_of


def judge_loudness(evidence: Evidence, trait: str) -> Ruling:
    """Judge how loud the whole is."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    if not sound.whole:
        return unproven(PART_HEARD)
    own, came = tracks_of(sound)
    promised = evidence.promised(trait)
    if promised.value == AS_MASTERED and _is_part(evidence):
        return _judge_gain(sound, promised.tolerance)
    wanted = own.integrated_lufs if promised.value == AS_MASTERED else promised.value
    if came.integrated_lufs is None or not isinstance(wanted, int | float):
        return kept("Too quiet to have a loudness.", picture_state=CANNOT_TELL)
    usual = tolerances.LOUDNESS_LU
    if promised.value == AS_MASTERED:
        usual = tolerances.LOUDNESS_MASTERED_LU
        if own.channels != came.channels:
            usual = tolerances.LOUDNESS_LOST_LU  # mixed down, what was loud apart adds up
    limit = promised.tolerance or usual
    off = round(came.integrated_lufs - wanted, 1)
    shown = round(came.integrated_lufs, 1)
    measure = Measure("loudness off by", off, "LU", limit)
    if abs(off) <= limit:
        return kept(f"{shown:g} LUFS, {abs(off):g} LU off.", picture=shown, measure=measure)
    text = f"{shown:g} LUFS, {abs(off):g} LU {'louder' if off > 0 else 'quieter'} than promised."
    ruling = lost if abs(off) > max(tolerances.LOUDNESS_LOST_LU, limit) else bent
    return ruling(text, picture=shown, measure=measure)


def _is_part(evidence: Evidence) -> bool:
    """Return whether another stretch is heard than all of the master: its loudness is another."""
    survey = evidence.survey
    if survey is None:
        return False
    cut = survey.timing is not None and survey.timing.has_other_ends
    return cut or marks_of(evidence.promise, survey.master_frames) is not None


def _judge_gain(sound: SoundFindings, tolerance: float | None) -> Ruling:
    """Judge by the gain of the stretches that were laid over each other."""
    gain = _gain_db(sound)
    if gain is None:
        return unproven("The part was not found in the master's sound, so its loudness is open.")
    limit = tolerance or tolerances.LOUDNESS_MASTERED_LU
    measure = Measure("louder by", round(gain, 1), "dB", limit)
    if abs(gain) <= limit:
        return kept("As loud as the same part of the master.", measure=measure)
    text = f"{abs(gain):.1f} dB {'louder' if gain > 0 else 'quieter'} than the master's part."
    return (lost if abs(gain) > tolerances.LOUDNESS_LOST_LU else bent)(text, measure=measure)


def _gain_db(sound: SoundFindings) -> float | None:
    """Return by how much the export is louder where both are laid over each other."""
    mix = sound.mix
    rows = [max(map(abs, row), default=0.0) for row in mix.gains] if mix else []
    loud = [row for row in rows if row > 0]
    return 20 * log10(sum(loud) / len(loud)) if loud else None


def judge_loudness_range(evidence: Evidence, trait: str) -> Ruling:
    """Judge how far loud and quiet lie apart."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    own, came = tracks_of(sound)
    if not sound.whole:
        return unproven(PART_HEARD)
    promised = evidence.promised(trait)
    if came.range_lu is None:
        return kept("Too quiet to have a range.", picture_state=CANNOT_TELL)
    if promised.value != AS_MASTERED:
        return _within_bounds(promised.at_most, promised.value, came.range_lu, "LU", "range")
    squeezed = sound.mix.held_down_db if sound.mix else None
    if squeezed is not None and squeezed > tolerances.HELD_DOWN_DB and not _is_full(came):
        text = f"The loudest peaks are held down by {squeezed:.1f} dB."
        held = Measure("peaks held down", squeezed, "dB", tolerances.HELD_DOWN_DB)
        return bent(text, picture=came.range_lu, measure=held)
    if _is_part(evidence) or own.range_lu is None:
        return _judge_part(squeezed)
    limit = promised.tolerance or tolerances.LOUDNESS_RANGE_LU
    off = round(came.range_lu - own.range_lu, 1)
    measure = Measure("range off by", off, "LU", limit)
    if abs(off) > limit:
        text = f"{came.range_lu:g} LU between quiet and loud, {own.range_lu:g} in the master."
        return bent(text, picture=came.range_lu, measure=measure)
    return kept(f"{came.range_lu:g} LU, as in the master.", picture=came.range_lu, measure=measure)


def _judge_part(squeezed: float | None) -> Ruling:
    """Judge a part, whose own range in the master is not known, by its loudest peaks alone."""
    if squeezed is None:
        return unproven("The part was not found in the master's sound, so its range is open.")
    measure = Measure("peaks held down", squeezed, "dB", tolerances.HELD_DOWN_DB)
    return kept("The part's loudest peaks stand as high as in the master.", measure=measure)


def _within_bounds(
    most: TraitValue | None, value: TraitValue | None, found: float, unit: str, name: str
) -> Ruling:
    limit = most if isinstance(most, int | float) else value
    if not isinstance(limit, int | float):
        return kept(f"{found:g} {unit}.", picture=found)
    measure = Measure(name, found, unit, float(limit))
    if found <= limit:
        return kept(f"{found:g} {unit}, {limit:g} at most.", picture=found, measure=measure)
    return bent(f"{found:g} {unit}; {limit:g} at most is promised.", picture=found, measure=measure)


def _is_full(track: SoundTrack) -> bool:
    """Return whether a track's wave goes to full scale, where it can only be cut off."""
    return track.peak_dbfs is not None and track.peak_dbfs >= tolerances.FULL_SCALE_DBFS


def judge_true_peak(evidence: Evidence, trait: str) -> Ruling:
    """Judge the highest peak, and whether peaks were cut off at full scale."""
    if gone := gone_ruling(evidence):
        return gone
    sound = heard_in(evidence)
    own, came = tracks_of(sound)
    held = sound.mix.held_down_db if sound.mix else None
    if held is not None and held > tolerances.HELD_DOWN_DB and _is_full(came):
        measure = Measure("peaks cut off", held, "dB", tolerances.HELD_DOWN_DB)
        text = f"The loudest peaks are cut off at full scale, by {held:.1f} dB."
        return lost(text, picture=came.true_peak_dbtp, measure=measure)
    if not sound.whole:
        return unproven(PART_HEARD)
    if came.true_peak_dbtp is None:
        return kept("Silent.", picture_state=CANNOT_TELL)
    promised = evidence.promised(trait)
    if promised.value != AS_MASTERED:
        return _within_bounds(
            promised.at_most, promised.value, came.true_peak_dbtp, "dBTP", "true peak"
        )
    most = max(own.true_peak_dbtp or 0.0, 0.0) + tolerances.PEAK_DB
    return _within_bounds(most, None, came.true_peak_dbtp, "dBTP", "true peak")
