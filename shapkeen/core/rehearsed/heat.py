"""Where master and export differ, as light on black: ΔE ITP for HDR, CIEDE2000 for SDR."""

import cv2
import numpy as np
import numpy.typing as npt

from ..errors import UsageError
from ..measured.decoded.grid import reduce_frame
from ..measured.decoded.metrics import PATCH, difference_map
from .moment import Moment
from .stills import png_of

HEAT_TOP = 10.0
"""Differences from here on are drawn alike, at the end of the scale."""
HEAT_WIDTH, ENLARGED = 320, 3
OUTSIDE = 0x4D / 0xFF
"""The surround of pictures (docs/look.md)."""
INKS = np.array([[0.02, 0.02, 0.02], [0.30, 0.29, 0.26], [0.91, 0.86, 0.75], [1.0, 0.48, 0.40]])
"""Black, the accent in two steps, and the ink of loss, at 0, 1, 5 and 10: 1 is just visible."""
INK_PLACES = (0.0, 1.0, 5.0, HEAT_TOP)
Real = npt.NDArray[np.float64]


def unknown_colours() -> UsageError:
    """Return the error for pictures whose colours nobody tells."""
    return UsageError(
        "Nobody says which primaries and matrix this picture has, so differences of colour "
        "cannot be calculated. Promise them, or tag the files.",
        code="unknown-colours",
        where="picture",
    )


def difference_of(moment: Moment) -> Real:
    """Return the difference (row, column) from the expected picture, over what both show.

    Raises UsageError where the coding is not known.
    """
    full_range = moment.master_reading.full_range
    small = (reduce_frame(f, full_range=full_range) for f in (moment.master, moment.export))
    expected, delivered = moment.picture_map.planes(*small, step=2 * PATCH)
    found = difference_map(expected, delivered, moment.picture_map.goal)
    if found is None:
        raise unknown_colours()
    return found


def render_difference(moment: Moment, aspect: tuple[int, int]) -> bytes:
    """Return the difference as PNG in the export's frame; aspect: its pixel aspect.

    What the master has no picture for (bars, say) stays in the colour of the page round it.
    """
    width, height = moment.export.raster
    scale = min(HEAT_WIDTH / width, 1.0)
    size = (
        round(width * scale * aspect[0] / aspect[1] * ENLARGED),
        round(height * scale) * ENLARGED,
    )
    part = moment.picture_map.shared
    columns, rows = _span(part.left, part.width, size[0]), _span(part.top, part.height, size[1])
    place = (max(columns.stop - columns.start, 1), max(rows.stop - rows.start, 1))
    found = np.asarray(cv2.resize(difference_of(moment), place), dtype=np.float64)
    shown = np.full((size[1], size[0], 3), OUTSIDE, np.float32)
    shown[rows, columns] = np.stack(
        [np.interp(found, INK_PLACES, INKS[:, i]) for i in range(3)], axis=-1
    )[: rows.stop - rows.start, : columns.stop - columns.start]
    return png_of(shown, "difference")


def _span(first: float, length: float, count: int) -> slice:
    return slice(round(first * count), min(round((first + length) * count), count))
