"""Tone: expected code across, delivered up, density of the picture, and the fitted act."""

from collections.abc import Callable

import numpy as np

from ...measured import Fit, ToneFindings
from ...measured.tone.acts import ACTS, powered
from . import svg
from .axes import Axis, axes_attribute
from .gamut import cells

SIZE, MARGIN = 236.0, 40.0
TOP_CODE = 1023.0
TICKS = (0, 256, 512, 768, 1023)


def _x(code: float) -> float:
    return MARGIN + code / TOP_CODE * SIZE


def _y(code: float) -> float:
    return 8 + SIZE - code / TOP_CODE * SIZE


def _curve_of(fit: Fit, *, full_range: bool) -> Callable[[float], float]:
    if fit.exponent is not None:
        exponent = fit.exponent
        return lambda code: float(powered(np.array([code]), exponent, full_range=full_range)[0])
    act = ACTS[fit.act]
    return lambda code: float(act(np.array([float(code)]))[0])


def tone_figure(tone: ToneFindings, *, act: str, full_range: bool) -> str:
    """Return the drawing; `act` names the fitted curve to draw beside the diagonal.

    Codes are on the 10-bit scale. `full_range`: how the master's codes are read.
    """
    parts = [svg.rect(MARGIN, 8, SIZE, SIZE, class_="frame")]
    for code in TICKS:
        parts.append(svg.line(_x(code), 8 + SIZE, _x(code), 12 + SIZE, class_="frame"))
        parts.append(svg.text(str(code), _x(code), 24 + SIZE, class_="tick middle"))
        parts.append(svg.text(str(code), MARGIN - 5, _y(code) + 4, class_="tick end"))
    parts += cells(tone.density, left=MARGIN, top=8, size=SIZE)
    parts.append(svg.line(_x(0), _y(0), _x(TOP_CODE), _y(TOP_CODE), class_="ideal"))
    fit = next((fit for fit in tone.fits if fit.act == act), None)
    if fit is not None and act != "identity":
        curve = _curve_of(fit, full_range=full_range)
        low, high = tone.curve[0][0], tone.curve[-1][0]
        codes = [low + (high - low) * i / 40 for i in range(41)]
        points = [(_x(code), _y(min(max(curve(code), 0), TOP_CODE))) for code in codes]
        parts.append(svg.path(points, class_="fitted"))
    parts.append(svg.text("expected code", MARGIN + SIZE / 2, 42 + SIZE, class_="axis middle"))
    parts.append(svg.text("delivered", MARGIN + 6, 24, class_="axis"))
    label = f"Tone: {tone.blocks} blocks, delivered against expected code"
    return svg.drawing(
        MARGIN + SIZE + 14,
        50 + SIZE,
        *parts,
        label=label,
        class_="sk-figure tone",
        data_axes=axes_attribute(
            Axis("expected", "", MARGIN, MARGIN + SIZE, lambda x: (x - MARGIN) / SIZE * TOP_CODE),
            Axis("delivered", "of 1023", 8 + SIZE, 8, lambda y: (8 + SIZE - y) / SIZE * TOP_CODE),
        ),
    )
