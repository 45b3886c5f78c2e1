"""Where master and export differ, as light on black: ΔE ITP for HDR, CIEDE2000 for SDR."""

import cv2
import numpy as np
import numpy.typing as npt

from ..colour.coding import light_from_signal
from ..colour.primaries import between
from ..errors import UsageError
from ..measured import Reading
from ..measured.frames import Frame
from ..measured.model import coding_of
from ..measured.rgb import rgb_signals
from ..measured.unlike import light_difference
from .moment import Moment
from .screen import png_of

HEAT_TOP = 10.0
"""Differences from here on are drawn alike, at the end of the scale."""
HEAT_WIDTH = 320
"""Means over areas, as the figures of a pair are: of single samples, coding noise on every edge
would be most of what is seen, in a healthy export too."""
ENLARGED = 3
INKS = np.array([[0.02, 0.02, 0.02], [0.30, 0.29, 0.26], [0.91, 0.86, 0.75], [1.0, 0.48, 0.40]])
"""Black, the accent in two steps, and the ink of loss, at 0, 1, 5 and 10: 1 is just visible."""
INK_PLACES = (0.0, 1.0, 5.0, HEAT_TOP)
Real = npt.NDArray[np.float64]


def light_of(frame: Frame, reading: Reading, size: tuple[int, int] | None = None) -> Real:
    """Return a frame's light in its own primaries, cd/m², perhaps at another size.

    Raises UsageError where its coding is not known.
    """
    coding = coding_of(reading)
    if not coding.is_known:
        raise UsageError(
            "Nobody says which primaries and matrix this picture has, so differences of colour "
            "cannot be calculated. Promise them, or tag the files.",
            code="unknown-colours",
            where="picture",
        )
    signals = rgb_signals(frame, reading)
    if size is not None:
        signals = np.asarray(cv2.resize(signals, size, interpolation=cv2.INTER_AREA))
    return light_from_signal(np.clip(signals.astype(np.float64), 0, 1), coding.transfer)


def difference_of(moment: Moment, size: tuple[int, int] | None = None) -> Real:
    """Return the difference (row, column) of both pictures at a common size."""
    size = size or moment.master.raster
    one = light_of(moment.master, moment.master_reading, size)
    other = light_of(moment.export, moment.export_reading, size)
    own, theirs = coding_of(moment.master_reading), coding_of(moment.export_reading)
    if own.primaries != theirs.primaries:
        one = np.maximum(one @ between(own.primaries, theirs.primaries).T, 0.0)
    return light_difference(one, other, theirs)


def render_difference(moment: Moment, aspect: tuple[int, int]) -> bytes:
    """Return the difference as PNG in the shape of the master; aspect: its pixel aspect."""
    width, height = moment.master.raster
    scale = min(HEAT_WIDTH / width, 1.0)
    found = difference_of(moment, (round(width * scale), round(height * scale)))
    shown = np.stack([np.interp(found, INK_PLACES, INKS[:, i]) for i in range(3)], axis=-1)
    shown = np.asarray(shown, dtype=np.float32)
    size = (round(shown.shape[1] * ENLARGED * aspect[0] / aspect[1]), shown.shape[0] * ENLARGED)
    return png_of(np.asarray(cv2.resize(shown, size), dtype=np.float32), "difference")
