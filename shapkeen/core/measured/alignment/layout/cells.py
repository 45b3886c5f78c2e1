"""Taking eyes out of a picture, and laying them into one."""

from collections.abc import Sequence
from typing import Any, TypeVar

import cv2
import numpy as np
import numpy.typing as npt

from ....geometry.packing import SIDE_BY_SIDE, TOP_BOTTOM
from ...decoded.grid import Real

P = TypeVar("P", bound=npt.NDArray[Any])


def cells_of(plane: P, way: str) -> tuple[P, ...]:
    """Return the parts (row, column) of a plane that hold one eye each; the whole otherwise."""
    height, width = plane.shape
    if way == SIDE_BY_SIDE:
        return _parts(plane[:, : width // 2], plane[:, width // 2 : width // 2 * 2])
    if way == TOP_BOTTOM:
        return _parts(plane[: height // 2], plane[height // 2 : height // 2 * 2])
    return (plane,)


def _parts(first: Any, second: Any) -> tuple[Any, ...]:
    return first, second  # views of one plane, of its own kind


def joined(cells: Sequence[P], way: str) -> P:
    """Return eyes laid into one plane, the first one left or on top."""
    if len(cells) == 1:
        return cells[0]
    made: Any = np.ascontiguousarray(np.concatenate(cells, axis=1 if way == SIDE_BY_SIDE else 0))
    return made  # type: ignore[no-any-return]  # of the cells' own kind


def sized(cell: npt.NDArray[Any], size: tuple[int, int]) -> Real:
    """Return an eye resampled to width and height, areas averaged where it gets smaller."""
    smaller = cell.shape[1] >= size[0] and cell.shape[0] >= size[1]
    way = cv2.INTER_AREA if smaller else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(np.ascontiguousarray(cell, np.float32), size, interpolation=way))
