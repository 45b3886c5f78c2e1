"""The domed observing room above the workshop in Vellmar, seen all around from its middle.

Every sample's direction is followed to the floor, the wall or the dome; a small planetarium turns
in front. Light is linear BT.2020 in cd/m². Metres; right, down, ahead.
"""

from functools import lru_cache

import numpy as np

from ..core.geometry.sphere import directions
from .canvas import Colour, Real

FLOOR, WALL, SPRING = 1.5, 3.4, -1.1
"""How far below the eye the floor is, how far away the wall, and where the dome begins."""
PILASTERS, RIBS, WINDOWS = 12, 24, 4
PLANETS: tuple[tuple[float, float, float, float, Colour], ...] = (
    # orbit, size, turns in the piece, height, enamel
    (0.34, 0.055, 0.40, 0.00, (96.0, 4.0, 2.0)),
    (0.58, 0.080, 0.26, 0.06, (2.0, 52.0, 34.0)),
    (0.84, 0.105, -0.18, -0.05, (3.0, 8.0, 74.0)),
)
ORRERY = np.array([0.15, 0.35, 2.0])
LAMP = np.array([-1.6, -0.7, 2.3])
GLOBE = np.array([2.2, 0.9, -1.1])
STARS = 260


def render_room(width: int, height: int, *, moment: float) -> Real:
    """Return one frame (row, column, channel) of a whole sphere, 2:1. moment: 0 to 1."""
    ways, light = _still(width, height)
    drawn = light.copy()
    depth = np.full((height, width), np.inf, np.float32)
    sun = ORRERY
    _ball(drawn, depth, ways, sun, 0.16, (240.0, 150.0, 30.0))
    for orbit, size, turns, lift, enamel in PLANETS:
        angle = 2 * np.pi * turns * moment + orbit * 17
        place = sun + np.array([orbit * np.cos(angle), lift, orbit * np.sin(angle)])
        _ball(drawn, depth, ways, place, size, enamel)
    flicker = 0.94 + 0.06 * np.cos(2 * np.pi * 3 * moment)
    _ball(drawn, depth, ways, LAMP, 0.12, (620.0 * flicker, 520.0 * flicker, 390.0 * flicker))
    _ball(drawn, depth, ways, GLOBE, 0.42, (9.0, 30.0, 34.0))
    return drawn


@lru_cache(maxsize=2)
def _still(width: int, height: int) -> tuple[Real, Real]:
    """Return the directions, and the room without what moves in it."""
    ways = directions((width, height)).astype(np.float32)
    right, down, ahead = (ways[..., i] for i in range(3))
    level = np.hypot(right, ahead)
    light = np.zeros((height, width, 3), np.float32)
    reach = WALL / np.maximum(level, 1e-4)
    at = down * reach
    floor, dome = at > FLOOR, at < SPRING
    wall = ~floor & ~dome
    around = np.arctan2(right, ahead)
    light[wall] = _wall(around[wall], at[wall])
    steps = FLOOR / np.maximum(down[floor], 1e-4)
    light[floor] = _floor(right[floor] * steps, ahead[floor] * steps)
    light[dome] = _dome(around[dome], -down[dome], level[dome])
    return ways, light


def _ink(red: float, green: float, blue: float) -> Real:
    return np.array([red, green, blue], np.float32)


def _mix(parts: Real, one: Colour, other: Colour) -> Real:
    share = np.asarray(parts, np.float32)[..., None]
    return share * np.asarray(one, np.float32) + (1 - share) * np.asarray(other, np.float32)


def _soft(distance: Real, width: float) -> Real:
    """Return 1 inside (below 0) and 0 outside, with a soft edge."""
    return np.asarray(np.clip(0.5 - distance / width, 0.0, 1.0), np.float32)


def _wall(around: Real, at: Real) -> Real:
    """Return panelled wood with pilasters all round, and windows over the harbour at dusk."""
    grain = 0.5 + 0.5 * np.sin(40 * around + 3 * np.sin(9 * at + 5 * around))
    planks = np.abs(((around * 44 / np.pi) % 1.0) - 0.5) - 0.47
    made = _mix(0.7 * grain, (9.0, 5.5, 2.6), (5.0, 2.8, 1.3))
    made *= (1 - 0.7 * _soft(-planks, 0.03))[..., None]
    pillar = np.abs(((around * PILASTERS / (2 * np.pi) + 0.5) % 1.0) - 0.5) * 2 * np.pi / PILASTERS
    made += _soft(pillar - 0.055, 0.012)[..., None] * _ink(14.0, 10.0, 6.0)
    rail = np.minimum(np.abs(at - 0.55) - 0.03, np.abs(at + 0.98) - 0.05)
    made += _soft(rail, 0.02)[..., None] * _ink(18.0, 12.0, 6.0)
    turn = np.abs(((around * WINDOWS / (2 * np.pi)) % 1.0) - 0.5) * 2 * np.pi / WINDOWS
    pane = np.maximum(turn - 0.24, np.abs(at + 0.28) - 0.5)
    bars = np.minimum(np.abs(turn - 0.11), np.abs(at + 0.28)) - 0.012
    sky = _mix(np.clip(0.5 - at, 0, 1), (26.0, 30.0, 52.0), (150.0, 92.0, 48.0))
    sea = (1 + 0.5 * np.sin(260 * (at - 0.02) + 40 * around)) * (at > 0.02)
    view = np.where((at > 0.02)[..., None], sea[..., None] * _ink(10.0, 12.0, 17.0), sky)
    view = view * (1 - 0.9 * _soft(bars, 0.008))[..., None]
    inside = _soft(pane, 0.012)[..., None]
    return np.asarray(made * (1 - inside) + view * inside, np.float32)


def _floor(x: Real, z: Real) -> Real:
    """Return boards with an inlaid compass, and a plate where the tripod stands."""
    boards = np.abs(((x / 0.22) % 1.0) - 0.5) - 0.46
    grain = 0.5 + 0.5 * np.sin(5 * z + 7 * np.sin(11 * np.floor(x / 0.22)) + 1.5 * np.sin(23 * z))
    made = (
        _mix(grain, (9.0, 6.0, 3.2), (6.0, 3.8, 2.0)) * (1 - 0.8 * _soft(-boards, 0.02))[..., None]
    )
    far, turn = np.hypot(x, z), np.arctan2(x, z)
    ring = np.minimum(np.abs(far - 1.9), np.abs(far - 1.3)) - 0.02
    rose = far - (0.7 + 0.5 * np.abs(np.cos(4 * turn)) ** 6)
    made = np.where((rose < 0)[..., None], made * 0.35 + _ink(8.0, 5.0, 1.6), made)
    made += _soft(ring, 0.01)[..., None] * _ink(30.0, 20.0, 7.0)
    plate = _soft(far - 0.45, 0.02)[..., None]
    return np.asarray(made * (1 - plate) + plate * _ink(2.0, 1.9, 1.8), np.float32)


def _dome(around: Real, up: Real, level: Real) -> Real:
    """Return the painted night: ribs, rings of latitude, and stars."""
    high = np.arctan2(up, level)
    made = _mix(np.clip(high / 1.4, 0, 1), (1.2, 1.8, 5.0), (3.0, 3.6, 7.0))
    rib = np.abs(((around * RIBS / (2 * np.pi)) % 1.0) - 0.5) * 2 * np.pi / RIBS * np.cos(high)
    rings = np.abs(((np.degrees(high) / 15) % 1.0) - 0.5) * 15
    made += _soft(rib - 0.012, 0.008)[..., None] * _ink(16.0, 11.0, 5.0)
    made += _soft(rings - 0.35, 0.25)[..., None] * _ink(9.0, 7.0, 4.0)
    chance = np.random.default_rng(12)
    ways = np.stack([np.sin(around) * level, up, np.cos(around) * level], axis=-1)
    lights = chance.normal(size=(STARS, 3))
    lights[:, 1] = np.abs(lights[:, 1])
    lights /= np.linalg.norm(lights, axis=1, keepdims=True)
    for star, size in zip(
        lights.astype(np.float32), chance.uniform(0.004, 0.011, STARS), strict=True
    ):
        near = ways @ star
        lit = near > 0.999
        glow = np.exp(-(1 - near[lit]) / (size**2))
        made[lit] += glow[:, None] * _ink(150.0, 150.0, 170.0)
    return np.asarray(made, np.float32)


def _ball(light: Real, depth: Real, ways: Real, place: Real, size: float, colour: Colour) -> None:
    """Draw a lit ball in front of what is farther away."""
    middle = place.astype(np.float32)
    along = ways @ middle
    inside = along**2 - (float(middle @ middle) - size**2)
    hit = (inside > 0) & (along > 0)
    if not hit.any():
        return
    away = along[hit] - np.sqrt(inside[hit])
    normal = (ways[hit] * away[:, None] - middle) / size
    toward = (LAMP - place) / max(float(np.linalg.norm(LAMP - place)), 1e-3)
    shade = 0.25 + 0.75 * np.clip(normal @ toward.astype(np.float32), 0, 1)
    spot = np.clip(normal @ toward.astype(np.float32), 0, 1) ** 60
    edge = np.clip(inside[hit] / (0.08 * size**2), 0, 1)[:, None]
    lit = shade[:, None] * np.asarray(colour, np.float32) + spot[:, None] * 180.0
    nearer = away < depth[hit]
    rows, columns = np.nonzero(hit)
    rows, columns, edge, lit = rows[nearer], columns[nearer], edge[nearer], lit[nearer]
    light[rows, columns] = light[rows, columns] * (1 - edge) + lit * edge
    depth[rows, columns] = away[nearer]
