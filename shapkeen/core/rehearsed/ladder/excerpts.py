"""Excerpts: the moments of a film at which renditions are tried, so that not all of it need be.

Hardest: most movement and detail together. Brightest: the highest light of a hundredth of the
picture. Darkest: the lowest mean that still shows something. Typical: nearest to the middle of
all three. Common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from ...measured import Progress, Source
from ...measured.decoded.frames import (
    SEEK_GAP_S,
    Frame,
    FrameReader,
    Plane,
    open_picture,
)
from ...measured.decoded.grid import Real
from ...measured.spans.cutting import shown_key_times

PLACES = 40
EXCERPT_S, SHORT_FILM_S = 1.6, 10.0
WIDTH = 640
SHOWN_CODES = 6.0
"""Standard deviation in 8-bit codes below which a dark picture shows nothing."""
KINDS = ("hardest", "brightest", "darkest", "typical")


@dataclass(frozen=True, slots=True, kw_only=True)
class Excerpt:
    """Frames first to end (not included), and the moments in it: kind → frame."""

    first: int
    end: int
    moments: dict[str, int]

    @property
    def frames(self) -> int:
        """Return how many frames it has."""
        return self.end - self.first


@dataclass(frozen=True, slots=True)
class Sight:
    """What a look at one moment found. movement, detail, bright, mean, spread: in 8-bit codes."""

    frame: int
    movement: float
    detail: float
    bright: float
    mean: float
    spread: float


def choose_excerpts(
    source: Source, frames: int, *, whole: bool = False, progress: Progress | None = None
) -> tuple[Excerpt, ...]:
    """Return rising excerpts of a film that do not overlap; a short film is one, whole.

    frames: how many it has, at least 1. whole: all of it whatever its length. Raises
    UnreadableFileError where nothing can be decoded.
    """
    rate = source.reading.rate
    sights = _look(source, frames, progress)
    moments = moments_of(sights)
    if whole or frames / rate <= SHORT_FILM_S:
        return (Excerpt(first=0, end=frames, moments=moments),)
    size = min(max(round(EXCERPT_S * rate), 8), frames)
    spans = []
    for kind, at in moments.items():
        first = min(max(at - size // 2, 0), frames - size)
        spans.append((first, first + size, kind, at))
    return _merged(sorted(spans))


def _merged(spans: Sequence[tuple[int, int, str, int]]) -> tuple[Excerpt, ...]:
    made: list[Excerpt] = []
    for first, end, kind, at in spans:
        if made and first <= made[-1].end:
            last = made.pop()
            made.append(Excerpt(first=last.first, end=end, moments={**last.moments, kind: at}))
        else:
            made.append(Excerpt(first=first, end=end, moments={kind: at}))
    return tuple(made)


def _look(source: Source, frames: int, progress: Progress | None) -> list[Sight]:
    """Return what some tens of pairs of neighbouring frames show."""
    count = min(PLACES, max(frames // 2, 1))
    places = [int((i + 0.5) * frames / count) for i in range(count)]
    wanted = sorted({n for at in places for n in (at, min(at + 1, frames - 1))})
    small: dict[int, Real] = {}
    keys = _keys(source)
    gap_s = 0.0 if keys else SEEK_GAP_S
    with FrameReader(source.path, source.reading.rate, gap_s=gap_s, keys=keys) as reader:
        for frame in reader.read(wanted):
            small[frame.number] = _small(frame)
            if progress and frame.number in places:
                progress(places.index(frame.number) + 1, count)
    found = [at for at in places if at in small] or sorted(small)
    return [_sight(at, small[at], small.get(at + 1, small.get(at - 1, small[at]))) for at in found]


def _keys(source: Source) -> list[int] | None:
    """Return about which frames are key frames, rising: they are reached without the others.

    None where the file has no index that tells of any but the first.
    """
    opened = open_picture(source.path)
    with opened.container:
        start, rate = opened.stream.start_time or 0, source.reading.rate
        numbers = {round((at - start) * opened.tick * rate) for at in shown_key_times(opened)}
    found = sorted({0, *(number for number in numbers if number > 0)})
    return found if len(found) > 1 else None


def _small(frame: Frame) -> Real:
    """Return luma in 8-bit codes, at most WIDTH wide: fine detail is kept by its mean size."""
    plane: Plane = frame.luma
    height, width = plane.shape
    made = plane.astype(np.float32) / np.float32(1 << (frame.depth - 8))
    if width > WIDTH:
        size = (WIDTH, max(round(height * WIDTH / width), 1))
        made = np.asarray(cv2.resize(made, size, interpolation=cv2.INTER_AREA))
    return made


def _sight(at: int, here: Real, there: Real) -> Sight:
    return Sight(
        frame=at,
        movement=float(np.abs(here - there).mean()) if here.shape == there.shape else 0.0,
        detail=float(np.abs(cv2.Laplacian(here, cv2.CV_32F)).mean()),
        bright=float(np.percentile(here, 99)),
        mean=float(here.mean()),
        spread=float(here.std()),
    )


def moments_of(sights: Sequence[Sight]) -> dict[str, int]:
    """Return the hardest, brightest, darkest and most typical frame; sights: one at least."""
    movement, detail = (
        np.array([getattr(one, name) for one in sights]) for name in ("movement", "detail")
    )
    mean = np.array([one.mean for one in sights])
    hard = movement / max(movement.max(), 1e-6) + detail / max(detail.max(), 1e-6)
    shows = [one for one in sights if one.spread > SHOWN_CODES] or list(sights)
    table = np.stack([movement, detail, mean], axis=1)
    off = (table - np.median(table, axis=0)) / np.maximum(table.std(axis=0), 1e-6)
    return {
        "hardest": sights[int(hard.argmax())].frame,
        "brightest": max(sights, key=lambda one: (one.bright, one.mean)).frame,
        "darkest": min(shows, key=lambda one: one.mean).frame,
        "typical": sights[int(np.abs(off).sum(axis=1).argmin())].frame,
    }


def numbers_of(excerpts: Sequence[Excerpt], step: int = 1) -> list[int]:
    """Return the film's frames that a rendition of these excerpts shows, one after the other."""
    if any(one.end > other.first for one, other in pairwise(excerpts)):
        raise ValueError("excerpts rise and do not overlap")
    return [n for one in excerpts for n in range(one.first, one.end, step)]
