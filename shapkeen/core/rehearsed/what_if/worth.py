"""Which way of sending is worth it: each change against the same without it, in one sentence."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from .trying import Outcome
from .variants import Variant

LEAST_GAIN = 0.02
"""Of fine structure: less than a fiftieth nobody sees in a picture that moves. Common practice."""
LEAST_LOSS = 0.002
"""Of SSIM: what is lost beyond it is more than the coders' own scatter."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Worth:
    """One change, over all pairs of outcomes that differ in nothing else.

    detail_gain: of fine structure kept, as a share. ssim_gain. minutes: of upload that it costs.
    """

    change: str
    detail_gain: float
    ssim_gain: float
    minutes: float
    pairs: int

    @property
    def is_worth_it(self) -> bool:
        """Return whether viewers gain by it."""
        return self.detail_gain >= LEAST_GAIN and self.ssim_gain > -LEAST_LOSS

    @property
    def text(self) -> str:
        """Return the measured answer in one sentence."""
        if self.detail_gain >= LEAST_GAIN / 2:
            told = f"buys {self.detail_gain:.0%} of detail in this picture"
        elif self.detail_gain <= -LEAST_GAIN / 2:
            told = f"loses {-self.detail_gain:.0%} of detail in this picture"
        else:
            told = "changes no detail in this picture"
        if abs(self.minutes) >= 0.1:
            way = "costs" if self.minutes > 0 else "saves"
            told += f" and {way} {duration_words(abs(self.minutes))} of upload"
        if self.ssim_gain <= -LEAST_LOSS:
            told += f", but the picture is less like its original (SSIM {self.ssim_gain:+.3f})"
        return f"{self.change[:1].upper()}{self.change[1:]} {told}."


def duration_words(minutes: float) -> str:
    """Return minutes as people say them."""
    if minutes >= 100:
        return f"{minutes / 60:.1f} hours"
    if minutes >= 2:
        return f"{minutes:.0f} minutes"
    return f"{minutes * 60:.0f} seconds"


def worth_of(outcomes: Sequence[Outcome]) -> tuple[Worth, ...]:
    """Return what each change is worth, the best first; changes that were not tried are absent."""
    found = [
        worth
        for change, pick in _changes(outcomes).items()
        if (worth := _worth(change, outcomes, pick)) is not None
    ]
    return tuple(sorted(found, key=lambda one: (not one.is_worth_it, -one.detail_gain)))


Pick = tuple[Callable[[Variant], bool], Callable[[Variant], tuple[object, ...]]]
"""Whether a variant has the change, and all else of it."""


def _changes(outcomes: Sequence[Outcome]) -> dict[str, Pick]:
    rates = sorted({one.variant.bit_rate for one in outcomes})
    codecs = list(dict.fromkeys(one.variant.codec for one in outcomes))
    scales = {one.variant.scale for one in outcomes}
    made: dict[str, Pick] = {}
    if len(scales) > 1:
        name, wanted = ("enlarging", "double") if "double" in scales else ("halving", "half")
        made[name] = (
            lambda v: v.scale == wanted,
            lambda v: (v.bit_rate, v.sharpened, v.codec),
        )
    if len(rates) > 1:
        made["sending more bits"] = (
            lambda v: v.bit_rate == rates[-1],
            lambda v: (v.scale, v.sharpened, v.codec, rates[0] < v.bit_rate < rates[-1]),
        )
    made["sharpening first"] = (lambda v: v.sharpened, lambda v: (v.scale, v.bit_rate, v.codec))
    if len(codecs) > 1:
        made[f"sending {_codec(codecs[1])} in place of {_codec(codecs[0])}"] = (
            lambda v: v.codec == codecs[1],
            lambda v: (v.scale, v.bit_rate, v.sharpened),
        )
    return made


def _codec(name: str) -> str:
    return {"h264": "H.264", "h265": "H.265", "av1": "AV1"}.get(name, name)


def _worth(change: str, outcomes: Sequence[Outcome], pick: Pick) -> Worth | None:
    has, rest = pick
    plain = {rest(one.variant): one for one in outcomes if not has(one.variant)}
    pairs = [
        (plain[rest(one.variant)], one)
        for one in outcomes
        if has(one.variant) and rest(one.variant) in plain
    ]
    told = [(a, b) for a, b in pairs if a.seen.detail_kept and b.seen.detail_kept is not None]
    if not told:
        return None
    gains = [(b.seen.detail_kept or 0) / (a.seen.detail_kept or 1) - 1 for a, b in told]
    return Worth(
        change=change,
        detail_gain=float(np.mean(gains)),
        ssim_gain=float(np.mean([b.seen.ssim - a.seen.ssim for a, b in told])),
        minutes=float(np.mean([b.upload_s - a.upload_s for a, b in told]) / 60),
        pairs=len(told),
    )
