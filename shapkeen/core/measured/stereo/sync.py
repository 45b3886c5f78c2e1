"""Whether one eye's frames are behind, told from the signatures of all frames of both files."""

import numpy as np
import numpy.typing as npt

from ..alignment.layout.cells import cells_of
from ..alignment.time.frame_map import FrameMap

MOST_LATE = 3
CLEAR, MOVED = 0.6, 1.3
"""The right moment must leave at most this of what the same one leaves, to be called late; and the
moments beside it this much more, to say that it is not."""
LEAST_FRAMES = 6
Signatures = npt.NDArray[np.float32]


def frames_late(
    masters: tuple[npt.NDArray[np.int64], Signatures],
    exports: tuple[npt.NDArray[np.int64], Signatures],
    frames: FrameMap,
    way: str,
    cell: int,
) -> int | None:
    """Return by how many frames one eye of the export is behind; None where too little moves.

    masters, exports: numbers (n,) and signatures (n, row, column) of all frames, the
    master's packed as the export's. cell: the eye's place, from 0.
    """
    at = {int(number): index for index, number in enumerate(masters[0])}
    pairs = [
        (index, there)
        for index, number in enumerate(exports[0])
        if (there := at.get(frames.master(int(number)))) is not None
    ]
    apart = {late: _apart(masters[1], exports[1], pairs, late, way, cell) for late in _around()}
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
    masters: Signatures,
    exports: Signatures,
    pairs: list[tuple[int, int]],
    late: int,
    way: str,
    cell: int,
) -> float | None:
    """Return how far the eye is from the master's so many frames earlier, in squared codes."""
    chosen = [(here, there - late) for here, there in pairs if 0 <= there - late < len(masters)]
    if len(chosen) < LEAST_FRAMES:
        return None
    squares = []
    for here, there in chosen:
        one, other = (
            _middle(signatures, way, cell) for signatures in (exports[here], masters[there])
        )
        away = one - other
        squares.append(float(np.mean((away - away.mean()) ** 2)))
    return float(np.median(squares))


def _middle(signature: Signatures, way: str, cell: int) -> Signatures:
    """Return an eye's signature without its rim, where a shift leaves it bare."""
    eye = cells_of(signature, way)[cell]
    rim = max(eye.shape[0] // 8, 1), max(eye.shape[1] // 8, 1)
    return np.asarray(eye[rim[0] : -rim[0], rim[1] : -rim[1]], np.float32)
