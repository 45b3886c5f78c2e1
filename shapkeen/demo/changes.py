"""Acts that injure a picture's code values, each as it happens in a finishing room."""

from collections.abc import Callable

import cv2
import numpy as np

from ..core.colour.coding import (
    Coding,
    Triples,
    light_from_signal,
    signal_from_codes,
    signal_from_light,
)
from ..core.colour.primaries import between
from . import layouts
from .canvas import Real
from .coding import Codes, Planes, planes_from_signal
from .recipes import SQUEEZE

Change = Callable[[Planes], Planes]


def _on_luma_and_chroma(
    luma: Callable[[Real], Real], chroma: Callable[[Real], Real] | None, top: int
) -> Change:
    """Return a change of code values, rounded and kept within the depth."""

    def change(planes: Planes) -> Planes:
        chroma_of = chroma or (lambda codes: codes)
        changed: list[Real] = [luma(planes[0].astype(np.float64))]
        changed += [chroma_of(plane.astype(np.float64)) for plane in planes[1:]]
        y, cb, cr = (np.clip(np.floor(p + 0.5), 0, top).astype(np.uint16) for p in changed)
        return y, cb, cr

    return change


SQUEEZED_RANGE = _on_luma_and_chroma(
    lambda y: 64 + y * 876 / 1023, lambda c: 512 + (c - 512) * 896 / 1023, 1023
)
DARKER = _on_luma_and_chroma(
    lambda y: 64 + 876 * np.clip((y - 64) / 876, 0, 1.1) ** 1.2, None, 1023
)
EIGHT_BIT_LEVELS = _on_luma_and_chroma(lambda y: 4 * np.floor(y / 4 + 0.5), None, 1023)


def _resized(plane: Codes, width: int, height: int) -> Codes:
    way = cv2.INTER_AREA if height < plane.shape[0] else cv2.INTER_CUBIC
    drawn = cv2.resize(plane.astype(np.float32), (width, height), interpolation=way)
    return np.asarray(np.clip(np.floor(drawn + 0.5), 0, 255), dtype=np.uint16)


def widened(planes: Planes) -> Planes:
    """Return the picture resampled to square samples."""
    height, width = planes[0].shape
    wide = round(width * float(SQUEEZE)) // 4 * 4
    y, cb, cr = (
        _resized(plane, w, h)
        for plane, w, h in zip(
            planes, (wide, wide // 2, wide // 2), (height, height // 2, height // 2), strict=True
        )
    )
    return y, cb, cr


def fitted_with_bars(planes: Planes) -> Planes:
    """Return the picture in square samples inside its old raster, with black bars."""
    blacks = (16, 128, 128)
    drawn = []
    for plane, black in zip(planes, blacks, strict=True):
        height, width = plane.shape
        high = round(height / float(SQUEEZE)) // 4 * 4
        top = (height - high) // 2
        canvas = np.full_like(plane, black)
        canvas[top : top + high] = _resized(plane, width, high)
        drawn.append(canvas)
    return drawn[0], drawn[1], drawn[2]


def _scaled(scale: float, way: int) -> Change:
    """Return a change of the raster; chroma follows."""

    def change(planes: Planes) -> Planes:
        y, cb, cr = (_scaled_plane(plane, scale, way) for plane in planes)
        return y, cb, cr

    return change


def _scaled_plane(plane: Codes, scale: float, way: int) -> Codes:
    height, width = (round(side * scale) for side in plane.shape)
    drawn = cv2.resize(plane.astype(np.float32), (width, height), interpolation=way)
    return np.asarray(np.clip(np.floor(drawn + 0.5), 0, 255), dtype=np.uint16)


def _overlaid(
    part: tuple[float, float], size: tuple[int, int], frame: tuple[int, int] | None = None
) -> Change:
    """Return a change that lays a part of the picture's width (from, to; 0 to 1) into a size, and
    that into the middle of a black frame."""

    def change(planes: Planes) -> Planes:
        y, cb, cr = (
            _overlaid_plane(plane, part, size, frame or size, half)
            for plane, half in zip(planes, (1, 2, 2), strict=True)
        )
        return y, cb, cr

    return change


def _overlaid_plane(
    plane: Codes,
    part: tuple[float, float],
    size: tuple[int, int],
    frame: tuple[int, int],
    half: int,
) -> Codes:
    left, right = (round(plane.shape[1] * edge) for edge in part)
    width, height = size[0] // half, size[1] // half
    canvas = np.full((frame[1] // half, frame[0] // half), 16 if half == 1 else 128, np.uint16)
    top, side = (canvas.shape[0] - height) // 2, (canvas.shape[1] - width) // 2
    canvas[top : top + height, side : side + width] = _resized(plane[:, left:right], width, height)
    return canvas


def half_and_back(planes: Planes) -> Planes:
    """Return the picture made half as large and enlarged again."""
    return _scaled(2.0, cv2.INTER_CUBIC)(_scaled(0.5, cv2.INTER_AREA)(planes))


def softened(planes: Planes) -> Planes:
    """Return the picture under a filter for noise that took too much."""
    y, cb, cr = (
        np.asarray(np.floor(cv2.GaussianBlur(p.astype(np.float32), (0, 0), 1.3) + 0.5), np.uint16)
        for p in planes
    )
    return y, cb, cr


def _on_signal(act: Callable[[Triples], Triples]) -> Change:
    """Return a change of an HDR picture's R'G'B', as an editing program would make it."""

    def change(planes: Planes) -> Planes:
        height, width = planes[0].shape
        chroma = [
            cv2.resize(p.astype(np.float64), (width, height), interpolation=cv2.INTER_LINEAR)
            for p in planes[1:]
        ]
        codes = np.stack([planes[0].astype(np.float64), *chroma], axis=-1)
        signal = np.clip(signal_from_codes(codes, MASTERED), 0.0, 1.0)
        return planes_from_signal(act(signal).astype(np.float32), matrix=9, depth=10)

    return change


MASTERED = Coding(transfer=16, primaries=9, matrix=9, full_range=False)
SMALLER_GAMUT = _on_signal(
    lambda signal: signal_from_light(
        np.maximum(light_from_signal(signal, 16) @ between(9, 1).T, 0.0), 16
    )
)
HYBRID_LOG = _on_signal(lambda signal: signal_from_light(light_from_signal(signal, 16), 18))
FROM_HYBRID_LOG = _on_signal(lambda signal: signal_from_light(light_from_signal(signal, 18), 16))
CUT_HIGHLIGHTS = _on_signal(
    lambda signal: np.minimum(signal, float(signal_from_light(np.array(200.0), 16)))
)


def _with_still(signal: Triples) -> Triples:
    """Return the picture with the engraved scale's SDR signals where PQ's should be."""
    height, width = signal.shape[:2]
    part = np.s_[int(0.88 * height) : int(0.98 * height), int(0.58 * width) : int(0.99 * width)]
    made = signal.copy()
    light = light_from_signal(signal[part], 16)
    made[part] = signal_from_light(light, 1, white=SDR_WHITE_NITS)
    return made


SDR_WHITE_NITS = 203.0
UNCONVERTED_STILL = _on_signal(_with_still)

CHANGES: dict[str, Change] = {
    "squeezed range": SQUEEZED_RANGE,
    "darker": DARKER,
    "eight-bit levels": EIGHT_BIT_LEVELS,
    "smaller gamut": SMALLER_GAMUT,
    "hybrid log": HYBRID_LOG,
    "cut highlights": CUT_HIGHLIGHTS,
    "to pq": FROM_HYBRID_LOG,
    "unconverted still": UNCONVERTED_STILL,
    "widened": widened,
    "fitted with bars": fitted_with_bars,
    "half size and back": half_and_back,
    "samples repeated": _scaled(2.0, cv2.INTER_NEAREST),
    "a third larger": _scaled(4 / 3, cv2.INTER_CUBIC),
    "softened": softened,
    "lowered": _overlaid((0, 1), (1280, 540)),
    "letterboxed": _overlaid((0, 1), (960, 400), (960, 540)),
    "squashed": _overlaid((0, 1), (960, 540)),
    "twice as large": _scaled(2.0, cv2.INTER_CUBIC),
    "upright": _overlaid((0.2, 0.2 + 1 / 3), (720, 900)),
    "upright, middle": _overlaid((1 / 3, 2 / 3), (720, 900)),
    "turned round": layouts.turned_round,
    "open seam": layouts.opened_seam,
    "eyes exchanged": layouts.exchanged,
    "right eye shifted": layouts.shifted,
    "one eye twice": layouts.repeated,
    "one eye over the other": layouts.top_bottom,
}
