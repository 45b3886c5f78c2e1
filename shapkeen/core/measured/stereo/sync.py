"""Whether one eye's frames are behind, told from the signatures of all frames of both files."""

import numpy as np

from ..alignment.layout.cells import cells_of
from ..alignment.signature import Signature, SignatureSeries
from ..alignment.time.frame_map import FrameMap

MOST_LATE = 3
CLEAR, MOVED = 0.6, 1.3
"""The right moment must leave at most this of what the same one leaves, to be called late; and the
moments beside it this much more, to say that it is not."""
LEAST_FRAMES, MOST_PAIRS = 6, 4000
"""Of a film so many pairs, spread over the whole, tell as much as all of them."""


def frames_late(
    masters: SignatureSeries, exports: SignatureSeries, frames: FrameMap, way: str, cell: int
) -> int | None:
    """Return by how many frames one eye of the export is behind; None where too little moves.

    masters, exports: of all frames, the master's packed as the export's. cell: the eye's place,
    from 0.
    """
    at = {int(number): index for index, number in enumerate(masters.numbers)}
    pairs = [
        (index, there)
        for index, number in enumerate(exports.numbers)
        if (there := at.get(frames.master(int(number)))) is not None
    ]
    pairs = pairs[:: -(-len(pairs) // MOST_PAIRS) or 1]
    apart = {late: _apart(masters, exports, pairs, late, way, cell) for late in _around()}
    known = {late: value for late, value in apart.items() if value is not None}
    if 0 not in known or len(known) < 2:
        return None
    best = min(known, key=lambda late: (known[late], abs(late)))
    if best != 0:
        return best if known[best] < CLEAR * known[0] else None
    neighbours = min(value for late, value in known.items() if late)
    return 0 if neighbours > MOVED * known[0] else None


def _around() -> range:
    return range(-MOST_LATE, MOST_LATE + 1)


def _apart(
    masters: SignatureSeries,
    exports: SignatureSeries,
    pairs: list[tuple[int, int]],
    late: int,
    way: str,
    cell: int,
) -> float | None:
    """Return how far the eye is from the master's so many frames earlier, in squared codes."""
    chosen = [(here, there - late) for here, there in pairs if 0 <= there - late < len(masters)]
    if len(chosen) < LEAST_FRAMES:
        return None
    table = np.array(chosen, np.int64)
    squares = []
    for both in zip(exports.rows(table[:, 0]), masters.rows(table[:, 1]), strict=True):
        one, other = (_middle(signature, way, cell) for signature in both)
        away = one - other
        squares.append(float(np.mean((away - away.mean()) ** 2)))
    return float(np.median(squares))


def _middle(signature: Signature, way: str, cell: int) -> Signature:
    """Return an eye's signature without its rim, where a shift leaves it bare."""
    eye = cells_of(signature, way)[cell]
    rim = max(eye.shape[0] // 8, 1), max(eye.shape[1] // 8, 1)
    return np.asarray(eye[rim[0] : -rim[0], rim[1] : -rim[1]], np.float32)
