"""Whether two pictures are two eyes' views of one scene, told from them alone.

Small squares of one are looked for in the other on (nearly) the same lines. Two views of a scene
have nearly all of them, at distances that vary with depth; halves of one flat picture have hardly
any. A square that has a twin in its own picture proves nothing: a pattern that repeats.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from ...decoded.grid import Real
from .cells import sized

SIZE = (320, 180)
SQUARE, STEP = 16, 20
ACROSS, DOWN = 32, 3
"""How far a square is looked for: 10 % of the width, and a little up and down."""
ALIKE, CORRESPONDENCE_APART = 0.88, 10
LEAST_SPREAD = 10.0
"""Standard deviation of a square's luma, 10-bit codes: less has nothing to be known by."""
LEAST_SQUARES = 24
TWO_VIEWS_SHARE, DIFFERENT_SHARE = 0.52, 0.3
"""Of the squares that can tell: photographed pairs show 0.59 to 1, halves of flat photographs
0.17 at most, and of a brick wall 0.45."""
SURELY_DIFFERENT = 0.2
"""Found among half of the squares, every other one."""
MOST_AMBIGUOUS = 0.6
SAME_SAMPLES, SAME_LIKENESS = 0.6, 0.985
"""Squares that all lie in place, and are all but alike, are one picture twice."""


@dataclass(frozen=True, slots=True)
class Correspondences:
    """What comparing two halves shows.

    share: of squares that are found in the other; None where too few can tell. shift: their middle
    distance, in % of the width, positive right; spread: half of what lies between most of them.
    ambiguous: share of squares that have a twin in their own picture. likeness: of those found.
    """

    share: float | None
    shift: float
    spread: float
    ambiguous: float
    likeness: float

    @property
    def are_two_views(self) -> bool:
        """Return whether these are two views of one scene, or one view twice."""
        return self.share is not None and self.share >= TWO_VIEWS_SHARE

    @property
    def are_different(self) -> bool:
        """Return whether these surely are not."""
        return self.share is not None and self.share <= DIFFERENT_SHARE

    @property
    def are_same(self) -> bool:
        """Return whether both are one and the same picture."""
        still = abs(self.shift) / 100 * SIZE[0] < SAME_SAMPLES
        alike = self.spread / 100 * SIZE[0] < SAME_SAMPLES and self.likeness > SAME_LIKENESS
        return self.are_two_views and still and alike


def find_correspondences(first: Real, second: Real) -> Correspondences:
    """Return what two halves (luma, row and column, 10-bit codes) show."""
    here, there = (sized(half, SIZE) for half in (first, second))
    found: list[tuple[float, float]] = []  # likeness, distance
    asked = ambiguous = 0
    squares = list(_squares(here))
    for number, (y, x) in enumerate(squares[::2] + squares[1::2]):
        half = number * 2 >= len(squares) and asked >= LEAST_SQUARES
        if half and len(found) < SURELY_DIFFERENT * asked:
            break  # the other half would not change it
        square = here[y : y + SQUARE, x : x + SQUARE]
        if _best(here, square, x, y, apart=CORRESPONDENCE_APART)[0] > ALIKE:
            ambiguous += 1
            continue
        asked += 1
        likeness, at = _best(there, square, x, y)
        if likeness > ALIKE:
            found.append((likeness, at - x))
    told = asked + ambiguous
    unclear = ambiguous / told if told else 0.0
    if asked < LEAST_SQUARES or unclear > MOST_AMBIGUOUS:
        return Correspondences(None, 0.0, 0.0, round(unclear, 3), 0.0)
    away = np.array([distance for _, distance in found] or [0.0]) / SIZE[0] * 100
    low, middle, high = (float(v) for v in np.percentile(away, (10, 50, 90)))
    return Correspondences(
        round(len(found) / asked, 3),
        round(middle, 3),
        round((high - low) / 2, 3),
        round(unclear, 3),
        round(float(np.median([likeness for likeness, _ in found] or [0.0])), 4),
    )


def _best(picture: Real, square: Real, x: int, y: int, apart: int = 0) -> tuple[float, int]:
    """Return how alike the likeliest place on these lines is, and its column.

    apart: columns round the square's own place that do not count.
    """
    left, right = max(x - ACROSS, 0), min(x + SQUARE + ACROSS, picture.shape[1])
    lines = picture[max(y - DOWN, 0) : y + SQUARE + DOWN, left:right]
    scores = cv2.matchTemplate(lines, square, cv2.TM_CCOEFF_NORMED).max(axis=0)
    if apart:
        places = np.arange(len(scores)) + left
        scores = np.where(np.abs(places - x) < apart, -1.0, scores)
    at = int(scores.argmax())
    return float(scores[at]), at + left


def self_correspondence(picture: Real) -> float:
    """Return the share of squares with structure that have a twin on their own lines."""
    here = sized(picture, SIZE)
    found = [
        _best(here, here[y : y + SQUARE, x : x + SQUARE], x, y, apart=CORRESPONDENCE_APART)[0]
        > ALIKE
        for y, x in _squares(here)
    ]
    return float(np.mean(found)) if found else 0.0


def _squares(picture: Real) -> Iterator[tuple[int, int]]:
    """Yield the row and column of every square that has structure."""
    for y in range(DOWN, SIZE[1] - SQUARE - DOWN, STEP):
        for x in range(4, SIZE[0] - SQUARE - 4, STEP):
            if picture[y : y + SQUARE, x : x + SQUARE].std() >= LEAST_SPREAD:
                yield y, x
