"""How a picture was turned and mirrored."""

import numpy as np

from ...decoded.grid import Real, Rect, sample
from .likeness import GRID, correlation, structure

TURNS = tuple((turn, mirrored) for mirrored in (False, True) for turn in (0, 90, 180, 270))


def turned(plane: Real, turn: int, *, mirrored: bool) -> Real:
    """Return a plane mirrored left to right (if so) and then turned clockwise by `turn`."""
    flipped = plane[:, ::-1] if mirrored else plane
    return np.ascontiguousarray(np.rot90(flipped, k=-turn // 90))


def best_turn(pair: tuple[Real, Real], export_active: Rect) -> tuple[int, bool]:
    """Return the turn and mirror that fits best; upright unless another is clearly better."""
    master, export = pair
    goal = sample(export, export_active, GRID)
    planes = {way: sample(turned(master, way[0], mirrored=way[1]), Rect(), GRID) for way in TURNS}
    # A smooth picture is like itself however it is turned: its structure then tells.
    fine = {way: structure(plane) for way, plane in planes.items()}
    for kind, wanted, least, lead in (
        (planes, goal, 0.7, 0.25),
        (fine, structure(goal), 0.6, 0.3),
    ):
        scores = {way: correlation(plane, wanted) for way, plane in kind.items()}
        best = max(scores, key=lambda way: scores[way])
        # A symmetrical picture, or one shifted or cropped, must not be called turned.
        if scores[best] > least and scores[best] > scores[(0, False)] + lead:
            return best
    return 0, False
