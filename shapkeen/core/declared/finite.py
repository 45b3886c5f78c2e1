"""Numbers that are none: damaged floating-point fields say infinity, or nothing at all."""

import math
from collections.abc import Mapping
from dataclasses import replace

from .model import Notice, TraitValue, VideoTrack, Witness


def finite_witness(witness: Witness) -> tuple[Witness, tuple[Notice, ...]]:
    """Return a witness without values that are no numbers, and a notice for each."""
    odd = {name: said for name, said in witness.items() if not _is_finite(said.value)}
    notices = tuple(
        Notice("no-number", f"The field for {name} holds no number; it is passed over.", said.where)
        for name, said in odd.items()
    )
    return {name: said for name, said in witness.items() if name not in odd}, notices


def finite_video(video: VideoTrack) -> VideoTrack:
    """Return a picture track whose figures are numbers, or not stated."""
    duration = video.duration_s
    odd = duration is not None and not math.isfinite(duration)
    return replace(video, duration_s=None, bit_rate=None) if odd else video


def _is_finite(value: TraitValue) -> bool:
    if isinstance(value, float):
        return math.isfinite(value)
    if isinstance(value, tuple):
        return all(map(_is_finite, value))
    if isinstance(value, Mapping):
        return all(map(_is_finite, value.values()))
    return True
