"""Light levels of PQ and HLG pictures. Source: CTA-861.3-A, MaxCLL and MaxFALL.

Per pixel the largest of linear R, G, B in cd/m². MaxCLL is the largest over all pixels and
frames, MaxFALL the largest frame average. Here over the surveyed frames, at full resolution.
"""

from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from ..colour import hlg, pq
from ..colour.codepoints import HLG, PQ
from ..colour.matrix import WEIGHTS, rgb_from_ycbcr
from ..colour.quantisation import chroma_zero_span, luma_offset_span
from .frames import Frame, Plane
from .model import LightLevels, Reading

BINS = 4096
HLG_PEAK_NITS = 1000.0
Real = npt.NDArray[np.float32]


@lru_cache
def _pq_bin_light() -> npt.NDArray[np.float64]:
    return pq.light_from_signal(np.arange(BINS) / (BINS - 1))


def _signals(frame: Frame, reading: Reading) -> tuple[Real, Real, Real]:
    """Return Y', Cb, Cr as signals; chroma in its own size."""
    black, span = luma_offset_span(depth=frame.depth, full_range=reading.full_range)
    zero, chroma_span = chroma_zero_span(depth=frame.depth, full_range=reading.full_range)
    return (
        _signal(frame.luma, black, span),
        _signal(frame.cb, zero, chroma_span),
        _signal(frame.cr, zero, chroma_span),
    )


def _signal(plane: Plane, zero: int, span: int) -> Real:
    return (plane.astype(np.float32) - np.float32(zero)) / np.float32(span)


def _enlarged(plane: Real, like: Real) -> Real:
    if plane.shape == like.shape:
        return plane
    size = (like.shape[1], like.shape[0])
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_NEAREST), dtype=np.float32)


def rgb_signals(frame: Frame, reading: Reading) -> Real:
    """Return R'G'B' signals (row, column, channel), 0..1 nominal, not clipped."""
    luma, cb, cr = _signals(frame, reading)
    code = reading.matrix if reading.matrix in WEIGHTS else 1
    inverse = rgb_from_ycbcr(code or 1).astype(np.float32)
    big_cb, big_cr = _enlarged(cb, luma), _enlarged(cr, luma)
    channels = [luma + row[1] * big_cb + row[2] * big_cr for row in inverse]
    return np.stack(channels, axis=-1).astype(np.float32)


def _brightest_pq(frame: Frame, reading: Reading) -> npt.NDArray[np.int64]:
    """Return counts of the brightest channel's signal; PQ rises, so light need not be made."""
    luma, cb, cr = _signals(frame, reading)
    inverse = rgb_from_ycbcr(reading.matrix if reading.matrix in WEIGHTS else 9)
    terms = [np.float32(row[1]) * cb + np.float32(row[2]) * cr for row in inverse]
    brightest = luma + _enlarged(np.maximum.reduce(terms), luma)
    bins = np.clip(brightest * (BINS - 1) + 0.5, 0, BINS - 1).astype(np.uint16)
    return np.bincount(bins.reshape(-1), minlength=BINS)


def _brightest_hlg(frame: Frame, reading: Reading) -> npt.NDArray[np.int64]:
    """Return counts of the brightest channel's light, PQ-spaced; the OOTF works on luminance."""
    scene_of, bin_of = _hlg_tables()
    codes = np.clip(rgb_signals(frame, reading) * (BINS - 1) + 0.5, 0, BINS - 1).astype(np.uint16)
    scene = scene_of[codes]
    luminance = scene @ np.asarray(hlg.LUMINANCE, dtype=np.float32)
    exponent = np.float32(hlg.system_gamma(HLG_PEAK_NITS) - 1)
    share = scene.max(axis=-1) * luminance**exponent
    # The fourth root spaces light much like PQ does, so a table of it loses no dark steps.
    roots = np.sqrt(np.sqrt(np.minimum(share, 1.0)))
    bins = bin_of[(roots * (len(bin_of) - 1) + 0.5).astype(np.uint16)]
    return np.bincount(bins.reshape(-1), minlength=BINS)


@lru_cache
def _hlg_tables() -> tuple[Real, npt.NDArray[np.uint16]]:
    """Return signal → scene light, and fourth root of display light ÷ peak → PQ-spaced bin."""
    scene = hlg.scene_from_signal(np.arange(BINS) / (BINS - 1)).astype(np.float32)
    light = (np.arange(65536) / 65535) ** 4 * HLG_PEAK_NITS
    bins = (pq.signal_from_light(light) * (BINS - 1) + 0.5).astype(np.uint16)
    return scene, bins


COUNTERS = {PQ: _brightest_pq, HLG: _brightest_hlg}


class LightMeter:
    """Gathers light levels frame by frame; `result` is None for SDR and for no frames."""

    def __init__(self, reading: Reading) -> None:
        """Start empty for a file that is read this way."""
        self._reading = reading
        self._frames: list[tuple[float, float, float, float, float]] = []

    def add(self, frame: Frame) -> None:
        """Measure one frame at full resolution."""
        counter = COUNTERS.get(self._reading.transfer or 0)
        if counter is None:
            return
        counts, light = counter(frame, self._reading), _pq_bin_light()
        summed = np.cumsum(counts)
        marks = np.searchsorted(summed, np.array([0.999, 0.9999, 1.0]) * summed[-1])
        p999, p9999, top = (float(light[min(mark, BINS - 1)]) for mark in marks)
        average = float((counts * light).sum() / summed[-1])
        time_s = float(frame.number / self._reading.rate)
        self._frames.append((time_s, top, average, p999, p9999))

    def result(self) -> LightLevels | None:
        """Return the levels over all frames added."""
        if not self._frames:
            return None
        _, tops, averages, p999, p9999 = zip(*self._frames, strict=True)
        return LightLevels(
            max_cll=max(tops),
            max_fall=max(averages),
            p9999=max(p9999),
            p999=max(p999),
            series=tuple((t, top, average) for t, top, average, *_ in sorted(self._frames)),
        )
