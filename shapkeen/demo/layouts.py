"""Acts that injure spheres and pictures for two eyes."""

import numpy as np

from .coding import Codes, Planes

SHIFT, FOG = 10, 40


def turned_round(planes: Planes) -> Planes:
    """Return a sphere whose content went right by a quarter."""
    y, cb, cr = (np.roll(plane, plane.shape[1] // 4, axis=1) for plane in planes)
    return y, cb, cr


def opened_seam(planes: Planes) -> Planes:
    """Return a sphere under a filter that stops at the frame's edge and lightens the left one."""
    y, cb, cr = planes
    fog = 0.35 * np.exp(-np.arange(y.shape[1]) / FOG)
    lifted = y + (200 - y) * fog
    return np.asarray(np.clip(np.floor(lifted + 0.5), 16, 235), np.uint16), cb, cr


def _eyes(plane: Codes) -> tuple[Codes, Codes]:
    middle = plane.shape[1] // 2
    return plane[:, :middle], plane[:, middle:]


def exchanged(planes: Planes) -> Planes:
    """Return both eyes in each other's place."""
    y, cb, cr = (np.concatenate(_eyes(plane)[::-1], axis=1) for plane in planes)
    return y, cb, cr


def repeated(planes: Planes) -> Planes:
    """Return the left eye in both places."""
    y, cb, cr = (np.concatenate([_eyes(plane)[0]] * 2, axis=1) for plane in planes)
    return y, cb, cr


def top_bottom(planes: Planes) -> Planes:
    """Return the left eye over the right one."""
    y, cb, cr = (np.concatenate(_eyes(plane), axis=0) for plane in planes)
    return y, cb, cr


def shifted(planes: Planes) -> Planes:
    """Return the right eye moved to the right, black where it leaves nothing."""
    made = []
    for plane, black, by in zip(
        planes, (16, 128, 128), (SHIFT, SHIFT // 2, SHIFT // 2), strict=True
    ):
        left, right = _eyes(plane)
        moved = np.roll(right, by, axis=1)
        moved[:, :by] = black
        made.append(np.concatenate([left, moved], axis=1))
    return made[0], made[1], made[2]
