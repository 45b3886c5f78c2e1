"""What is painted over a picture: bars, a timecode, a mark in the corner, subtitles."""

from collections.abc import Sequence

import cv2
import numpy as np

from .media import Planes

WHITE_8 = 235


def painted(planes: Sequence[Planes], *, top=0.0, bottom=0.0, left=0.0, right=0.0) -> list[Planes]:
    """Return planes with black bars over so large a share of the height and the width."""
    made = []
    for item in planes:
        parts = []
        for number, plane in enumerate(item):
            drawn, (height, width) = plane.copy(), plane.shape
            bars = (
                np.s_[: _even(top, height, number)],
                np.s_[height - _even(bottom, height, number) :],
                np.s_[:, : _even(left, width, number)],
                np.s_[:, width - _even(right, width, number) :],
            )
            for bar in bars:
                drawn[bar] = 128 if number else 16
            parts.append(drawn)
        made.append(tuple(parts))
    return made


def _even(share: float, side: int, number: int) -> int:
    whole = side * 2 if number else side
    samples = round(whole * share / 2) * 2
    return samples // 2 if number else samples


def written(planes: Sequence[Planes], text: str, *, at: tuple[float, float], high: float, box=True):
    """Return planes with a line of white letters, in a black box or outlined; "%d" counts frames.

    at: left and lower edge, shares of the picture; high: height of the letters, share of it.
    """
    made = []
    for number, item in enumerate(planes):
        words = text % number if "%" in text else text
        y, cb, cr = (plane.copy() for plane in item)
        height, width = y.shape
        scale = high * height / 22
        place = (round(at[0] * width), round(at[1] * height))
        (wide, up), low = cv2.getTextSize(words, cv2.FONT_HERSHEY_SIMPLEX, scale, 2)
        mask = np.zeros(y.shape, np.uint8)
        if box:
            corner = (place[0] + wide + 6, place[1] + low + 4)
            cv2.rectangle(mask, (place[0] - 6, place[1] - up - 6), corner, 1, -1)
        else:
            cv2.putText(mask, words, place, cv2.FONT_HERSHEY_SIMPLEX, scale, 1, 6, cv2.LINE_AA)
        y[mask > 0] = 16
        small = cv2.resize(mask, (cb.shape[1], cb.shape[0]), interpolation=cv2.INTER_NEAREST)
        cb[small > 0], cr[small > 0] = 128, 128
        letters = np.zeros(y.shape, np.uint8)
        cv2.putText(letters, words, place, cv2.FONT_HERSHEY_SIMPLEX, scale, 1, 2)
        y[letters > 0] = WHITE_8
        made.append((y, cb, cr))
    return made


def marked(planes: Sequence[Planes], *, share: float = 0.16) -> list[Planes]:
    """Return planes with a disc and a ring in the upper right corner, a share of the width wide."""
    made = []
    for item in planes:
        y, cb, cr = (plane.copy() for plane in item)
        width = y.shape[1]
        radius = round(width * share / 2)
        middle = (round(width - 1.4 * radius), round(1.4 * radius))
        y8 = y.astype(np.uint8)
        cv2.circle(y8, middle, radius, 200, -1)
        cv2.circle(y8, middle, radius // 2, 40, max(radius // 6, 1))
        for plane, code in ((cb, 100), (cr, 170)):
            small = np.zeros(plane.shape, np.uint8)
            cv2.circle(small, (middle[0] // 2, middle[1] // 2), radius // 2, 1, -1)
            plane[small > 0] = code
        made.append((y8.astype(np.uint16), cb, cr))
    return made
