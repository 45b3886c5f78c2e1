"""A rehearsal: one file through one service, from the door to its renditions."""

from dataclasses import dataclass, replace
from pathlib import Path

from ..declared import Declaration, read_declaration
from ..errors import UnreadableFileError
from ..judged import plan_reading
from ..judged.evidence import is_full_range
from ..measured import Progress, Reading, Source
from ..measured.decoded.frames import count_pictures
from ..measured.spans.run import Pool
from ..promised import Promise
from .ladder import Excerpt, Plan, choose_excerpts, plan_ladder
from .ladder.making import Rendition, Sent, make_renditions
from .received import Acceptance, Recognition, accept, meant_by_promise, recognise
from .sound import SoundFate, sound_fate
from .stand_in import StandIn

CHOOSING = 10
"""Of a hundred steps of progress: what looking for moments takes of it, about."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Arrival:
    """What headers alone tell: whether a file is taken, for what, and what will be made of it."""

    declared: Declaration
    stand_in: StandIn
    acceptance: Acceptance
    recognition: Recognition
    plans: tuple[Plan, ...]

    @property
    def is_right(self) -> bool:
        """Return whether the file is taken, and for what it is."""
        return self.acceptance.accepted and self.recognition.as_promised


@dataclass(frozen=True, slots=True, kw_only=True)
class Rehearsal:
    """All of it. sound: None for a file without any."""

    arrival: Arrival
    excerpts: tuple[Excerpt, ...]
    renditions: tuple[Rendition, ...]
    sound: SoundFate | None


def arrive(declared: Declaration, stand_in: StandIn, promise: Promise | None = None) -> Arrival:
    """Return what becomes of a file at a service's door; nothing is decoded.

    promise: what it is meant to be; None: what it says of itself. A refused file has no plans.
    """
    acceptance = accept(declared, stand_in)
    recognition = recognise(declared, stand_in, promise)
    plans = plan_ladder(declared, stand_in, recognition) if acceptance.accepted else ()
    return Arrival(
        declared=declared,
        stand_in=stand_in,
        acceptance=acceptance,
        recognition=recognition,
        plans=plans,
    )


def rehearse(
    path: Path,
    stand_in: StandIn,
    folder: Path,
    *,
    promise: Promise | None = None,
    whole: bool = False,
    progress: Progress | None = None,
    far: Pool | None = None,
) -> Rehearsal:
    """Return a rehearsal, its renditions written into a folder; what lies there is not made again.

    whole: all of the film in place of excerpts. far: an executor on other machines, where there are
    some. Raises UnreadableFileError where the file cannot be
    decoded, and what `progress` raises.
    """
    arrival = arrive(read_declaration(path), stand_in, promise)
    if not arrival.plans:
        return Rehearsal(arrival=arrival, excerpts=(), renditions=(), sound=None)
    sent = sent_of(path, arrival, promise)
    frames = sent.source.reading.frame_count or count_pictures(path)
    if not frames:
        raise UnreadableFileError(
            "Nothing tells how many frames there are, so none can be chosen. Export it again.",
            code="no-frames",
            where=path.name,
        )
    told = _Share(progress, CHOOSING, 100)
    excerpts = choose_excerpts(sent.source, frames, whole=whole, progress=told.first())
    renditions = make_renditions(sent, arrival.plans, excerpts, folder, told.rest(), far=far)
    fate = sound_fate(path, arrival.declared, stand_in)
    return Rehearsal(arrival=arrival, excerpts=excerpts, renditions=renditions, sound=fate)


def sent_of(path: Path, arrival: Arrival, promise: Promise | None) -> Sent:
    """Return the file as the service gets it, and as it is meant."""
    declared = arrival.declared
    own = plan_reading(declared)
    turn = meant_by_promise("rotation", declared, promise)
    return Sent(
        source=Source(path, own),
        declared=declared,
        stand_in=arrival.stand_in,
        recognition=arrival.recognition,
        meant=_meant(own, declared, promise),
        meant_turn=turn if isinstance(turn, int) else 0,
    )


def _meant(own: Reading, declared: Declaration, promise: Promise | None) -> Reading:
    """Return how samples are to be read: as promised, else as the file states it."""

    def code(trait: str) -> int | None:
        value = meant_by_promise(trait, declared, promise)
        return value if isinstance(value, int) else None

    said = meant_by_promise("range", declared, promise)
    full = said == "full" if said is not None else is_full_range(declared)
    return replace(
        own,
        full_range=full,
        transfer=code("transfer"),
        primaries=code("primaries"),
        matrix=code("matrix"),
    )


@dataclass(frozen=True, slots=True)
class _Share:
    """Makes one count of two: so many of the steps are the first one's."""

    progress: Progress | None
    first_steps: int
    steps: int

    def first(self) -> Progress | None:
        return self._part(0, self.first_steps)

    def rest(self) -> Progress | None:
        return self._part(self.first_steps, self.steps)

    def _part(self, begin: int, end: int) -> Progress | None:
        if self.progress is None:
            return None
        told = self.progress

        def report(done: int, total: int) -> None:
            share = done / total if total else 1.0
            told(round(begin + share * (end - begin)), self.steps)

        return report
