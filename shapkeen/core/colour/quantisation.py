"""Code values and signals. Source: ITU-R BT.2100-2 table 9; H.273 equations 20 to 31."""

import numpy as np
import numpy.typing as npt

BLACK, LUMA_SPAN, CHROMA_SPAN, CHROMA_ZERO = 16, 219, 224, 128
"""Limited range in 8 bits; each further bit doubles them."""


def luma_offset_span(*, depth: int, full_range: bool) -> tuple[int, int]:
    """Return the code of signal 0 and how many codes lie up to signal 1."""
    scale = 1 << (depth - 8)
    return (0, (1 << depth) - 1) if full_range else (BLACK * scale, LUMA_SPAN * scale)


def chroma_zero_span(*, depth: int, full_range: bool) -> tuple[int, int]:
    """Return the code of chroma 0 and how many codes lie from -0.5 to 0.5."""
    scale = 1 << (depth - 8)
    return CHROMA_ZERO * scale, (1 << depth) - 1 if full_range else CHROMA_SPAN * scale


def signal_from_luma_code(
    code: npt.ArrayLike, *, depth: int, full_range: bool
) -> npt.NDArray[np.float64]:
    """Return the signal (0..1 nominal, not clipped) of luma codes, any shape."""
    black, span = luma_offset_span(depth=depth, full_range=full_range)
    return (np.asarray(code, dtype=np.float64) - black) / span


def luma_code_from_signal(
    signal: npt.ArrayLike, *, depth: int, full_range: bool
) -> npt.NDArray[np.int64]:
    """Return luma codes for signals, halves rounded up, clipped to the depth."""
    black, span = luma_offset_span(depth=depth, full_range=full_range)
    code = np.floor(np.asarray(signal, dtype=np.float64) * span + black + 0.5)
    return np.clip(code, 0, (1 << depth) - 1).astype(np.int64)


def chroma_code_from_signal(
    signal: npt.ArrayLike, *, depth: int, full_range: bool
) -> npt.NDArray[np.int64]:
    """Return chroma codes for signals -0.5..0.5, halves rounded up, clipped to the depth."""
    zero, span = chroma_zero_span(depth=depth, full_range=full_range)
    code = np.floor(np.asarray(signal, dtype=np.float64) * span + zero + 0.5)
    return np.clip(code, 0, (1 << depth) - 1).astype(np.int64)
