"""Sound tracks in short: codec, rate, channels, bit rate."""

from ...layout import FieldError
from ...model import AudioTrack
from ...window import ShortReadError
from .boxes import Box
from .layouts import AUDIO_ENTRY, BTRT
from .samples import read_totals
from .track import Track

CODECS = {
    "mp4a": "aac",
    "ac-3": "ac3",
    "ec-3": "eac3",
    "Opus": "opus",
    "alac": "alac",
    "fLaC": "flac",
    ".mp3": "mp3",
    "sowt": "pcm_s16le",
    "twos": "pcm_s16be",
    "in24": "pcm_s24be",
    "in32": "pcm_s32be",
    "lpcm": "pcm",
    "ipcm": "pcm",
}


def read_sound(track: Track) -> AudioTrack | None:
    """Return a sound track's facts; None where its entry is too short to say them."""
    if track.entry is None:
        return None
    try:
        head = AUDIO_ENTRY.read(track.entry.bytes(AUDIO_ENTRY.size_bytes))
        children = track.entry.children(skip=AUDIO_ENTRY.size_bytes)
    except (FieldError, ShortReadError):
        return None
    totals = read_totals(track.stbl)
    measured = rate_from_totals(totals.size_bytes, totals.duration, track.timescale)
    return AudioTrack(
        codec=CODECS.get(track.entry.type, track.entry.type.strip()),
        sample_rate_hz=head["rate_16_16"] >> 16 or None,
        channels=head["channels"] or None,
        # What declares no rate gets the measured one: payload × 8 ÷ duration.
        bit_rate=declared_bit_rate(children) or measured,
    )


def declared_bit_rate(entry_children: list[Box]) -> int | None:
    """Return the average bit rate that a sample entry declares, None where it declares none."""
    for box in entry_children:
        if box.type == "btrt":
            try:
                declared = BTRT.read(box.bytes(BTRT.size_bytes))["avg_bit_rate"]
            except (FieldError, ShortReadError):
                continue
            if declared:
                return declared
    return None


def rate_from_totals(size_bytes: int, duration: int, timescale: int) -> int | None:
    """Return bits a second, or None where nothing states a duration."""
    if not size_bytes or not duration or not timescale:
        return None
    return round(size_bytes * 8 * timescale / duration)
