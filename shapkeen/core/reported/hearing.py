"""What slips tell and draw of sound, beside what its traits' verdicts say."""

from collections.abc import Iterator

from ..judged import Comparison, tolerances
from ..measured import SoundTrack
from .figures.sound import loudness_figure, sync_figure

Line = tuple[str, str, str]
"""Who says what, and how."""


def sound_lines(comparison: Comparison) -> Iterator[Line]:
    """Yield what both tracks are, as their headers have it, and what they sound like."""
    sound = comparison.survey.sound
    sides = (("master's", comparison.master), ("export's", comparison.export))
    for name, declared in sides:
        if not declared.audio:
            yield name, "no track", ""
            continue
        track = declared.audio[0]
        parts = [track.codec]
        if track.sample_rate_hz:
            parts.append(f"{track.sample_rate_hz / 1000:g} kHz")
        if track.channels:
            parts.append(f"{track.channels} channel{'' if track.channels == 1 else 's'}")
        rate = f"{track.bit_rate / 1000:.0f} kb/s" if track.bit_rate else ""
        heard = sound and (sound.master if name == "master's" else sound.export)
        yield name, ", ".join(parts), "; ".join(filter(None, (rate, _levels(heard or None))))


def _levels(track: SoundTrack | None) -> str:
    if track is None or track.integrated_lufs is None:
        return ""
    return (
        f"{track.integrated_lufs:g} LUFS, range {track.range_lu:g} LU, "
        f"true peak {track.true_peak_dbtp:g} dBTP"
    )


def loudness_drawn(comparison: Comparison) -> tuple[str, str]:
    """Return loudness along time as SVG, and its caption; empty without a track."""
    sound = comparison.survey.sound
    if sound is None or sound.export is None:
        return "", ""
    promised = comparison.promise.value("loudness")
    drawn = loudness_figure(
        sound.export,
        master=sound.master,
        promised_lufs=float(promised) if isinstance(promised, int | float) else None,
        gaps=sound.gaps,
    )
    return drawn, "momentary loudness (ITU-R BS.1770); thin: the master's"


def sync_drawn(comparison: Comparison) -> tuple[str, str]:
    """Return sound behind its picture as SVG, and its caption; empty where nothing was found."""
    sound = comparison.survey.sound
    sure = [
        one for one in (sound.moments if sound else ()) if one.likeness >= tolerances.SOUND_FOUND
    ]
    if sound is None or sound.master is None or not sure:
        return loudness_drawn(comparison)
    drawn = sync_figure(
        sure,
        early_ms=tolerances.SYNC_EARLY_MS,
        late_ms=tolerances.SYNC_LATE_MS,
        seconds=sound.master.seconds,
    )
    return drawn, "when the master's sound is heard, against when its picture is shown"
