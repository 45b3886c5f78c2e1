"""Six faces of a cube in one picture: recognised by edges that meet though they lie apart.

Whatever the order and the turns of the faces are: each of a cube's twelve edges is drawn twice, and
both times it shows the same line of the world.
"""

import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real

LAYOUTS = ((3, 2), (2, 3), (6, 1), (1, 6))
"""Faces across and down."""
LEAST_JUMP = 2.5
"""Step across the borders of faces ÷ an ordinary one; on a flat picture it is 1."""
ALIKE, LEAST_SPREAD = 0.9, 4.0
"""Correlation of two drawings of one edge, and the 10-bit codes that it must vary by to tell."""
INSETS = (0, 1)
"""Where a picture was made smaller, samples at a border hold both faces; the next ones do not."""
LENGTH = 64
Profile = npt.NDArray[np.float64]


def matched_joints(picture: Real) -> int:
    """Return how many of a cube's twelve edges meet, in the layout where most do; 0 without faces.

    picture: luma (row, column), 10-bit codes.
    """
    return max((_joints(picture, *layout) for layout in LAYOUTS), default=0)


def _joints(picture: Real, across: int, down: int) -> int:
    height, width = picture.shape
    wide, high = width // across, height // down
    # Faces are squares, perhaps a little stretched by an even raster.
    if min(wide, high) < 16 or not 0.9 < wide / high < 1.1 or not _jumps(picture, across, down):
        return 0
    return max(_mutual(_all_edges(picture, across, down, inset)) for inset in INSETS)


def _all_edges(picture: Real, across: int, down: int, inset: int) -> list[tuple[int, Profile]]:
    """Return (face, line) of the four edges of every face, so many samples inside."""
    rows, columns = (
        [(k * side // count + inset, (k + 1) * side // count - inset) for k in range(count)]
        for side, count in zip(picture.shape, (down, across), strict=True)
    )
    faces = [picture[slice(*row), slice(*column)] for row in rows for column in columns]
    return [(number, edge) for number, face in enumerate(faces) for edge in _edges(face)]


def _jumps(picture: Real, across: int, down: int) -> bool:
    """Return whether the picture breaks at most borders between faces."""
    height, width = picture.shape
    steps = np.abs(np.diff(picture, axis=1)).mean(), np.abs(np.diff(picture, axis=0)).mean()
    found = []
    for column in range(1, across):
        at = column * width // across
        found.append(np.abs(picture[:, at] - picture[:, at - 1]).mean() / max(steps[0], 0.1))
    for row in range(1, down):
        at = row * height // down
        found.append(np.abs(picture[at] - picture[at - 1]).mean() / max(steps[1], 0.1))
    return bool(found) and float(np.median(found)) > LEAST_JUMP


def _edges(face: Real) -> list[Profile]:
    lines = (face[0], face[-1], face[:, 0], face[:, -1])
    places = [np.linspace(0, len(one) - 1, LENGTH) for one in lines]
    return [np.interp(at, np.arange(len(one)), one) for at, one in zip(places, lines, strict=True)]


def _mutual(edges: list[tuple[int, Profile]]) -> int:
    """Return how many pairs of edges of different faces are each other's best match, and alike."""
    likes = np.full((len(edges), len(edges)), -1.0)
    for i, (face, one) in enumerate(edges):
        for j, (other_face, other) in enumerate(edges[:i]):
            if face != other_face:
                likes[i, j] = likes[j, i] = max(_likeness(one, other), _likeness(one, other[::-1]))
    best = likes.argmax(axis=1)
    mutual = [i for i in range(len(edges)) if best[best[i]] == i and likes[i, best[i]] > ALIKE]
    return len(mutual) // 2


def _likeness(one: Profile, other: Profile) -> float:
    """Return how alike two lines are in level and shape; -1 where one is too even to tell."""
    a, b = one - one.mean(), other - other.mean()
    if min(a.std(), b.std()) < LEAST_SPREAD or abs(one.mean() - other.mean()) > 2 * a.std():
        return -1.0
    return float((a * b).sum() / np.sqrt((a * a).sum() * (b * b).sum()))
