"""How far two colours are apart, as viewers see it.

Sources: ICtCp ITU-R BT.2100-2 table 7; ΔE ITP ITU-R BT.2124-0; CIEDE2000: CIE 142-2001, in the
form of Sharma, Wu and Dalal 2005; CIELAB: CIE 15.
"""

import numpy as np
import numpy.typing as npt

from . import pq
from .codepoints import HDR_TRANSFERS
from .primaries import D65

Real = npt.NDArray[np.float64]
LMS = np.array([[1688, 2146, 262], [683, 2951, 462], [99, 309, 3688]]) / 4096
"""BT.2020 linear R, G, B to cone responses."""
ICTCP = np.array([[2048, 2048, 0], [6610, -13613, 7003], [17933, -17390, -543]]) / 4096
"""PQ-coded cone responses to I, Ct, Cp."""


def difference_name(transfer: int) -> str:
    """Return the unit that differences of pictures with this H.273 transfer code are told in."""
    return "ΔE ITP" if transfer in HDR_TRANSFERS else "CIEDE2000"


def ictcp_from_light(light: Real) -> Real:
    """Return I, Ct, Cp (…, 3) of linear BT.2020 light in cd/m² (…, 3), PQ form."""
    return np.asarray(pq.signal_from_light(np.maximum(light @ LMS.T, 0.0)) @ ICTCP.T)


def delta_e_itp(one: Real, other: Real) -> Real:
    """Return ΔE ITP (…) of two colours in linear BT.2020 light, cd/m²; 1 is just visible."""
    moved = ictcp_from_light(one) - ictcp_from_light(other)
    moved = moved * (1.0, 0.5, 1.0)  # T is half of Ct
    return np.asarray(720.0 * np.sqrt((moved**2).sum(axis=-1)))


def lab_from_xyz(xyz: Real) -> Real:
    """Return CIELAB (…, 3) for D65 of XYZ with white at Y = 1."""
    x, y = D65
    share = np.asarray(xyz) / (x / y, 1.0, (1 - x - y) / y)
    root = np.where(share > (6 / 29) ** 3, np.cbrt(share), share / (3 * (6 / 29) ** 2) + 4 / 29)
    fx, fy, fz = root[..., 0], root[..., 1], root[..., 2]
    return np.stack([116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)], axis=-1)


def delta_e_2000(one: Real, other: Real) -> Real:
    """Return CIEDE2000 (…) of two CIELAB colours (…, 3), all weights 1."""
    l1, a1, b1 = (one[..., i] for i in range(3))
    l2, a2, b2 = (other[..., i] for i in range(3))
    mean_c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean_c**7 / (mean_c**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    turn = (h2 - h1 + 180) % 360 - 180
    turn = np.where(grey, 0.0, np.where(turn == -180, 180.0, turn))
    dl, dc = l2 - l1, c2 - c1
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(turn / 2))
    lightness, c = (l1 + l2) / 2, (c1 + c2) / 2
    far = np.abs(h1 - h2) > 180
    middle = np.where(far, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2, (h1 + h2) / 2)
    h = np.radians(np.where(grey, h1 + h2, middle))
    t = (
        1
        - 0.17 * np.cos(h - np.radians(30))
        + 0.24 * np.cos(2 * h)
        + 0.32 * np.cos(3 * h + np.radians(6))
        - 0.20 * np.cos(4 * h - np.radians(63))
    )
    sl = 1 + 0.015 * (lightness - 50) ** 2 / np.sqrt(20 + (lightness - 50) ** 2)
    sc, sh = 1 + 0.045 * c, 1 + 0.015 * c * t
    bend = 30 * np.exp(-(((np.degrees(h) - 275) / 25) ** 2))
    rt = -2 * np.sqrt(c**7 / (c**7 + 25.0**7)) * np.sin(np.radians(2 * bend))
    parts = (dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh)
    return np.asarray(np.sqrt(np.maximum(parts, 0.0)))
