"""Sphere: the seam and both poles made large, of master and export, and the step along the seam."""

import base64
from collections.abc import Callable

import cv2
import numpy as np

from ...measured import SphereEnlargements, SphereFindings
from ...measured.model.sphere import Rows
from . import svg
from .axes import Axis, axes_attribute

LEFT, TOP, HEAD = 34.0, 22.0, 16.0
SEAM_WIDTH, SEAM_HEIGHT, POLE, GAP = 66.0, 190.0, 60.0, 8.0
PLOT_LEFT, PLOT_WIDTH = LEFT + 2 * (SEAM_WIDTH + GAP) + 6, 96.0
LEAST_REACH = 20.0
"""10-bit codes: the plot's axis reaches at least so far, so that noise looks like noise."""


def sphere_figure(found: SphereFindings, limit: float) -> str:
    """Return the drawing. limit: step at the seam ÷ elsewhere, from which it is called open."""
    if found.views is None:
        return ""
    parts: list[str] = []
    for index, (views, name) in enumerate(zip(found.views, ("master", "export"), strict=True)):
        parts += _seam(views, LEFT + index * (SEAM_WIDTH + GAP), name)
    parts += _latitudes()
    parts += _steps(found, limit)
    below = TOP + SEAM_HEIGHT + HEAD + 22
    for index, (views, name) in enumerate(zip(found.views, ("master", "export"), strict=True)):
        parts += _poles(views, LEFT + index * (2 * POLE + 1.5 * GAP), below, name)
    width = LEFT + 4 * POLE + 3 * GAP
    told = (
        f"{found.seam:.1f} codes at the seam, {found.ordinary:.1f} elsewhere"
        if (found.seam is not None and found.ordinary is not None)
        else "seam not measured"
    )
    return svg.drawing(
        width,
        below + POLE + 20,
        *parts,
        label=f"Sphere: {told}",
        class_="sk-figure sphere",
        data_axes=axes_attribute(
            Axis("step", "codes", PLOT_LEFT, PLOT_LEFT + PLOT_WIDTH, _code_at(found), 1),
            Axis("latitude", "°", TOP + SEAM_HEIGHT, TOP, _latitude_at, 0),
        ),
    )


def _latitude_at(y: float) -> float:
    return 90 - (y - TOP) / SEAM_HEIGHT * 180


def _reach(found: SphereFindings) -> float:
    return max(LEAST_REACH, *(abs(step) for _, step in found.rows)) if found.rows else LEAST_REACH


def _code_at(found: SphereFindings) -> Callable[[float], float]:
    reach = _reach(found)
    return lambda x: ((x - PLOT_LEFT) / PLOT_WIDTH - 0.5) * 2 * reach


def _seam(views: SphereEnlargements, left: float, name: str) -> list[str]:
    middle = left + SEAM_WIDTH / 2
    return [
        svg.text(name, left, TOP - 6, class_="axis"),
        _picture(views.seam, left, TOP, SEAM_WIDTH, SEAM_HEIGHT),
        svg.line(middle, TOP - 4, middle, TOP, class_="frame"),
        svg.line(middle, TOP + SEAM_HEIGHT, middle, TOP + SEAM_HEIGHT + 4, class_="frame"),
    ]


def _latitudes() -> list[str]:
    parts = []
    for degrees in (60, 30, 0, -30, -60):
        y = TOP + (90 - degrees) / 180 * SEAM_HEIGHT
        parts.append(svg.line(LEFT - 4, y, LEFT, y, class_="frame"))
        parts.append(svg.text(f"{degrees}°", LEFT - 7, y + 4, class_="tick end"))
    return parts


def _steps(found: SphereFindings, limit: float) -> list[str]:
    """Return the step beyond the master's along the seam, and how far it may go."""
    middle, reach = PLOT_LEFT + PLOT_WIDTH / 2, _reach(found)
    scale = PLOT_WIDTH / 2 / reach
    parts = [
        svg.rect(PLOT_LEFT, TOP, PLOT_WIDTH, SEAM_HEIGHT, class_="frame"),
        svg.line(middle, TOP, middle, TOP + SEAM_HEIGHT, class_="ideal"),
        svg.text("step added", PLOT_LEFT, TOP - 6, class_="axis"),
        svg.text(f"±{reach:.0f} codes", middle, TOP + SEAM_HEIGHT + HEAD, class_="tick middle"),
    ]
    if found.ordinary is not None:
        for sign in (-1, 1):
            x = middle + sign * min(limit * found.ordinary, reach) * scale
            parts.append(svg.line(x, TOP, x, TOP + SEAM_HEIGHT, class_="limit"))
    points = [
        (middle + step * scale, TOP + (90 - degrees) / 180 * SEAM_HEIGHT)
        for degrees, step in found.rows
    ]
    return [*parts, svg.path(points, class_="series")] if len(points) > 1 else parts


def _poles(views: SphereEnlargements, left: float, top: float, name: str) -> list[str]:
    parts = [svg.text(f"{name}: up, down", left, top - 5, class_="axis")]
    for index, rows in enumerate((views.top, views.bottom)):
        parts.append(_picture(rows, left + index * (POLE + GAP / 2), top, POLE, POLE))
    return parts


def _picture(rows: Rows, x: float, y: float, width: float, height: float) -> str:
    """Return luma as an image in the drawing, each sample a square."""
    codes = np.array(rows, np.uint8)
    _, data = cv2.imencode(".png", codes)
    text = base64.b64encode(data.tobytes()).decode()
    return svg.element(
        "image",
        x=x,
        y=y,
        width=width,
        height=height,
        preserveAspectRatio="none",
        href=f"data:image/png;base64,{text}",
    )
