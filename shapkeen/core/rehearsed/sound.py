"""What becomes of sound at a service: its codec, and how far it is turned down or up."""

from dataclasses import dataclass, replace
from pathlib import Path

import av

from ..declared import Declaration
from ..measured.sound.levels import listen_to, part_until
from ..measured.sound.loudness import SILENT_LUFS
from .stand_in import StandIn

CODECS = {"aac": "AAC", "opus": "Opus", "copy": "as it is", "none": "none"}
ALIKE_LU = 0.5
"""What nobody hears: EBU R 128's own tolerance."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundFate:
    """Sound before and after. gain_db: by how much it is turned; None where it is left alone."""

    loudness_lufs: float | None
    peak_dbtp: float | None
    gain_db: float | None
    codec: str
    bit_rate: int

    @property
    def text(self) -> str:
        """Return it in a sentence."""
        if self.codec == "none":
            return "Played without sound."
        coded = CODECS[self.codec]
        said = (
            ""
            if self.codec == "copy"
            else f" Coded again as {coded}, {self.bit_rate // 1000} kb/s."
        )
        if self.loudness_lufs is None:
            return f"Its loudness was not measured.{said}"
        if self.gain_db is None or abs(self.gain_db) < ALIKE_LU:
            return f"{self.loudness_lufs:.1f} LUFS, left as loud as it is.{said}"
        way = "down" if self.gain_db < 0 else "up"
        there = self.loudness_lufs + self.gain_db
        held = ""
        if self.gain_db > 0 and self.peak_dbtp is not None and self.peak_dbtp + self.gain_db > 0:
            held = " Its peaks will be held down for that."
        return (
            f"{self.loudness_lufs:.1f} LUFS, turned {way} by {abs(self.gain_db):.1f} dB to "
            f"{there:.1f} LUFS.{held}{said}"
        )


def sound_fate(path: Path, declared: Declaration, stand_in: StandIn) -> SoundFate | None:
    """Return what becomes of a file's first sound track; None where it has none."""
    if not declared.audio:
        return None
    way = stand_in.sound
    fate = SoundFate(
        loudness_lufs=None,
        peak_dbtp=None,
        gain_db=None,
        codec=way.codec,
        bit_rate=way.bit_rate,
    )
    if way.codec == "none":
        return fate
    try:
        heard = listen_to(path, part_until(None))
    except (av.FFmpegError, OSError, IndexError, ValueError):
        heard = None
    track = heard.track if heard else None
    if track is None or track.integrated_lufs is None:
        return fate
    return replace(
        fate,
        loudness_lufs=track.integrated_lufs,
        peak_dbtp=track.true_peak_dbtp,
        gain_db=gain_of(track.integrated_lufs, way.loudness_lufs, louder=way.louder),
    )


def gain_of(loudness: float, target: float | None, *, louder: bool) -> float | None:
    """Return by how many dB sound is turned; None where it is left alone.

    louder: whether what lies below the target is turned up. Silence stays silence.
    """
    if target is None or loudness <= SILENT_LUFS:
        return None
    gain = target - loudness
    return gain if gain < 0 or louder else None
