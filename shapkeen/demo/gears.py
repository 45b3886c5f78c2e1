"""Gear trains in depth for two eyes: layers of brass behind, at and in front of the screen."""

import numpy as np

from .canvas import Canvas, Real
from .scene import BRASS, STEEL, TAU, dial, gear, lamp, ring, ruler, sheen, wall

LAYERS: tuple[tuple[float, tuple[tuple[float, float, float, int, float], ...]], ...] = (
    # parallax in % of the width (positive: behind the screen), gears: x, y (heights from the
    # middle), radius, teeth, turns in the piece
    (
        1.3,
        ((-0.62, -0.20, 0.17, 30, 0.2), (-0.30, 0.27, 0.13, 22, -0.3), (0.66, 0.26, 0.15, 26, 0.2)),
    ),
    (0.5, ((-0.05, -0.22, 0.20, 36, -0.17), (0.36, -0.06, 0.16, 28, 0.21))),
    (-0.6, ((-0.42, 0.08, 0.15, 24, 0.25), (0.13, 0.20, 0.14, 22, -0.27))),
    (-1.5, ((0.60, -0.24, 0.12, 18, 0.33), (-0.72, 0.33, 0.10, 16, -0.3))),
)
BACK, FRONT = 1.9, -2.0
PLATES, RIVETS = 9, 150


def render_gears(
    width: int, height: int, *, aspect: float, moment: float, eye: int, peak_nits: float
) -> Real:
    """Return one eye's frame in linear light (row, column, channel), cd/m².

    eye: 0 left, 1 right: layers stand half their parallax to the left or right for each.
    """
    canvas = Canvas(width, height, aspect=aspect)

    def off(percent: float) -> float:
        return (eye - 0.5) * percent / 100 * aspect

    wall(canvas, (0.1 + off(BACK), -0.33))
    _rivets(canvas, off(BACK), aspect)
    dial(canvas, -0.1 + off(1.0), 0.02, moment)
    for percent, gears in LAYERS:
        for x, y, radius, teeth, turns in gears:
            gear(canvas, x + off(percent), y, radius, teeth=teeth, angle=TAU * turns * moment)
    lamp(canvas, (0.34 + off(-0.9), -0.33), peak_nits, moment)
    ruler(canvas, -0.78 + off(FRONT), 0.1 + off(FRONT), 0.44)
    return np.clip(canvas.light, 0.0, peak_nits)


def _rivets(canvas: Canvas, off: float, aspect: float) -> None:
    """Lay plates and rivets over the far wall, so that it can be seen how far it is."""
    chance = np.random.default_rng(5)
    for x in np.linspace(-aspect / 2, aspect / 2, PLATES):
        patch = canvas.whole()
        canvas.paint(patch, patch.coverage(np.abs(patch.x - x - off) - 0.006), (2.2, 1.8, 1.4))
    places = chance.uniform((-aspect / 2, -0.5), (aspect / 2, 0.5), (RIVETS, 2))
    for (x, y), size in zip(places, chance.uniform(0.006, 0.016, RIVETS), strict=True):
        patch = canvas.patch(x + off, y, size * 2)
        canvas.paint(
            patch,
            patch.coverage(np.hypot(patch.x, patch.y) - size),
            sheen(patch.x, patch.y, float(x), BRASS, 1.6) * 0.5,
        )
        ring(canvas, x + off, y, size, 0.003, STEEL)
