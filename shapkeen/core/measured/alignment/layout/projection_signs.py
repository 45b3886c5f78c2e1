"""The signs of an equirectangular picture: edges that meet, poles of one colour, cos φ between.

A sphere's circle of latitude φ is drawn as long as its equator, so that structure is stretched by
1 ÷ cos φ across, and not at all down. No flat picture does that above and below alike.
"""

from collections.abc import Sequence

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real
from ...model import SphereSigns
from .cubemap import matched_joints

WIDTH = 1024
"""Signs are looked for in pictures of at most this width; more only adds the coding's noise."""
POLE_SHARE = 0.1
"""Lines so near a pole are all but one colour, and say nothing of the seam."""
EDGE_COLUMNS = 8
LEAST_STEP_CODES = 0.4
"""Between neighbouring columns, 10-bit codes: below, a picture is too even to tell anything."""
EQUATOR_DEG, POLE_DEG = 25.0, (58.0, 80.0)
LEAST_SLOPE_CODES = 1.5
"""Mean slope down of a line of the picture that has structure; a matte has none."""


def signs_of(luma: Real) -> SphereSigns:
    """Return the signs in one picture's luma (row, column), 10-bit codes; of one eye alone."""
    picture = _reduced(luma)
    seam, unrelated = _seam(picture)
    top, bottom = _poles(picture)
    return SphereSigns(
        seam=seam,
        unrelated=unrelated,
        top=top,
        bottom=bottom,
        stretch=_stretch(picture),
        joints=matched_joints(luma),
    )


def middle_of(found: Sequence[SphereSigns]) -> SphereSigns:
    """Return the median of what several pictures show."""

    def middle(name: str) -> float | None:
        values = [value for one in found if (value := getattr(one, name)) is not None]
        return round(float(np.median(values)), 4) if values else None

    return SphereSigns(
        seam=middle("seam"),
        unrelated=middle("unrelated"),
        top=middle("top") or 0.0,
        bottom=middle("bottom") or 0.0,
        stretch=middle("stretch"),
        joints=int(middle("joints") or 0),
    )


def _reduced(luma: Real) -> Real:
    height, width = luma.shape
    if width <= WIDTH:
        return luma
    size = (WIDTH, max(round(height * WIDTH / width), 1))
    return np.asarray(cv2.resize(luma, size, interpolation=cv2.INTER_AREA), np.float32)


def _seam(picture: Real) -> tuple[float | None, float | None]:
    """Return the step across the joined edges, and between unrelated columns, in ordinary steps."""
    height, width = picture.shape
    if width < 4 * EDGE_COLUMNS:
        return None, None
    lines = picture[int(height * POLE_SHARE) : height - int(height * POLE_SHARE)]
    near = [*range(1, EDGE_COLUMNS), *range(width - EDGE_COLUMNS - 1, width - 2)]
    ordinary = float(np.mean([_step(lines, i, i + 1) for i in near]))
    if ordinary < LEAST_STEP_CODES:
        return None, None
    apart = np.linspace(0, width, 32, endpoint=False).astype(int)
    unrelated = float(np.median([_step(lines, i, (i + width // 3) % width) for i in apart]))
    return _step(lines, width - 1, 0) / ordinary, unrelated / ordinary


def _step(lines: Real, one: int, other: int) -> float:
    return float(np.abs(lines[:, one] - lines[:, other]).mean())


def _poles(picture: Real) -> tuple[float, float]:
    height = picture.shape[0]
    middle = float(np.median(picture[height // 4 : -(height // 4)].std(axis=1)))
    ends = (float(picture[0].std()), float(picture[-1].std()))
    return (ends[0] / middle, ends[1] / middle) if middle > 1 else (1.0, 1.0)


def _stretch(picture: Real) -> float | None:
    """Return structure across ÷ down near the poles, against the same at the equator."""
    smooth = cv2.GaussianBlur(picture, (0, 0), 1.0)
    across, down = (
        np.abs(cv2.Sobel(smooth, cv2.CV_32F, *way)).mean(axis=1) / 8 for way in ((1, 0), (0, 1))
    )
    latitude = 90 - (np.arange(len(down)) + 0.5) / len(down) * 180
    equator = _ratio(across, down, np.abs(latitude) < EQUATOR_DEG)
    caps = [
        found
        for side in (latitude, -latitude)
        if (found := _ratio(across, down, (side > POLE_DEG[0]) & (side < POLE_DEG[1]))) is not None
    ]
    if equator is None or not caps:
        return None
    return float(np.exp(np.mean(np.log(caps)))) / equator


def _ratio(
    across: npt.NDArray[np.floating], down: npt.NDArray[np.floating], lines: npt.NDArray[np.bool_]
) -> float | None:
    """Return structure across ÷ down in some lines; None where there is hardly any."""
    chosen = lines & (down > LEAST_SLOPE_CODES)
    if chosen.sum() * 3 < lines.sum():
        return None
    return float(across[chosen].mean() / down[chosen].mean())
