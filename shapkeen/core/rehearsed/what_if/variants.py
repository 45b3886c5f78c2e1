"""Variants: the ways in which one excerpt is sent, and what trying them will cost."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from itertools import product
from typing import Literal

from ...errors import UsageError
from ...geometry.framing import Size, to_step
from ..stand_in import StandIn

Scale = Literal["own", "double", "half"]
CODECS = ("h264", "h265", "av1")
MOST_VARIANTS, FRAMES = 48, 24
MOST_LINE = 10_000_000_000
SHARPENED = 0.6
"""How much of the fine detail is added once more before sending: clearly seen, not yet harsh."""
SECONDS_A_MEGAPIXEL = {"h264": 0.03, "h265": 0.11, "av1": 0.12, "vp9": 0.14}
"""Of one frame on one core with ordinary settings, measured on the machines this was written on."""
PASSING = 0.1
"""Seconds a megapixel beside coding: decoding, scaling, measuring."""
LARGE_LINES, MOST_LINES = 1080, 2160


@dataclass(frozen=True, slots=True, kw_only=True)
class Variant:
    """One way of sending. bit_rate: bits a second. sharpened: before it is coded."""

    scale: Scale
    bit_rate: int
    sharpened: bool
    codec: str

    @property
    def key(self) -> str:
        """Return what it is kept under."""
        sharp = "sharp" if self.sharpened else "plain"
        return f"{self.scale}-{self.codec}-{self.bit_rate}-{sharp}"

    def raster(self, own: Size) -> Size:
        """Return its raster, of even sides."""
        by = {"own": 1.0, "double": 2.0, "half": 0.5}[self.scale]
        return to_step(round(own[0] * by), 2), to_step(round(own[1] * by), 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What is to be tried: every way with every other. line_bits: bits a second that are sent."""

    scales: tuple[Scale, ...] = ("own", "double")
    bit_rates: tuple[int, ...] = (8_000_000, 20_000_000, 50_000_000)
    sharpened: tuple[bool, ...] = (False, True)
    codecs: tuple[str, ...] = ("h264", "h265")
    line_bits: int = 20_000_000
    screen: str = "plain"


def question_object(question: Question) -> dict[str, object]:
    """Return a question as JSON keeps it."""
    return {key: list(v) if isinstance(v, tuple) else v for key, v in asdict(question).items()}


def question_from(kept: Mapping[str, object]) -> Question:
    """Return a question from what JSON kept."""
    made = {key: tuple(v) if isinstance(v, list) else v for key, v in kept.items()}
    return Question(**made)  # type: ignore[arg-type]  # as question_object wrote it


def other_scale(raster: Size) -> Scale:
    """Return the size beside its own that is worth asking for: double, or half of large ones."""
    return "half" if min(raster) > LARGE_LINES else "double"


def variants_of(question: Question, raster: Size) -> tuple[Variant, ...]:
    """Return every variant of a question; raises UsageError for what cannot be tried."""
    for codec in question.codecs:
        if codec not in CODECS:
            raise _refuse(f"Sent are {', '.join(CODECS)}.", "codecs")
    if not all(50_000 <= bits <= 500_000_000 for bits in question.bit_rates):
        raise _refuse("A bit rate is 50 kb/s to 500 Mb/s.", "bit_rates")
    if not 10_000 <= question.line_bits <= MOST_LINE:
        raise _refuse("The line sends 10 kb/s to 10 Gb/s.", "line_bits")
    if "double" in question.scales and min(raster) * 2 > MOST_LINES:
        raise _refuse(f"Nothing is enlarged beyond {MOST_LINES} lines.", "scales")
    made = tuple(
        Variant(scale=scale, bit_rate=bits, sharpened=sharp, codec=codec)
        for scale, codec, bits, sharp in product(
            question.scales, question.codecs, question.bit_rates, question.sharpened
        )
    )
    if not 0 < len(made) <= MOST_VARIANTS:
        raise _refuse(f"1 to {MOST_VARIANTS} ways are tried; these are {len(made)}.", "question")
    return made


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-question", where=where)


def estimate_s(
    question: Question, raster: Size, stand_in: StandIn, *, cores: int, frames: int = FRAMES
) -> float:
    """Return about how many seconds trying all of it takes; raises UsageError as variants_of."""
    total = 0.0
    for variant in variants_of(question, raster):
        width, height = variant.raster(raster)
        pixels = width * height * frames / 1e6
        there = max((_cost(rung.codec) for rung in stand_in.ladder), default=0.0)
        total += pixels * (_cost(variant.codec) / cores + there / cores + PASSING)
    return total


def _cost(codec: str) -> float:
    return SECONDS_A_MEGAPIXEL.get(codec, 0.0)
