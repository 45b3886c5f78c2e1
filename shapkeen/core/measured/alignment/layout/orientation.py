"""How far a sphere's content was turned: yaw by circular correlation, then all three angles.

Lines are weighted by the cosine of their latitude, for near the poles the same piece of the world
is drawn many times over. A coarse search over pitch and roll is followed by Gauss-Newton steps.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from ....geometry.sphere import Turn, directions, places, turn_from_matrix
from ...decoded.grid import Real, Rect, sample

COARSE = (96, 48)
STAGES = (COARSE, (192, 96), (384, 192), (768, 384))
"""From coarse to fine: steps find their way only where structure is as wide as they are off."""
PITCHES, ROLLS = range(-75, 90, 15), range(-180, 180, 15)
LEAST_LIKENESS = 0.75
"""As for pictures that are registered: unrelated ones correlate below 0.6."""
SAME_DEG = 0.12
"""Angles below this are what coding and rounding leave: found within 0.05 on photographs."""
LEVEL_GAIN, SURE_LIKENESS = 0.8, 0.95
"""A tilt must leave less unlike than this share of what going round alone leaves. Spheres that are
as alike as this after going round are tilted by little, if at all."""
MOST_STEP_DEG, LEAST_STEP_DEG, ROUNDS = 8.0, 0.002, 10


@dataclass(frozen=True, slots=True)
class FoundTurn:
    """A turn, and how like both pictures are once it is undone (-1 to 1)."""

    turn: Turn
    likeness: float


def find_turn(master: Real, export: Real) -> FoundTurn | None:
    """Return how far the export's sphere is turned against the master's; None if unlike.

    Both luma (row, column) of a whole sphere, of any size.
    """
    stages = [[sample(luma, Rect(), size) for luma in (master, export)] for size in STAGES]
    level = _refined(stages, FoundTurn(_yawed(*stages[0]), 0.0), angles=1)
    starts = [level]
    if level.likeness < SURE_LIKENESS:  # from the level one a small tilt is found, else any
        starts.append(_searched(*stages[0]))
    tilted = max(
        (_refined(stages, start, angles=3) for start in starts), key=lambda one: one.likeness
    )
    small = max(abs(tilted.turn.pitch), abs(tilted.turn.roll)) < SAME_DEG
    gains = 1 - tilted.likeness < LEVEL_GAIN * (1 - level.likeness)
    best = tilted if gains and not small else level
    return best if best.likeness >= LEAST_LIKENESS else None


def yaw_between(master: Real, export: Real) -> float | None:
    """Return by how many degrees an export's content went right; None where nothing tells.

    To a tenth of a sample of STAGES' last; a tilt is not looked for.
    """
    along = _along(*(sample(luma, Rect(), STAGES[-1]) for luma in (master, export)))
    at, count = int(along.argmax()), len(along)
    if along[at] < LEAST_LIKENESS:
        return None
    before, after = along[at - 1], along[(at + 1) % count]
    bend = before - 2 * along[at] + after
    off = 0.5 * (before - after) / bend if bend < 0 else 0.0
    return round(float((at + off) / count * 360 + 180) % 360 - 180, 4)


def _weights(size: tuple[int, int]) -> Real:
    latitude = (0.5 - (np.arange(size[1]) + 0.5) / size[1]) * np.pi
    return np.asarray(np.cos(latitude), np.float32)[:, None]


def _along(master: Real, export: Real) -> npt.NDArray[np.float64]:
    """Return the correlation of both pictures for every shift of the master to the right."""
    root = np.sqrt(_weights((master.shape[1], master.shape[0])))
    master_rows, export_rows = ((luma - _mean(luma)) * root for luma in (master, export))
    norm = np.sqrt(float((master_rows**2).sum()) * float((export_rows**2).sum()))
    if norm < 1e-6:
        return np.zeros(master.shape[1])
    product = np.fft.rfft(export_rows, axis=1) * np.conj(np.fft.rfft(master_rows, axis=1))
    return np.asarray(np.fft.irfft(product.sum(axis=0), n=master.shape[1]) / norm)


def _mean(luma: Real) -> float:
    weights = np.broadcast_to(_weights((luma.shape[1], luma.shape[0])), luma.shape)
    return float(np.average(luma, weights=weights))


def _yawed(master: Real, export: Real) -> Turn:
    along = _along(master, export)
    return Turn(yaw=_degrees(int(along.argmax()), len(along)))


def _degrees(shift: int, width: int) -> float:
    turn = shift / width * 360
    return turn - 360 if turn > 180 else turn


def _searched(master: Real, export: Real) -> FoundTurn:
    """Return the likeliest turn of a coarse search over all of them."""
    best = FoundTurn(Turn(), -1.0)
    for pitch in PITCHES:
        for roll in ROLLS:
            # Pitch and roll after an unknown yaw are a yaw of the picture, tilted back before.
            tilted = turned(export, _back(Turn(0, pitch, roll)))
            along = _along(master, tilted)
            likeness = float(along.max())
            if likeness > best.likeness:
                yaw = _degrees(int(along.argmax()), len(along))
                best = FoundTurn(Turn(yaw, float(pitch), float(roll)), likeness)
    return best


def _back(turn: Turn) -> Turn:
    return turn_from_matrix(turn.matrix().T)


@lru_cache(maxsize=8)
def _ways(size: tuple[int, int]) -> Real:
    """Return the directions of all samples; half as many bits are enough for drawing."""
    return directions(size).astype(np.float32)


def turned(plane: Real, turn: Turn) -> Real:
    """Return a sphere's plane with its content turned; edges meet, so nothing is lost."""
    height, width = plane.shape
    if turn.is_level:
        steps = turn.yaw / 360 * width
        if abs(steps - round(steps)) < 1e-6:
            return np.roll(plane, round(steps), axis=1)
        # Between two columns, as below, but without asking for every sample where it comes from.
        whole = int(np.floor(steps))
        near, far = (np.roll(plane, whole + more, axis=1) for more in (0, 1))
        return np.asarray(near + (far - near) * np.float32(steps - whole), plane.dtype)
    ways = _ways((width, height)) @ turn.matrix().astype(np.float32)  # v @ R: the inverse turn
    columns, rows = places(ways, (width, height))
    return np.asarray(
        cv2.remap(plane, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP), plane.dtype
    )


def _refined(stages: Sequence[Sequence[Real]], start: FoundTurn, *, angles: int) -> FoundTurn:
    """Return a turn refined from stage to stage: of yaw alone, or of all three angles."""
    found = start
    for master, export in stages:
        found = _stepped(master, export, found.turn, ("yaw", "pitch", "roll")[:angles])
    return FoundTurn(_tidy(found.turn), found.likeness)


def _stepped(master: Real, export: Real, turn: Turn, names: Sequence[str]) -> FoundTurn:
    """Return a turn after Gauss-Newton steps over the named angles, the likeliest on the way."""
    weights = np.broadcast_to(_weights((master.shape[1], master.shape[0])), master.shape)
    root, step = np.sqrt(weights).ravel(), 0.2 * 360 / master.shape[1]
    goal = _standard(export, weights)
    best = FoundTurn(turn, -1.0)
    for _ in range(ROUNDS):
        here = _standard(turned(master, turn), weights)
        likeness = float((here * goal * weights).sum() / weights.sum())
        if likeness <= best.likeness + 1e-7:
            break
        best = FoundTurn(turn, likeness)
        slopes = []
        for name in names:
            ahead = _standard(turned(master, _moved(turn, name, step)), weights)
            slopes.append(((ahead - here) / step).ravel() * root)
        table = np.stack(slopes).astype(np.float64)
        # By the normal equations: three unknowns, and tens of thousands of samples.
        normal, right = table @ table.T, table @ ((goal - here).ravel() * root)
        moves, *_ = np.linalg.lstsq(normal, right, rcond=None)
        for name, move in zip(names, moves, strict=True):
            turn = _moved(turn, name, float(np.clip(move, -MOST_STEP_DEG, MOST_STEP_DEG)))
        if np.abs(moves).max() < LEAST_STEP_DEG:
            break
    return best


def _moved(turn: Turn, name: str, by: float) -> Turn:
    angles = {key: getattr(turn, key) for key in ("yaw", "pitch", "roll")}
    angles[name] += by
    return Turn(**angles)


def _tidy(turn: Turn) -> Turn:
    """Return the turn with yaw and roll within ±180 degrees."""
    yaw, roll = ((angle + 180) % 360 - 180 for angle in (turn.yaw, turn.roll))
    return Turn(yaw, turn.pitch, roll)


def _standard(luma: Real, weights: Real) -> Real:
    total = float(weights.sum())
    middle = luma - float((luma * weights).sum()) / total
    spread = float((middle * middle * weights).sum()) / total
    return np.asarray(middle / max(np.sqrt(spread), 1e-6))
