"""The expected picture: the master's planes taken through the conversion that was promised.

Light and colours are converted in linear light (ITU-R BT.2100-2, BT.1886, H.273), range by its
exact factors. Everything that compares an export compares it with this, never with the raw
master: so a promised conversion is no injury, and one that was not made is one.
"""

import cv2
import numpy as np

from ...colour.codepoints import HDR_TRANSFERS
from ...colour.coding import (
    SDR_WHITE_NITS,
    Coding,
    Triples,
    codes_from_signal,
    light_from_signal,
    signal_from_codes,
    signal_from_light,
)
from ...colour.matrix import WEIGHTS
from ...colour.packed_table import unpacked
from ...colour.primaries import between
from ...colour.tone_maps import folded_light
from ..decoded.grid import Real

SDR_WHITE_IN_HDR_NITS = 203.0
"""Light of SDR's white inside HDR: ITU-R BT.2408."""
FOLDED_PEAK_NITS = 1000.0
"""Of HDR that is folded: brighter light becomes SDR's white."""


def can_convert(own: Coding, goal: Coding) -> bool:
    """Return whether the way from one coding to another is known."""
    if goal.table:
        return own.matrix in WEIGHTS and goal.matrix in WEIGHTS
    if (own.transfer, own.primaries, own.matrix) == (goal.transfer, goal.primaries, goal.matrix):
        return True
    return own.is_known and goal.is_known


def folds(own: Coding, goal: Coding) -> bool:
    """Return whether HDR becomes SDR: a matter of taste, of which one ordinary way is expected."""
    if goal.table:
        return False  # the table says exactly how
    return own.transfer in HDR_TRANSFERS and goal.transfer not in HDR_TRANSFERS


def _folded(light: Triples) -> Triples:
    """Return HDR light as an ordinary fold makes SDR's of it, up to SDR_WHITE_NITS.

    By ITU-R BT.2390-8's roll-off of each of R, G, B to SDR's white inside HDR (BT.2408): pictures
    folded otherwise are like it in structure, which is what this one is held against.
    """
    low = folded_light(light, white=SDR_WHITE_IN_HDR_NITS, peak=FOLDED_PEAK_NITS)
    return low * (SDR_WHITE_NITS / SDR_WHITE_IN_HDR_NITS)


def expected_planes(planes: dict[str, Real], own: Coding, goal: Coding) -> dict[str, Real]:
    """Return luma, cb and cr, 10-bit codes as coded one way, as they should be coded the other.

    planes: chroma of any size beside luma's; its own size comes back.
    """
    luma = planes["luma"]
    size = (luma.shape[1], luma.shape[0])
    wide = [cv2.resize(planes[name], size) for name in ("cb", "cr")]
    codes = np.stack([luma, *wide], axis=-1).astype(np.float64)
    made = converted(codes, own, goal).astype(np.float32)
    small = (planes["cb"].shape[1], planes["cb"].shape[0])
    cb, cr = (
        np.asarray(cv2.resize(made[..., i], small, interpolation=cv2.INTER_AREA), dtype=np.float32)
        for i in (1, 2)
    )
    return {"luma": made[..., 0], "cb": cb, "cr": cr}


def converted(codes: Triples, own: Coding, goal: Coding) -> Triples:
    """Return triples (…, 3) of 10-bit codes as they should be coded another way, not rounded."""
    if goal.table:
        signal = np.clip(signal_from_codes(codes, own), 0.0, 1.0)
        return codes_from_signal(unpacked(goal.table).apply(signal), goal)
    if (own.transfer, own.primaries, own.matrix) == (goal.transfer, goal.primaries, goal.matrix):
        return codes if own.full_range == goal.full_range else _ranged(codes, goal)
    signal = np.clip(signal_from_codes(codes, own), 0.0, 1.0)
    if (own.transfer, own.primaries) != (goal.transfer, goal.primaries):
        light = light_from_signal(signal, own.transfer)
        if own.transfer not in HDR_TRANSFERS and goal.transfer in HDR_TRANSFERS:
            light = light * (SDR_WHITE_IN_HDR_NITS / SDR_WHITE_NITS)
        if folds(own, goal):
            light = _folded(light)
        there = np.maximum(light @ between(own.primaries, goal.primaries).T, 0.0)
        signal = signal_from_light(there, goal.transfer)
    return codes_from_signal(signal, goal)


def _ranged(codes: Triples, goal: Coding) -> Triples:
    """Return codes of one range in the other: ITU-R BT.2100-2 table 9."""
    luma, chroma = codes[..., :1], codes[..., 1:] - 512
    if goal.full_range:
        return np.concatenate([(luma - 64) * 1023 / 876, 512 + chroma * 1023 / 896], axis=-1)
    return np.concatenate([64 + luma * 876 / 1023, 512 + chroma * 896 / 1023], axis=-1)
