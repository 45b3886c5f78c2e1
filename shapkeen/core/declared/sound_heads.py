"""AAC's own heads: rate and channels, for wrappers that say neither. Sound is no witness."""

from dataclasses import dataclass

from .layout import FieldError, Layout, fields

SOURCE = "ISO/IEC 14496-3"
CONFIG = Layout(
    "AudioSpecificConfig",
    fields(object_type=5, frequency=4, channels=4, more=3),
    source=f"{SOURCE} 1.6.2.1 (from memory)",
)
ADTS = Layout(
    "adts_fixed_header",
    fields(sync=12, id=1, layer=2, no_crc=1, profile=2, frequency=4, private=1, channels=3, more=2),
    source=f"{SOURCE} 1.A.2.2.1 (from memory)",
)
RATES_HZ = (96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025, 8000, 7350)
"""By sampling frequency index. Source: ISO/IEC 14496-3 table 1.18 (from memory)."""
CHANNELS = {1: 1, 2: 2, 3: 3, 4: 4, 5: 5, 6: 6, 7: 8}
"""By channel configuration. Source: ISO/IEC 14496-3 table 1.19 (from memory)."""
SYNC = 0xFFF


@dataclass(frozen=True, slots=True)
class SoundHead:
    """What a coded sound's head says; None where it says nothing."""

    sample_rate_hz: int | None = None
    channels: int | None = None


def read_config(data: bytes) -> SoundHead:
    """Return what an AudioSpecificConfig says; a short one says nothing."""
    try:
        return _head(dict(CONFIG.read(data)))
    except FieldError:
        return SoundHead()


def read_adts(data: bytes) -> SoundHead:
    """Return what the first frame's ADTS header says; other bytes say nothing."""
    try:
        head = dict(ADTS.read(data))
    except FieldError:
        return SoundHead()
    return _head(head) if head["sync"] == SYNC and head["layer"] == 0 else SoundHead()


def _head(values: dict[str, int]) -> SoundHead:
    index = values["frequency"]
    rate = RATES_HZ[index] if index < len(RATES_HZ) else None
    return SoundHead(rate, CHANNELS.get(values["channels"]))
