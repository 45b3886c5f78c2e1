"""Whether a service takes a file: every refusal with figure, limit and cure, warnings first.

By what the file declares; nothing is decoded.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ...declared import Declaration
from ...geometry.words import ratio_words
from ...promised import stated_by
from ..stand_in import Hdr, StandIn
from .facts import Facts, facts_of
from .limits import SHAPE_OFF, Finding, faults_at, listed


@dataclass(frozen=True, slots=True)
class Acceptance:
    """What happens at the door."""

    refusals: tuple[Finding, ...]
    warnings: tuple[Finding, ...]

    @property
    def accepted(self) -> bool:
        """Return whether the file is taken."""
        return not self.refusals


def accept(declared: Declaration, stand_in: StandIn) -> Acceptance:
    """Return whether a service takes a file by what it declares, and as what less than it is."""
    facts, takes = facts_of(declared), stand_in.takes
    refusals = tuple(faults_at(facts, takes))
    return Acceptance(refusals, tuple(_warnings(declared, facts, stand_in)))


def _warnings(declared: Declaration, facts: Facts, stand_in: StandIn) -> Iterator[Finding]:
    """Yield what the file will be less than it is, though it is taken."""
    takes, changes = stand_in.takes, stand_in.picture
    makes_hdr = any(rung.branch == "hdr" for rung in stand_in.ladder)
    if facts.is_hdr and takes.other_light == "sdr" and facts.light not in takes.light:
        yield _as_sdr(facts, listed(one.upper() for one in takes.light))
    elif facts.is_hdr and makes_hdr and stand_in.hdr:
        lacks = [name for name in stand_in.hdr.needs if not _states(declared, name)]
        if lacks:
            yield Finding(
                code="as-sdr",
                text="It will be accepted, but as SDR: what HDR needs is not said.",
                value=f"without {listed(name.replace('_', ' ') for name in lacks)}",
                limit=f"with {listed(name.replace('_', ' ') for name in stand_in.hdr.needs)}",
                cure="Say it in both witnesses: the Bench writes a corrected copy.",
            )
    if changes.crop and facts.shape:
        kept = _kept(facts.shape, Fraction(*changes.crop))
        if kept < 1 - SHAPE_OFF:
            yield Finding(
                code="cropped",
                text="It will be accepted, and cut to another shape.",
                value=f"{ratio_words(facts.shape)} : 1, {kept:.0%} of the picture stays",
                limit=f"{changes.crop[0]}:{changes.crop[1]}",
                cure="Frame it for that shape: the plan shows the cut.",
            )
    if changes.most_rate and facts.rate and facts.rate > Fraction(*changes.most_rate):
        yield Finding(
            code="rate-halved",
            text="It will be accepted, and shown with fewer frames.",
            value=f"{ratio_words(facts.rate)} frames/s",
            limit=f"{ratio_words(Fraction(*changes.most_rate))} frames/s",
            cure="Send that rate, so that it is you who chooses the frames.",
        )
    most = max((rung.lines for rung in stand_in.ladder), default=0)
    if facts.raster and not stand_in.plays_itself and min(facts.raster) > most * 1.05:
        yield Finding(
            code="fewer-lines",
            text="It will be accepted, and shown with fewer lines.",
            value=f"{min(facts.raster)} lines",
            limit=f"{most} lines",
            cure="Nothing is lost by sending it so; detail finer than that is not seen.",
        )


def _as_sdr(facts: Facts, known: str) -> Finding:
    return Finding(
        code="as-sdr",
        text="It will be accepted, but as SDR.",
        value=facts.light.upper(),
        limit=known,
        cure="Make the SDR version yourself: then the tone map is yours, and not the service's.",
    )


def says_enough(declared: Declaration, hdr: Hdr) -> bool:
    """Return whether a file says all that HDR renditions need."""
    return all(_states(declared, name) for name in hdr.needs)


def _states(declared: Declaration, name: str) -> bool:
    if name == "bit_depth":
        return facts_of(declared).depth >= 10
    return stated_by(declared, name) is not None


def _kept(own: Fraction, goal: Fraction) -> float:
    return float(min(own / goal, goal / own))
