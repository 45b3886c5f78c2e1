"""A rendition's frame as one of the simulated screens shows it, drawn for this one.

An HDR screen's peak is put at this screen's white; what is brighter is rolled off by the EETF of
ITU-R BT.2390. SDR screens that follow tags tone-map HDR likewise; those that follow no tag show
signals as they are, by the power 2.2.
"""

from dataclasses import dataclass, field, replace

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.anaglyph import RED_CYAN, combine
from ...geometry.framing import Size
from ...geometry.packing import parts_of
from ...geometry.sphere import Turn, window_directions
from ...measured import Reading
from ...measured.decoded.frames import Frame
from ...measured.decoded.rgb import rgb_signals
from ..screen import Real, render_rolled_off, render_tone_mapped, render_with_power
from ..stills import png_of, smaller
from .fitting import Fit, Layout, fit_on
from .screens import VIEW_DEG, Screen

MOST = 1600
"""Samples across or down of what is drawn here: no page shows more."""
LINEAR = 2.2
SHRINKS = 0.95
"""Below this scale it is worth the while."""


@dataclass(frozen=True, slots=True, kw_only=True)
class View:
    """Where a viewer looks in a sphere, and with which eye: 0 left, 1 right."""

    turn: Turn = field(default_factory=Turn)
    eye: int = 0


def show(
    frame: Frame, reading: Reading, screen: Screen, layout: Layout, view: View | None = None
) -> bytes:
    """Return a screen's picture as PNG: bars, crop and scaling as the screen adds them."""
    return png_of(shown(frame, reading, screen, layout, view), screen.key)


def shown(
    frame: Frame,
    reading: Reading,
    screen: Screen,
    layout: Layout,
    view: View | None = None,
    *,
    most: int = MOST,
) -> Real:
    """Return a screen's picture (row, column, channel), 0..1, at most so many samples a side."""
    view = view or View()
    fit = fit_on(screen, layout)
    by = min(most / max(fit.screen), 1.0)
    small, layout = _shrunk(frame, layout, fit.scale * by, is_window=fit.is_window)
    lit = _lit(rgb_signals(small, reading), reading, screen)
    if screen.kind == "glasses" and _has_two(layout):
        eyes = [_placed(_eye(lit, layout, one), fit, layout, view, by) for one in (0, 1)]
        left, right = (eye.astype(np.float64) ** LINEAR for eye in eyes)
        both = combine(left, right, RED_CYAN) ** (1 / LINEAR)
        return np.asarray(both, dtype=np.float32)
    return _placed(_eye(lit, layout, view.eye), fit, layout, view, by)


def _shrunk(frame: Frame, layout: Layout, scale: float, *, is_window: bool) -> tuple[Frame, Layout]:
    """Return a frame made smaller where it is drawn smaller: samples first, then colours.

    A matrix is linear, and there are far fewer of them. A sphere is left as it is.
    """
    if is_window or scale > SHRINKS:
        return frame, layout
    across, down = parts_of(layout.packing[0])
    eye = [max(round(side * scale), 1) for side in layout.eye]
    size = (eye[0] * across, eye[1] * down)
    luma, cb, cr = (smaller(plane, size) for plane in (frame.luma, frame.cb, frame.cr))
    return replace(frame, luma=luma, cb=cb, cr=cr), replace(layout, raster=size)


def _lit(signals: Real, reading: Reading, screen: Screen) -> Real:
    if not screen.follows_tags:
        return render_with_power(LINEAR)(signals, reading)
    if screen.peak_nits is not None:
        return render_rolled_off(float(screen.peak_nits))(signals, reading)
    return render_tone_mapped(signals, reading)


def _has_two(layout: Layout) -> bool:
    across, down = parts_of(layout.packing[0])
    return across * down == 2


def _eye(picture: Real, layout: Layout, eye: int) -> Real:
    """Return the samples of one eye; all of a picture of one."""
    across, down = parts_of(layout.packing[0])
    if across * down == 1:
        return picture
    place = eye if layout.packing[1] else 1 - eye
    width, height = layout.eye
    left, top = (place * width, 0) if across == 2 else (0, place * height)
    return picture[top : top + height, left : left + width]


def _placed(eye: Real, fit: Fit, layout: Layout, view: View, by: float) -> Real:
    """Return an eye's picture on the screen, which is drawn so many times as large."""
    size = (round(fit.screen[0] * by), round(fit.screen[1] * by))
    if fit.is_window:
        return _window(eye, size, layout, view)
    wide, high = max(round(fit.width * by), 1), max(round(fit.height * by), 1)
    way = cv2.INTER_AREA if wide < eye.shape[1] else cv2.INTER_CUBIC
    # Clipped, for a cubic kernel overshoots.
    scaled = np.clip(cv2.resize(eye, (wide, high), interpolation=way), 0.0, 1.0)
    out: npt.NDArray[np.float32] = np.zeros((size[1], size[0], 3), np.float32)
    left, top = (size[0] - wide) // 2, (size[1] - high) // 2
    inside = scaled[max(-top, 0) : max(-top, 0) + size[1], max(-left, 0) : max(-left, 0) + size[0]]
    top, left = max(top, 0), max(left, 0)
    out[top : top + inside.shape[0], left : left + inside.shape[1]] = inside
    return out


def _window(eye: Real, size: Size, layout: Layout, view: View) -> Real:
    """Return the window of a sphere that a viewer looks at; behind half a sphere it is black."""
    ways = window_directions(size, VIEW_DEG, view.turn)
    height, width = eye.shape[:2]
    longitude = np.arctan2(ways[..., 0], ways[..., 2])
    latitude = np.arctan2(-ways[..., 1], np.hypot(ways[..., 0], ways[..., 2]))
    x = np.degrees(longitude) / float(layout.across_deg or 360) + 0.5
    y = 0.5 - latitude / np.pi
    round_ = cv2.BORDER_WRAP if layout.across_deg == 360 else cv2.BORDER_CONSTANT
    columns, rows = (x * width - 0.5).astype(np.float32), (y * height - 0.5).astype(np.float32)
    return np.asarray(cv2.remap(eye, columns, rows, cv2.INTER_LINEAR, borderMode=round_))
