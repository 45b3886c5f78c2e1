"""A frame's R'G'B' at full resolution, for showing it and for reading single samples."""

import cv2
import numpy as np
import numpy.typing as npt

from ...colour.matrix import WEIGHTS, rgb_from_ycbcr
from ...colour.quantisation import chroma_zero_span, luma_offset_span
from ..model import Reading
from .frames import Frame, Plane

Real = npt.NDArray[np.float32]


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
