"""Which renditions a service makes of a file: steps of its ladder that the picture is fit for."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ...declared import Declaration
from ...geometry.framing import Area, Size, cut_to, to_step
from ..received.acceptance import says_enough
from ..received.facts import Facts, facts_of
from ..received.recognition import Recognition
from ..stand_in import Rung, StandIn
from ..stand_in.model import AS_SENT, Branch

WIDE = Fraction(16, 9)
"""A step of so many lines holds pictures of 16:9; others are fitted into it. Common practice."""
NEARLY = 1.02
"""A picture that lacks a few samples of a step's size is put on it: bars were cut off."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """One rendition as it will be made.

    part: of the received picture, upright, in its stored samples. rate: frames a second; every
    step-th frame is shown. arrives_s: after how many seconds it is there.
    """

    rung: Rung
    name: str
    raster: Size
    part: Area
    rate: Fraction
    step: int
    bit_rate: int
    arrives_s: float

    @property
    def lines(self) -> int:
        """Return its lines: its shorter side."""
        return min(self.raster)

    @property
    def branch(self) -> Branch:
        """Return sdr or hdr."""
        return self.rung.branch

    @property
    def is_sent(self) -> bool:
        """Return whether the file itself is played."""
        return self.rung.codec == AS_SENT


@dataclass(frozen=True, slots=True, kw_only=True)
class Received:
    """The picture at the service, turned as the service turns it: stored sides, pixel aspect."""

    raster: Size
    aspect: Size

    @property
    def shape(self) -> Fraction:
        """Return shown width ÷ height."""
        return Fraction(self.raster[0] * self.aspect[0], self.raster[1] * self.aspect[1])

    def cut(self, shape: Size | None) -> Area:
        """Return the part that is kept: the middle of a shape, or everything."""
        whole = Area(0, 0, *self.raster)
        if shape is None or self.shape == Fraction(*shape):
            return whole
        width, height = cut_to(self.raster, self.aspect, Fraction(*shape))
        left, top = (
            (own - kept) // 4 * 2 for own, kept in zip(self.raster, (width, height), strict=True)
        )
        return Area(left, top, width, height)


def received_picture(facts: Facts, recognition: Recognition) -> Received:
    """Return the picture as a service holds it; facts.raster is known."""
    raster, aspect = facts.raster or (2, 2), recognition["pixel_aspect"]
    wide = (int(aspect[0]), int(aspect[1])) if isinstance(aspect, tuple) else (1, 1)
    if recognition["rotation"] in (90, 270):
        return Received(raster=(raster[1], raster[0]), aspect=(wide[1], wide[0]))
    return Received(raster=raster, aspect=wide)


def plan_ladder(
    declared: Declaration, stand_in: StandIn, recognition: Recognition
) -> tuple[Plan, ...]:
    """Return the renditions that a service makes of a file, in the order in which they arrive.

    None where nothing states the file's raster or rate. A picture too small for every step of its
    kind gets the lowest one at its own size: nothing is enlarged.
    """
    facts = facts_of(declared)
    if facts.raster is None or facts.rate is None:
        return ()
    picture = received_picture(facts, recognition)
    part = picture.cut(None if stand_in.plays_itself else stand_in.picture.crop)
    shape = Fraction(part.width * picture.aspect[0], part.height * picture.aspect[1])
    shown = shape * part.height, Fraction(part.height)
    plans = [
        _plan(rung, stand_in, facts, shape, shown, part)
        for rung in _fitting(declared, stand_in, recognition, shown)
    ]
    return tuple(sorted(plans, key=lambda one: (one.arrives_s, one.rung.lines)))


def _fitting(
    declared: Declaration,
    stand_in: StandIn,
    recognition: Recognition,
    shown: tuple[Fraction, Fraction],
) -> Iterator[Rung]:
    hdr = makes_hdr(declared, stand_in, recognition)
    for branch in ("sdr", "hdr") if hdr else ("sdr",):
        rungs = [rung for rung in stand_in.ladder if rung.branch == branch]
        fitting = [
            rung
            for rung in rungs
            if rung.codec == AS_SENT
            or (
                _fills(shown, rung.from_lines or rung.lines)
                and (rung.to_lines is None or not _fills(shown, rung.to_lines + 1))
                and _fills(shown, rung.lines)
            )
        ]
        yield from fitting or sorted(rungs, key=lambda one: one.lines)[:1]


def makes_hdr(declared: Declaration, stand_in: StandIn, recognition: Recognition) -> bool:
    """Return whether a file gets HDR renditions: taken for HDR, and all said that HDR needs."""
    if stand_in.hdr is None or not recognition.is_hdr:
        return False
    kind = {16: "pq", 18: "hlg"}[int(str(recognition["transfer"]))]
    return kind in stand_in.takes.light and says_enough(declared, stand_in.hdr)


def box_of(lines: int, shape: Fraction) -> tuple[Fraction, Fraction]:
    """Return the frame of a step of so many lines: 16:9, upright for upright pictures."""
    long, short = lines * WIDE, Fraction(lines)
    return (long, short) if shape >= 1 else (short, long)


def _fills(shown: tuple[Fraction, Fraction], lines: int) -> bool:
    """Return whether a picture has the samples for a step."""
    box = box_of(lines, shown[0] / shown[1])
    return min(box[0] / shown[0], box[1] / shown[1]) <= NEARLY


def _plan(
    rung: Rung,
    stand_in: StandIn,
    facts: Facts,
    shape: Fraction,
    shown: tuple[Fraction, Fraction],
    part: Area,
) -> Plan:
    rate = facts.rate or Fraction(25)
    step = 1
    if stand_in.picture.most_rate and rung.codec != AS_SENT:
        step = -(-rate // Fraction(*stand_in.picture.most_rate))
    raster = facts.raster or (2, 2)
    if rung.codec != AS_SENT:
        box = box_of(rung.lines, shape)
        scale = min(box[0] / shown[0], box[1] / shown[1], Fraction(1))
        raster = (to_step(shown[0] * scale, 2), to_step(shown[1] * scale, 2))
    bits = rung.bits(rate / step)
    if rung.codec == AS_SENT and facts.bit_rate:
        bits = round(facts.bit_rate)
    return Plan(
        rung=rung,
        name=_name(rung, shown, raster),
        raster=raster,
        part=part,
        rate=rate / step,
        step=step,
        bit_rate=bits,
        arrives_s=stand_in.stage_named(rung.stage).arrives_s(facts.length_s or 0.0),
    )


def _name(rung: Rung, shown: tuple[Fraction, Fraction], raster: Size) -> str:
    """Return what a rendition is called: by its step, or by its own lines where it has fewer."""
    if rung.codec == AS_SENT:
        return "the file itself"
    lines = rung.lines if _fills(shown, rung.lines) else min(raster)
    return f"{lines} {rung.branch.upper()}"
