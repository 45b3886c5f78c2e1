"""Waveform: luma codes along the width of one frame, expected and delivered beside each other."""

import numpy as np

from ...colour.coding import Coding, Triples, light_from_signal, signal_from_codes
from ...measured import WavePair
from . import svg
from .axes import Axis, axes_attribute
from .gamut import cells

WIDTH, HEIGHT, LEFT, TOP, GAP = 230.0, 200.0, 40.0, 24.0, 16.0
CODES = 1024
TICKS = (64, 256, 512, 768, 940)
MARKS_NITS = (1, 10, 100, 203, 1000)


def y_of(code: float) -> float:
    """Return the height of a code on the axis."""
    return TOP + HEIGHT * (1 - code / CODES)


def wave_figure(wave: WavePair, coding: Coding) -> str:
    """Return the drawing, with codes at the left and, where coding is known, light at the right."""
    parts = []
    for panel, (name, counts) in enumerate(
        (("expected", wave.expected), ("delivered", wave.delivered))
    ):
        left = LEFT + panel * (WIDTH + GAP)
        parts.append(svg.text(name, left + 2, TOP - 8, class_="axis"))
        parts.append(svg.rect(left, TOP, WIDTH, HEIGHT, class_="frame"))
        parts += cells(counts, left=left, top=TOP, size=HEIGHT, width=WIDTH)
        for code in (64, 940):
            parts.append(svg.line(left, y_of(code), left + WIDTH, y_of(code), class_="limit"))
    parts += [svg.text(str(code), LEFT - 5, y_of(code) + 4, class_="tick end") for code in TICKS]
    right = LEFT + 2 * WIDTH + GAP
    light = light_by_code(coding)
    if light is not None:
        parts.append(svg.text("cd/m²", right + 4, TOP - 8, class_="axis"))
        for nits in MARKS_NITS:
            if light[0] < nits < light[-1]:
                y = y_of(float(np.interp(nits, light, np.arange(CODES))))
                parts.append(svg.line(right, y, right + 4, y, class_="frame"))
                parts.append(svg.text(str(nits), right + 6, y + 4, class_="tick"))
    parts.append(
        svg.text(f"frame {wave.frame}, left to right", LEFT, TOP + HEIGHT + 16, class_="axis")
    )
    return svg.drawing(
        right + 40,
        TOP + HEIGHT + 24,
        *parts,
        label=f"Waveform of frame {wave.frame}: luma codes, expected and delivered",
        class_="sk-figure wide",
        data_axes=axes_attribute(_across(), _up(light)),
        data_period=f"{WIDTH + GAP:g}",
    )


def _across() -> Axis:
    return Axis("at", "of the width", LEFT, LEFT + WIDTH, lambda x: (x - LEFT) / WIDTH, 2)


def _up(light: Triples | None) -> Axis:
    def code_at(y: float) -> float:
        return (TOP + HEIGHT - y) / HEIGHT * CODES

    if light is None:
        return Axis("code", "of 1023", TOP + HEIGHT, TOP, code_at)
    table = light
    return Axis(
        "light",
        "cd/m²",
        TOP + HEIGHT,
        TOP,
        lambda y: float(np.interp(code_at(y), np.arange(CODES), table)),
        1,
    )


def light_by_code(coding: Coding) -> Triples | None:
    """Return the light of a grey of every code, cd/m²; None where the coding is not known."""
    if not coding.is_known:
        return None
    codes = np.stack([np.arange(CODES), np.full(CODES, 512), np.full(CODES, 512)], axis=-1)
    signal = np.clip(signal_from_codes(codes.astype(np.float64), coding), 0, 1)
    return light_from_signal(signal, coding.transfer)[:, 1]
