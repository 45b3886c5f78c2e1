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

LEAST_PACKED, UNDETERMINED = 0x400, "und"


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
        language=language_of(track.language),
    )


def language_of(packed: int) -> str | None:
    """Return an ISO 639-2 code from its three times five bits; None for und and older numbers.

    Source: ISO/IEC 14496-12 8.4.2.3; numbers below 0x400 are those of QuickTime (from memory).
    """
    letters = [packed >> shift & 31 for shift in (10, 5, 0)]
    if packed < LEAST_PACKED or not all(1 <= letter <= 26 for letter in letters):
        return None
    code = "".join(chr(letter + 0x60) for letter in letters)
    return None if code == UNDETERMINED else code


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
