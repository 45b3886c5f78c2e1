"""Equirectangular pictures: places, directions, turns, and what a viewer's window really gets.

Ordinary geometry. A picture of width W and height H covers 360 by 180 degrees: longitude runs
right from -180 at the left edge, latitude down from 90 at the top edge. Directions are unit
vectors (right, down, ahead); ahead is the middle of the picture.
"""

from dataclasses import dataclass
from math import cos, pi, radians, sin, tan
from typing import Any

import numpy as np
import numpy.typing as npt

from .framing import Size

Real = npt.NDArray[np.float64]
SPHERES: tuple[Size, ...] = ((1920, 960), (3840, 1920), (4096, 2048), (5760, 2880), (8192, 4096))
"""Full spheres in use, 2:1; the first is for review."""
WHOLE_DEG, HALF_DEG = 360.0, 180.0
"""Across: of a whole sphere, and of half of one."""


@dataclass(frozen=True, slots=True)
class Turn:
    """How far a sphere's content was turned, in degrees, in this order.

    yaw: it moved right. pitch: what was ahead moved up. roll: what is ahead turned clockwise.
    """

    yaw: float = 0.0
    pitch: float = 0.0
    roll: float = 0.0

    @property
    def is_level(self) -> bool:
        """Return whether the content only went round, and stayed upright."""
        return self.pitch == 0 and self.roll == 0

    def matrix(self) -> Real:
        """Return the rotation (3, 3) that takes a direction to where its content went."""
        y, p, r = (radians(angle) for angle in (self.yaw, self.pitch, self.roll))
        yawed = np.array([[cos(y), 0, sin(y)], [0, 1, 0], [-sin(y), 0, cos(y)]])
        pitched = np.array([[1, 0, 0], [0, cos(p), -sin(p)], [0, sin(p), cos(p)]])
        rolled = np.array([[cos(r), -sin(r), 0], [sin(r), cos(r), 0], [0, 0, 1]])
        return np.asarray(rolled @ pitched @ yawed)


def turn_from_matrix(matrix: Real) -> Turn:
    """Return the turn whose matrix this rotation is; pitch lies within ±90 degrees."""
    pitch = np.arcsin(np.clip(matrix[2, 1], -1.0, 1.0))
    roll, yaw = np.arctan2(-matrix[0, 1], matrix[1, 1]), np.arctan2(-matrix[2, 0], matrix[2, 2])
    return Turn(*(float(np.degrees(angle)) for angle in (yaw, pitch, roll)))


def directions(size: Size) -> Real:
    """Return the direction (row, column, 3) of every sample of an equirectangular picture."""
    width, height = size
    longitude = ((np.arange(width) + 0.5) / width - 0.5) * 2 * pi
    latitude = (0.5 - (np.arange(height) + 0.5) / height) * pi
    round_, down = np.cos(latitude)[:, None], -np.sin(latitude)[:, None]
    parts = (round_ * np.sin(longitude), down + 0 * longitude, round_ * np.cos(longitude))
    return np.stack(np.broadcast_arrays(*parts), axis=-1)


def places(ways: npt.NDArray[np.floating[Any]], size: Size) -> tuple[Real, Real]:
    """Return column and row, of samples numbered from 0, where directions (…, 3) lie.

    Columns run from -½ to width - ½, where both edges meet.
    """
    width, height = size
    longitude = np.arctan2(ways[..., 0], ways[..., 2])
    # Not by arcsin, which knows little of what lies near the poles.
    latitude = np.arctan2(-ways[..., 1], np.hypot(ways[..., 0], ways[..., 2]))
    return (longitude / (2 * pi) + 0.5) * width - 0.5, (0.5 - latitude / pi) * height - 0.5


def turned_places(turn: Turn, size: Size) -> tuple[Real, Real]:
    """Return from where each sample (row, column) of a turned sphere's picture comes."""
    return places(directions(size) @ turn.matrix(), size)  # v @ R is the inverse turn of v


def window_directions(size: Size, view_deg: float, turn: Turn) -> Real:
    """Return the directions (row, column, 3) that a flat window of a viewer shows.

    view_deg: across the window. turn: how far the viewer's head is turned: yaw to the right, pitch
    up, roll clockwise.
    """
    width, height = size
    focal = width / (2 * tan(radians(view_deg) / 2))
    x, y = np.meshgrid(np.arange(width) + 0.5 - width / 2, np.arange(height) + 0.5 - height / 2)
    flat = np.stack([x, y, np.full_like(x, focal)], axis=-1)
    flat /= np.linalg.norm(flat, axis=-1, keepdims=True)
    yaw, pitch = Turn(yaw=turn.yaw).matrix(), Turn(pitch=turn.pitch).matrix()
    head = yaw @ pitch @ Turn(roll=turn.roll).matrix()
    return np.asarray(flat @ head.T)


def degrees_a_sample(width: int, degrees: float = WHOLE_DEG) -> float:
    """Return how many degrees a sample at the equator covers."""
    return degrees / width


def samples_a_degree(width: int, degrees: float = WHOLE_DEG) -> float:
    """Return how many samples a degree has at the equator."""
    return width / degrees


def samples_in_view(width: int, view_deg: float = 90.0, degrees: float = WHOLE_DEG) -> float:
    """Return how many samples of an equirectangular picture lie in a view, at the equator."""
    return width * view_deg / degrees


def window_width(width: int, view_deg: float = 90.0, degrees: float = WHOLE_DEG) -> float:
    """Return how wide a flat window is that has the picture's density of samples in its middle.

    w / (2 tan(a / 2)) samples per radian there, the picture has width / degrees in radians.
    """
    return 2 * tan(radians(view_deg) / 2) * width / radians(degrees)
