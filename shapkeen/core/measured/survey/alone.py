"""What a file's picture shows by itself: some frames reached by seeking, spread over the whole.

Nothing is held against a master here. Every figure is one that acts on pictures move and pictures
by themselves hardly reach; what that means is judged elsewhere (judged/suspicions.py).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from ...colour.quantisation import luma_offset_span
from ...geometry.packing import MONO
from ..alignment.layout.cells import cells_of
from ..alignment.layout.packing import packing_alone
from ..alignment.layout.projection_signs import middle_of, signs_of
from ..alignment.layout.stereo_layout import seen_layout
from ..alignment.place.bars import DARK_CODES, LineFinder, find_bars
from ..alignment.place.registration import is_textured
from ..alignment.signature import Part, Signature, signature_of, small_picture
from ..alignment.time.frame_map import timeline_of
from ..decoded.frames import Frame, FrameReader, open_picture
from ..decoded.grid import Real
from ..detail.combing import comb_share
from ..detail.repeats import repeated_samples
from ..frame_statistics.codes import code_use
from ..model import AloneFindings, Source, StepFindings
from ..spans.cutting import UNCUT, shown_key_times

MOMENTS, STRETCHES, FOLLOWING = 8, 2, 24
"""Places that are looked at, and of how many of them so many frames that follow each other."""
FIRST_FRAMES = 400
"""Where a file does not say where its key frames are, its beginning is looked at."""
LEAST_MOVED = 2e-5
"""Of unit signatures, squared: what coding alone makes of one and the same frame is less."""
STANDING, LEAP = 0.04, 3.2
"""Squared: a frame that is shown again moves by less than this of those beside it; one that follows
a gap by more."""
SCENE = 0.2
"""Squared distance of signatures from which a scene changes."""


@dataclass(slots=True)
class _Seen:
    """What has been taken in."""

    lines: LineFinder = field(default_factory=LineFinder)
    lumas: list[Real] = field(default_factory=list)
    woven: list[float] = field(default_factory=list)
    repeated: list[tuple[float, int]] = field(default_factory=list)
    codes: npt.NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, np.int64))
    colour: list[float] = field(default_factory=list)
    stretches: list[list[Signature]] = field(default_factory=list)
    raster: tuple[int, int] = (1, 1)
    depth: int = 8


def look_alone(source: Source) -> AloneFindings:
    """Return what some frames of a file show; raises UnreadableFileError where none decodes."""
    plan = _planned(source)
    seen = _Seen()
    with FrameReader(source.path, source.reading.rate) as reader:
        before = -2
        for number, frame in zip(plan, reader.read(sorted(plan)), strict=False):
            _follow(seen, frame, source, begins=frame.number != before + 1)
            before = frame.number
            if plan[number]:
                _take(seen, frame, source)
    return _told(seen, source)


def _planned(source: Source) -> dict[int, bool]:
    """Return the frames to read, in order, and whether to look at them closely."""
    opened = open_picture(source.path, threads=1)
    with opened.container as container:
        count = source.reading.frame_count or FIRST_FRAMES
        known = container.format.name not in UNCUT and opened.stream.start_time is not None
        line = timeline_of(opened, source)
        keys = [line.number(ticks) for ticks in shown_key_times(opened)] if known else []
    first = keys if len(keys) >= MOMENTS else list(range(min(count, FIRST_FRAMES)))
    step = max(len(first) / MOMENTS, 1)
    moments = sorted({first[min(int(step * (i + 0.5)), len(first) - 1)] for i in range(MOMENTS)})
    wanted = dict.fromkeys(moments, True)
    for start in moments[:: max(len(moments) // STRETCHES, 1)][:STRETCHES]:
        for number in range(start, min(start + FOLLOWING, count)):
            wanted.setdefault(number, False)
    return dict(sorted(wanted.items()))


def _follow(seen: _Seen, frame: Frame, source: Source, *, begins: bool) -> None:
    """Take in how a frame follows the one before it."""
    small = small_picture(frame, full_range=source.reading.full_range)
    if begins or not seen.stretches:
        seen.stretches.append([])
    seen.stretches[-1].append(signature_of(small, Part()))


def _take(seen: _Seen, frame: Frame, source: Source) -> None:
    """Take in all that one frame shows."""
    if not seen.codes.any():
        seen.raster, seen.depth = frame.raster, frame.depth
        seen.codes = np.zeros(1 << frame.depth, np.int64)
    if (frame.raster, frame.depth) != (seen.raster, seen.depth):
        return
    seen.lines.add(frame)
    seen.codes += np.bincount(frame.luma.ravel(), minlength=1 << frame.depth)[: 1 << frame.depth]
    middle = 1 << (frame.depth - 1)
    off = [np.abs(plane.astype(np.float32) - middle).mean() for plane in (frame.cb, frame.cr)]
    seen.colour.append(float(np.mean(off)) / middle)
    seen.woven.append(comb_share(frame.luma, frame.depth))
    luma = frame.luma.astype(np.float32) * np.float32(2.0 ** (10 - frame.depth))
    seen.repeated.append(repeated_samples(luma))
    small = small_picture(frame, full_range=source.reading.full_range).luma
    if is_textured(small):
        seen.lumas.append(small)


def _told(seen: _Seen, source: Source) -> AloneFindings:
    codes = code_use(seen.codes, seen.depth)
    low, middle, high = _levels(seen, full_range=source.reading.full_range)
    projection, eyes, seam = _layout(seen.lumas, source.reading.aspect)
    ratios = {ratio for _, ratio in seen.repeated}
    alike = min((share for share, _ in seen.repeated), default=0.0) if len(ratios) == 1 else 0.0
    return AloneFindings(
        frames=len(seen.colour),
        raster=seen.raster,
        bars=find_bars(seen.lines.result(), most=DARK_CODES),
        woven=float(np.percentile(seen.woven, 60)) if seen.woven else 0.0,
        repeated=max(alike, 0.0),
        ratio=ratios.pop() if alike > 0 else 1,
        codes=codes,
        low=low,
        middle=middle,
        high=high,
        colour=float(np.median(seen.colour)) if seen.colour else 0.0,
        steps=_steps(seen.stretches),
        projection=projection,
        eyes=eyes,
        seam=seam,
    )


def _levels(seen: _Seen, *, full_range: bool) -> tuple[float, float, float]:
    """Return luma's signal at the 1st, 50th and 99.9th percentile."""
    summed = np.cumsum(seen.codes)
    black, span = luma_offset_span(depth=seen.depth, full_range=full_range)
    at = [int(np.searchsorted(summed, share * summed[-1])) for share in (0.01, 0.5, 0.999)]
    low, middle, high = ((code - black) / span for code in at)
    return low, middle, high


def _layout(lumas: Sequence[Real], aspect: float) -> tuple[str | None, str | None, float | None]:
    """Return projection, packing and seam by the pictures' own signs."""
    if not lumas:
        return None, None, None
    packed = packing_alone(lumas[:3])
    way = packed.way or MONO
    kind = seen_layout(lumas[:3], way, aspect)
    signs = middle_of([signs_of(cells_of(luma, way)[0]) for luma in lumas[:3]])
    return kind, packed.way, signs.seam


def _steps(stretches: Sequence[Sequence[Signature]]) -> StepFindings:
    """Return how the picture moves, by stretches of following frames."""
    steps = held = leaps = 0
    for stretch in stretches:
        moved = [_apart(one, other) for one, other in pairwise(stretch)]
        for at in range(2, len(moved) - 2):
            near = sorted((moved[at - 2], moved[at - 1], moved[at + 1], moved[at + 2]))
            if near[1] < LEAST_MOVED:
                continue
            steps += 1
            held += moved[at] < STANDING * near[1]
            leaps += LEAP * near[-1] < moved[at] < SCENE
    return StepFindings(steps=steps, held=held, leaps=leaps)


def _apart(one: Signature, other: Signature) -> float:
    first, second = (plane - plane.mean() for plane in (one, other))
    norms = float(np.sqrt((first**2).sum())), float(np.sqrt((second**2).sum()))
    if min(norms) < 1.0:
        return 0.0
    return float(((first / norms[0] - second / norms[1]) ** 2).sum())
