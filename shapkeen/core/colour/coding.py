"""Between code triples and R'G'B', and between R'G'B' and light, by a picture's own codes.

Sources: ITU-R BT.2100-2 tables 4, 5 and 9; ITU-R BT.1886; IEC 61966-2-1; H.273 tables 2 to 4.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from . import hlg, pq, sdr
from .matrix import WEIGHTS, rgb_from_ycbcr, ycbcr_from_rgb
from .primaries import CHROMATICITIES
from .quantisation import chroma_zero_span, luma_offset_span

PQ, HLG, SRGB, LINEAR = 16, 18, 13, 8
HLG_PEAK_NITS = 1000.0
SDR_WHITE_NITS = 100.0
DEPTH = 10
Triples = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Coding:
    """How triples of 10-bit codes are meant: H.273 codes and the range.

    table: of a goal, the look-up table that leads to it in place of light, packed as text
    (packed_table.py); empty where light itself is converted.
    """

    transfer: int
    primaries: int
    matrix: int
    full_range: bool
    table: str = ""

    @property
    def is_known(self) -> bool:
        """Return whether matrix and primaries are ones that can be calculated with."""
        return self.matrix in WEIGHTS and self.primaries in CHROMATICITIES


def _scales(coding: Coding) -> tuple[Triples, Triples]:
    black, span = luma_offset_span(depth=DEPTH, full_range=coding.full_range)
    zero, chroma = chroma_zero_span(depth=DEPTH, full_range=coding.full_range)
    return np.array([black, zero, zero], float), np.array([span, chroma, chroma], float)


def signal_from_codes(codes: Triples, coding: Coding) -> Triples:
    """Return R'G'B' (…, 3), nominally 0..1 and not clipped, of Y'CbCr codes on the 10-bit scale."""
    offset, scale = _scales(coding)
    return np.asarray((codes - offset) / scale @ rgb_from_ycbcr(coding.matrix).T)


def codes_from_signal(signal: Triples, coding: Coding) -> Triples:
    """Return Y'CbCr codes (…, 3) on the 10-bit scale, not rounded, of R'G'B'."""
    offset, scale = _scales(coding)
    return np.asarray(signal @ ycbcr_from_rgb(coding.matrix).T * scale + offset)


def light_from_signal(signal: Triples, transfer: int) -> Triples:
    """Return display light (…, 3) in cd/m² of R'G'B'.

    HLG on a display of 1000 cd/m², SDR on one of 100 with BT.1886's exponent and black at 0.
    """
    if transfer == PQ:
        return pq.light_from_signal(signal)
    if transfer == HLG:
        return hlg.display_from_scene(hlg.scene_from_signal(signal), peak_nits=HLG_PEAK_NITS)
    if transfer == SRGB:
        return sdr.srgb_light_from_signal(signal) * SDR_WHITE_NITS
    if transfer == LINEAR:
        return np.asarray(signal * SDR_WHITE_NITS)
    return sdr.bt1886_light_from_signal(signal, white_nits=SDR_WHITE_NITS)


def signal_from_light(light: Triples, transfer: int, *, white: float = SDR_WHITE_NITS) -> Triples:
    """Return R'G'B' (…, 3) of display light in cd/m²; what exceeds the signal is cut at 1.

    white: light of SDR's signal 1. The inverse of `light_from_signal` where nothing is cut.
    """
    if transfer == PQ:
        return pq.signal_from_light(light)
    if transfer == HLG:
        scene = hlg.scene_from_display(light, peak_nits=HLG_PEAK_NITS)
        return np.clip(hlg.signal_from_scene(scene), 0.0, 1.0)
    share = np.clip(light / white, 0.0, 1.0)
    if transfer == SRGB:
        return sdr.srgb_signal_from_light(share)
    if transfer == LINEAR:
        return np.asarray(share)
    return sdr.bt1886_signal_from_light(share, white_nits=1.0)
