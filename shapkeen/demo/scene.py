"""The keeper's workbench in Vellmar: a great dial, gears, enamel planets, and a hot lamp.

Circles show wrong shapes at once, the lamp and its reflections hold HDR light, the enamel
holds colours outside BT.709, the engraved scales hold fine detail. Light is linear BT.2020.
"""

from functools import lru_cache

import numpy as np

from .canvas import Canvas, Colour, Real

TAU = 2 * np.pi
BRASS: Colour = (38.0, 22.0, 6.0)
STEEL: Colour = (20.0, 22.0, 25.0)
PLANETS: tuple[tuple[float, float, float, Colour], ...] = (
    # orbit, size, turns in the piece, enamel
    (0.155, 0.030, 0.50, (96.0, 4.0, 2.0)),
    (0.235, 0.042, 0.31, (2.0, 52.0, 34.0)),
    (0.320, 0.052, -0.22, (3.0, 8.0, 74.0)),
    (0.400, 0.036, 0.17, (120.0, 66.0, 3.0)),
)
GEARS: tuple[tuple[float, float, float, int, float], ...] = (
    # x and y (heights from the centre; x is measured from the right edge inwards), radius,
    # teeth, turns in the piece
    (0.30, 0.17, 0.200, 36, 0.25),
    (0.585, 0.245, 0.120, 21, -0.428),
    (0.16, -0.115, 0.105, 18, -0.5),
)
LAMP = (0.17, -0.33)


def render(width: int, height: int, *, aspect: float, moment: float, peak_nits: float) -> Real:
    """Return one frame in linear light, (row, column, channel) in cd/m².

    aspect: shown shape, width ÷ height. moment: 0 to 1 through the piece. peak_nits: the
    brightest light that the lamp reaches.
    """
    canvas = Canvas(width, height, aspect=aspect)
    canvas.light[:] = _backdrop(width, height, aspect)
    left, right = -aspect / 2, aspect / 2
    dial(canvas, left + 0.52, 0.0, moment)
    for x, y, radius, teeth, turns in GEARS:
        gear(canvas, right - x, y, radius, teeth=teeth, angle=TAU * turns * moment)
    lamp(canvas, _lamp_place(aspect), peak_nits, moment)
    return np.clip(canvas.light, 0.0, peak_nits)


def _lamp_place(aspect: float) -> tuple[float, float]:
    return -aspect / 2 + LAMP[0] + aspect * 0.42, LAMP[1]


@lru_cache(maxsize=2)
def _backdrop(width: int, height: int, aspect: float) -> Real:
    """Return what stands still: the wall and the rule."""
    canvas = Canvas(width, height, aspect=aspect)
    wall(canvas, _lamp_place(aspect))
    ruler(canvas, -aspect / 2 + 1.04, aspect / 2 - 0.04, 0.43)
    return canvas.light


def wall(canvas: Canvas, lamp: tuple[float, float]) -> None:
    """Lay a dark wall with the lamp's fall-off over it: a long smooth gradient."""
    patch = canvas.whole()
    distance = np.hypot(patch.x - lamp[0], patch.y - lamp[1])
    fall = 24.0 / (1.0 + (distance / 0.16) ** 2) + 0.35
    grain = 1 + 0.06 * np.sin(38 * patch.y + 2.2 * np.sin(9 * patch.x))
    canvas.glow(patch, (fall * grain).astype(np.float32), (0.62, 0.50, 0.40))


def sheen(x: Real, y: Real, angle: float, colour: Colour, strength: float) -> Real:
    """Return brushed metal: light that gathers in two opposite sectors round a centre."""
    around = np.arctan2(y, x)
    bright = 0.55 + strength * np.maximum(np.cos(2 * (around - angle)), 0.0) ** 6
    return (bright[..., None] * np.asarray(colour, dtype=np.float32)).astype(np.float32)


def ring(canvas: Canvas, x: float, y: float, radius: float, width: float, colour: Colour) -> None:
    patch = canvas.patch(x, y, radius + width)
    distance = np.abs(np.hypot(patch.x, patch.y) - radius) - width / 2
    canvas.paint(patch, patch.coverage(distance), colour)


def dial(canvas: Canvas, x: float, y: float, moment: float) -> None:
    """Draw the great dial: brass disc, engraved degrees, orbits, and enamel planets."""
    patch = canvas.patch(x, y, 0.47)
    radius, around = np.hypot(patch.x, patch.y), np.arctan2(patch.y, patch.x)
    canvas.paint(patch, patch.coverage(radius - 0.465), sheen(patch.x, patch.y, -0.9, BRASS, 2.4))
    canvas.paint(patch, patch.coverage(radius - 0.425), (1.1, 1.2, 1.6))
    for count, inner, thick in ((120, 0.437, 0.0010), (24, 0.430, 0.0022)):
        phase = np.abs((around * count / TAU) % 1.0 - 0.5) * TAU / count * radius
        mark = np.maximum(phase - thick, np.maximum(inner - radius, radius - 0.458))
        canvas.paint(patch, patch.coverage(mark), (2.0, 1.2, 0.5))
    for orbit, size, turns, enamel in PLANETS:
        ring(canvas, x, y, orbit, 0.0032, (9.0, 7.5, 4.0))
        angle = TAU * turns * moment + orbit * 17
        _planet(canvas, x + orbit * np.cos(angle), y + orbit * np.sin(angle), size, enamel)
    _planet(canvas, x, y, 0.062, (240.0, 150.0, 30.0))


def _planet(canvas: Canvas, x: float, y: float, size: float, enamel: Colour) -> None:
    """Draw an enamelled ball with a hot reflection of the lamp."""
    patch = canvas.patch(x, y, size * 1.1)
    radius = np.hypot(patch.x, patch.y) / size
    shade = np.sqrt(np.maximum(1 - radius**2, 0.0)) * 0.8 + 0.2
    lit = shade[..., None] * np.asarray(enamel, dtype=np.float32)
    canvas.paint(patch, patch.coverage((radius - 1) * size), lit)
    spot = np.hypot(patch.x + 0.32 * size, patch.y + 0.38 * size) / (0.22 * size)
    canvas.glow(patch, np.exp(-(spot**2)).astype(np.float32), (260.0, 235.0, 200.0))


def gear(canvas: Canvas, x: float, y: float, radius: float, *, teeth: int, angle: float) -> None:
    """Draw a brass gear with spokes; its rim is a circle, so wrong shapes show at once."""
    patch = canvas.patch(x, y, radius * 1.12)
    distance, around = np.hypot(patch.x, patch.y), np.arctan2(patch.y, patch.x) - angle
    tooth = np.clip(np.cos(around * teeth) * 3.0, -1.0, 1.0)
    outline = distance - radius * (1 + 0.05 * tooth)
    canvas.paint(patch, patch.coverage(outline), sheen(patch.x, patch.y, -0.6, BRASS, 3.2))
    spoke = np.abs(np.sin(around * 2.5)) * distance - radius * 0.11
    window = np.maximum(np.maximum(distance - radius * 0.78, radius * 0.30 - distance), -spoke)
    canvas.paint(patch, patch.coverage(window), (1.4, 1.2, 1.1))
    canvas.paint(patch, patch.coverage(distance - radius * 0.12), STEEL)
    ring(canvas, x, y, radius * 0.86, 0.0026, (70.0, 46.0, 16.0))


def ruler(canvas: Canvas, start: float, end: float, y: float) -> None:
    """Draw an engraved steel rule whose lines grow finer to the right."""
    patch = canvas.whole()
    inside = np.maximum(np.abs(patch.y - y) - 0.034, np.maximum(start - patch.x, patch.x - end))
    canvas.paint(patch, patch.coverage(inside), (42.0, 44.0, 47.0))
    along = (patch.x - start) / (end - start)
    frequency = 16 + 90 * along
    wave = np.cos(TAU * (16 * along + 45 * along**2) * (end - start) * 2.2)
    lines = np.clip(wave * 2, 0, 1) * (np.abs(patch.y - y + 0.008) < 0.02) * (frequency > 0)
    engraved = (lines * patch.coverage(inside + 0.006)).astype(np.float32)
    canvas.paint(patch, engraved * 0.85, (4.0, 4.0, 4.5))


def lamp(canvas: Canvas, at: tuple[float, float], peak_nits: float, moment: float) -> None:
    """Draw the lamp: a bulb near the peak, a halo, a shade, and an arm."""
    x, y = at
    flicker = 0.94 + 0.06 * np.cos(TAU * 3 * moment)
    arm = canvas.patch(x, y - 0.12, 0.13)
    canvas.paint(arm, arm.coverage(np.abs(arm.x) - 0.008), STEEL)
    patch = canvas.patch(x, y, 0.30)
    distance = np.hypot(patch.x, patch.y)
    fade = np.clip(1 - distance / 0.30, 0.0, 1.0) ** 2
    halo = 60.0 * np.exp(-((distance / 0.075) ** 2)) + 9.0 * np.exp(-((distance / 0.16) ** 2))
    canvas.glow(patch, (halo * fade * flicker).astype(np.float32), (1.0, 0.80, 0.55))
    hood = canvas.patch(x, y, 0.10)
    slope = np.maximum(
        np.abs(hood.x) - (0.075 + 0.6 * (hood.y + 0.02)), np.abs(hood.y + 0.045) - 0.026
    )
    canvas.paint(hood, hood.coverage(slope), (9.0, 30.0, 16.0))
    bulb = canvas.patch(x, y + 0.012, 0.05)
    core = np.hypot(bulb.x, bulb.y)
    heat = np.clip(1.15 - (core / 0.034) ** 2 * 0.9, 0.05, 1.0) * peak_nits * flicker
    light = heat[..., None] * np.array([1.0, 0.86, 0.66], dtype=np.float32)
    canvas.paint(bulb, bulb.coverage(core - 0.034), light.astype(np.float32))
