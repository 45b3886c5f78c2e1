"""Making renditions and measuring them, so that one that is finished is never made twice."""

import re
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

from ...declared import Declaration
from ...measured import Progress, Reading, Source
from ...measured.decoded.frames import Frame
from ...measured.model import coding_of
from ...measured.spans.run import Pool, run_parts
from ..received.recognition import Recognition
from ..stand_in import PictureChanges, StandIn
from .coding import Coder, Settings, frames_of
from .excerpts import Excerpt, numbers_of
from .figures import Figures
from .kept import keep_figures, kept_figures
from .measuring import Gauge, measured_places, nearest
from .renditions import Plan
from .through_service import (
    HDR_DEPTH,
    REFERENCE_DEPTH,
    SDR_DEPTH,
    Passage,
    fold_of,
    goal_coding,
    known,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rendition:
    """A rendition that was made. numbers: of the film's frames, in the order it shows them."""

    plan: Plan
    source: Source
    size_bytes: int
    numbers: tuple[int, ...]
    figures: Figures

    @property
    def bits_per_second(self) -> float:
        """Return the bit rate that it came out with."""
        seconds = len(self.numbers) / self.plan.rate
        return float(self.size_bytes * 8 / seconds)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sent:
    """What a rendition is made of. meant: how the file's samples are to be read, and turned."""

    source: Source
    declared: Declaration
    stand_in: StandIn
    recognition: Recognition
    meant: Reading
    meant_turn: int

    @property
    def taken(self) -> Reading:
        """Return how the service reads the samples."""
        return self.recognition.reading(self.declared)

    @property
    def turn(self) -> int:
        """Return by how much the service turns the picture clockwise, in degrees."""
        turn = self.recognition["rotation"]
        return turn if isinstance(turn, int) else 0


def passages_of(sent: Sent, plan: Plan) -> tuple[Passage, Passage]:
    """Return the way of the picture through the service, and that of the picture as it should be.

    Both come out with one meaning, by one cut and at one size.
    """
    own = known(coding_of(sent.taken))
    goal = goal_coding(sent.stand_in, plan, own=known(coding_of(sent.meant)))
    here = goal_coding(sent.stand_in, plan, own=own)
    depth = HDR_DEPTH if plan.branch == "hdr" else SDR_DEPTH
    changes = PictureChanges() if plan.is_sent else sent.stand_in.picture
    through = Passage(
        reading=sent.taken,
        turn=sent.turn,
        part=plan.part,
        raster=plan.raster if not plan.is_sent else plan.part.size,
        goal=here,
        depth=depth,
        fold=fold_of(sent.stand_in),
        changes=changes,
    )
    right = replace(
        through,
        reading=sent.meant,
        goal=goal,
        depth=REFERENCE_DEPTH,
        changes=PictureChanges(),
    )
    return through, right


def make_renditions(
    sent: Sent,
    plans: Sequence[Plan],
    excerpts: Sequence[Excerpt],
    folder: Path,
    progress: Progress | None = None,
    *,
    far: Pool | None = None,
) -> tuple[Rendition, ...]:
    """Return renditions of excerpts, made and measured; what is kept is not made again.

    The file is decoded once to code all of them, and once to measure them. far: an executor on
    other machines that makes and measures them, those of one frame rate together. Raises
    UnreadableFileError where it cannot be decoded, and what `progress` raises.
    """
    made: dict[Plan, Rendition] = {}
    groups = [[p for p in plans if p.step == step] for step in sorted({p.step for p in plans})]
    if far is not None:
        _bring(sent, groups, excerpts, folder, progress, far)
    for place, group in enumerate(groups):
        numbers = numbers_of(excerpts, group[0].step)
        told = _Told(progress, len(numbers), place, len(groups))
        sources = code_renditions(sent, group, numbers, folder, told.coded)
        figures = measure_renditions(sent, sources, numbers, excerpts, folder, told.measured)
        for plan, source in sources.items():
            made[plan] = Rendition(
                plan=plan,
                source=source,
                size_bytes=source.path.stat().st_size,
                numbers=tuple(numbers),
                figures=figures[plan],
            )
    return tuple(made[plan] for plan in plans)


def _bring(
    sent: Sent,
    groups: Sequence[Sequence[Plan]],
    excerpts: Sequence[Excerpt],
    folder: Path,
    progress: Progress | None,
    far: Pool,
) -> None:
    """Have groups of renditions made elsewhere, and keep what comes back as if made here."""
    lacking = [group for group in groups if not all(_is_kept(plan, folder) for plan in group)]
    work = partial(_made_far, sent, excerpts)
    told = progress or _nobody
    for files in run_parts(lacking, work, pool=far, store=None, report=told):
        for name, data in sorted(files.items(), reverse=True):  # figures behind their file
            part = folder / f"{name}.part"
            part.write_bytes(data)
            part.replace(folder / name)


def _is_kept(plan: Plan, folder: Path) -> bool:
    path = folder / file_name(plan)
    return (plan.is_sent or path.exists()) and kept_figures(path) is not None


def _made_far(sent: Sent, excerpts: Sequence[Excerpt], group: Sequence[Plan]) -> dict[str, bytes]:
    """Return the files of a group's renditions and of their figures. Runs on any machine."""
    numbers = numbers_of(excerpts, group[0].step)
    with TemporaryDirectory(prefix="shapkeen-renditions-") as name:
        folder = Path(name)
        sources = code_renditions(sent, group, numbers, folder)
        measure_renditions(sent, sources, numbers, excerpts, folder)
        return {path.name: path.read_bytes() for path in folder.iterdir()}


def _nobody(_done: int, _total: int) -> None:
    pass


def code_renditions(
    sent: Sent,
    plans: Sequence[Plan],
    numbers: Sequence[int],
    folder: Path,
    done: Callable[[int], None] | None = None,
) -> dict[Plan, Source]:
    """Return renditions of these rising frames, coded into a folder where they do not lie there.

    Where the file itself is played, that: read as the player reads it. Raises as make_renditions.
    """
    ways = {plan: passages_of(sent, plan)[0] for plan in plans if not plan.is_sent}
    settings = {plan: _settings(plan, way) for plan, way in ways.items()}
    goals = {plan: folder / file_name(plan) for plan in ways}
    wanted = [plan for plan in ways if not goals[plan].exists()]
    with ExitStack() as stack, ThreadPoolExecutor(max(len(wanted), 1)) as pool:
        coders = [stack.enter_context(Coder(settings[plan], goals[plan])) for plan in wanted]
        for count, frame in enumerate(frames_of(sent.source, numbers) if wanted else ()):
            steps = [
                pool.submit(_add, coder, ways[plan], frame)
                for plan, coder in zip(wanted, coders, strict=True)
            ]
            for step in steps:
                step.result()
            if done:
                done(count + 1)
    return {
        plan: replace(sent.source, reading=sent.taken)
        if plan.is_sent
        else Source(goals[plan], _reading(settings[plan], len(numbers)))
        for plan in plans
    }


def _add(coder: Coder, way: Passage, frame: Frame) -> None:
    coder.add(way.planes(frame))


def measure_renditions(
    sent: Sent,
    sources: Mapping[Plan, Source],
    numbers: Sequence[int],
    excerpts: Sequence[Excerpt],
    folder: Path,
    done: Callable[[int], None] | None = None,
) -> dict[Plan, Figures]:
    """Return the figures of renditions; those that are kept beside them are not measured again."""
    kept = {plan: kept_figures(folder / file_name(plan)) for plan in sources}
    lacking = [plan for plan, figures in kept.items() if figures is None]
    if lacking:
        found = _measured(sent, {plan: sources[plan] for plan in lacking}, numbers, excerpts, done)
        for plan, figures in found.items():
            keep_figures(folder / file_name(plan), figures)
            kept[plan] = figures
    return {plan: figures for plan, figures in kept.items() if figures is not None}


def _measured(
    sent: Sent,
    sources: Mapping[Plan, Source],
    numbers: Sequence[int],
    excerpts: Sequence[Excerpt],
    done: Callable[[int], None] | None,
) -> dict[Plan, Figures]:
    places = sorted(measured_places(numbers, excerpts))
    moments = {nearest(numbers, at) for one in excerpts for at in one.moments.values()}
    gauges = {plan: Gauge(*passages_of(sent, plan)) for plan in sources}
    shown = {
        plan: frames_of(source, places) for plan, source in sources.items() if not plan.is_sent
    }
    originals = frames_of(sent.source, [numbers[place] for place in places])
    with ThreadPoolExecutor(len(gauges)) as pool:
        for place, frame in zip(places, originals, strict=False):
            steps = [
                pool.submit(
                    gauge.see,
                    frame,
                    next(shown[plan], None) if plan in shown else None,
                    is_moment=place in moments,
                )
                for plan, gauge in gauges.items()
            ]
            for step in steps:
                step.result()
            if done:
                done(place + 1)
    return {plan: gauge.figures() for plan, gauge in gauges.items()}


def file_name(plan: Plan) -> str:
    """Return what a rendition's file is called."""
    words = f"{plan.name} {plan.rung.codec}" if not plan.is_sent else plan.name
    return f"{re.sub(r'[^a-z0-9]+', '-', words.casefold()).strip('-')}.mp4"


@dataclass(slots=True)
class _Told:
    """Tells how far renditions are: half of it is coding, half measuring. group: of so many."""

    progress: Progress | None
    frames: int
    group: int
    groups: int

    def coded(self, count: int) -> None:
        self._tell(count)

    def measured(self, count: int) -> None:
        self._tell(self.frames + count)

    def _tell(self, count: int) -> None:
        if self.progress:
            whole = 2 * self.frames
            self.progress(self.group * whole + count, self.groups * whole)


def _settings(plan: Plan, through: Passage) -> Settings:
    return Settings(
        codec=plan.rung.codec,
        bit_rate=plan.bit_rate,
        raster=plan.raster,
        rate=plan.rate,
        depth=through.depth,
        coding=replace(through.goal, table=""),
        preset=plan.rung.preset,
    )


def _reading(settings: Settings, frames: int) -> Reading:
    coding = settings.coding
    return Reading(
        full_range=coding.full_range,
        transfer=coding.transfer,
        matrix=coding.matrix,
        primaries=coding.primaries,
        rate=settings.rate,
        frame_count=frames,
    )
