"""Making a rendition and measuring it, so that one that is finished is never made twice."""

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from ...declared import Declaration
from ...geometry.framing import Area
from ...measured import Progress, Reading, Source
from ...measured.decoded.frames import Frame
from ...measured.decoded.grid import Real
from ...measured.model import coding_of
from ..received.recognition import Recognition
from ..stand_in import PictureChanges, StandIn
from .coding import Settings, code, frames_of
from .excerpts import Excerpt, numbers_of
from .figures import (
    Figures,
    FrameFigures,
    banding,
    detail_left,
    enlarged,
    frame_figures,
    ten_bit,
)
from .kept import keep_figures, kept_figures
from .renditions import Plan
from .through_service import (
    HDR_DEPTH,
    REFERENCE_DEPTH,
    SDR_DEPTH,
    Passage,
    Planes,
    fold_of,
    goal_coding,
    known,
)

MEASURED, SPARSEST = 10, 50
"""Frames of an excerpt that are held against the picture as it should be; every 50th of a film."""


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


def make_rendition(
    sent: Sent,
    plan: Plan,
    excerpts: Sequence[Excerpt],
    folder: Path,
    progress: Progress | None = None,
) -> Rendition:
    """Return a rendition of excerpts, made and measured; one that is kept is not made again.

    Raises UnreadableFileError where the file cannot be decoded, and what `progress` raises.
    """
    numbers = numbers_of(excerpts, plan.step)
    told = _Told(progress, len(numbers))
    source = code_rendition(sent, plan, numbers, folder, told.coded)
    told.coded(len(numbers))
    kept_at = folder / f"{slug(plan)}.mp4"
    figures = kept_figures(kept_at)
    if figures is None:
        figures = _measured(sent, plan, source, numbers, excerpts, told)
        keep_figures(kept_at, figures)
    told.measured(len(numbers))
    return Rendition(
        plan=plan,
        source=source,
        size_bytes=source.path.stat().st_size,
        numbers=tuple(numbers),
        figures=figures,
    )


def code_rendition(
    sent: Sent,
    plan: Plan,
    numbers: Sequence[int],
    folder: Path,
    done: Callable[[int], None] | None = None,
) -> Source:
    """Return a rendition of these rising frames, coded into a folder unless it lies there already.

    Where the file itself is played, that: read as the player reads it. Raises as make_rendition.
    """
    if plan.is_sent:
        return replace(sent.source, reading=sent.taken)
    through, _ = passages_of(sent, plan)
    settings, goal = _settings(plan, through), folder / f"{slug(plan)}.mp4"
    if not goal.exists():
        pictures = (through.planes(frame) for frame in frames_of(sent.source, numbers))
        code(pictures, settings, goal, done)
    return Source(goal, _reading(settings, len(numbers)))


def slug(plan: Plan) -> str:
    """Return a rendition's name as a file is named."""
    words = f"{plan.name} {plan.rung.codec}" if not plan.is_sent else plan.name
    return re.sub(r"[^a-z0-9]+", "-", words.casefold()).strip("-")


@dataclass(slots=True)
class _Told:
    """Tells how far one rendition is: half of it is coding, half measuring."""

    progress: Progress | None
    frames: int

    def coded(self, count: int) -> None:
        if self.progress:
            self.progress(count, 2 * self.frames)

    def measured(self, count: int) -> None:
        if self.progress:
            self.progress(self.frames + count, 2 * self.frames)


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


def _measured(
    sent: Sent,
    plan: Plan,
    rendition: Source,
    numbers: Sequence[int],
    excerpts: Sequence[Excerpt],
    told: _Told,
) -> Figures:
    through, right = passages_of(sent, plan)
    shown = (
        (through.planes(frame) for frame in frames_of(sent.source, numbers))
        if plan.is_sent
        else _decoded(rendition, len(numbers))
    )
    wanted = measured_places(numbers, excerpts)
    moments = {_nearest(numbers, at) for one in excerpts for at in one.moments.values()}
    whole = replace(right, raster=right.part.size)
    coding = replace(right.goal, table="")
    series: list[FrameFigures] = []
    fine: list[tuple[Real, Real]] = []
    steps: list[float] = []
    frames = frames_of(sent.source, numbers)
    for place, (frame, planes) in enumerate(zip(frames, shown, strict=False)):
        if place not in wanted:
            continue
        depth = 8 if planes[0].dtype == np.uint8 else 10
        there = ten_bit(planes, depth)
        expected = ten_bit(right.planes(frame), right.depth)
        series.append(frame_figures(frame.number, expected, there, coding))
        if place in moments:
            steps += (
                [found] if (found := banding(expected["luma"], there["luma"])) is not None else []
            )
            fine.append(_fine(frame, whole, there["luma"], right.part))
        told.measured(place + 1)
    return _figures(series, fine, steps, right.part)


def _decoded(rendition: Source, count: int) -> Iterator[Planes]:
    for frame in frames_of(rendition, range(count)):
        yield frame.luma, frame.cb, frame.cr


def _fine(frame: Frame, whole: Passage, luma: Real, part: Area) -> tuple[Real, Real]:
    """Return luma as it should be at the received size, and the rendition's brought to it."""
    expected = ten_bit(whole.planes(frame), whole.depth)["luma"]
    return expected, enlarged(luma, part.size)


def measured_places(numbers: Sequence[int], excerpts: Sequence[Excerpt]) -> set[int]:
    """Return which of a rendition's frames are measured: evenly, and at every moment."""
    places: set[int] = set()
    for one in excerpts:
        inside = [p for p, number in enumerate(numbers) if one.first <= number < one.end]
        step = max(min(len(inside) // MEASURED, SPARSEST), 1)
        places |= set(inside[step // 2 :: step])
        places |= {_nearest(numbers, at) for at in one.moments.values()}
    return places


def _nearest(numbers: Sequence[int], frame: int) -> int:
    return int(np.abs(np.asarray(numbers) - frame).argmin())


def _figures(
    series: Sequence[FrameFigures],
    fine: Sequence[tuple[Real, Real]],
    steps: Sequence[float],
    part: Area,
) -> Figures:
    left = detail_left(fine)
    colours = [one.delta_e for one in series if one.delta_e is not None]
    return Figures(
        ssim=float(np.mean([one.ssim for one in series])),
        psnr=float(np.mean([one.psnr for one in series])),
        delta_e=float(np.mean(colours)) if colours else None,
        detail_lines=round(left.left * part.height) if left else None,
        of_lines=round(left.most * part.height) if left else None,
        detail_kept=left.kept if left else None,
        banding=float(np.mean(steps)) if steps else None,
        worst=min(series, key=lambda one: one.ssim).frame,
        series=tuple(series),
    )
