"""Parallax by dense matching: how far apart both eyes see each place, across and down.

Semi-global matching on lines (OpenCV's), checked from left to right and back; before it, the eyes
are brought to one height by dense flow, which also tells vertical parallax.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
import numpy.typing as npt

from ..alignment.layout.cells import sized
from ..alignment.layout.correspondences import self_correspondence
from ..decoded.grid import Real
from ..model.eyes import PARALLAX_REACH, PARALLAX_STEP, ParallaxUse

SIZE = (640, 360)
REACH = 64
"""Samples that are looked left and right: 10 % of the width."""
BLOCK = 5
FLOW_APART = 1.0
"""Flow there and back must end within so many samples."""
LEAST_MATCHED, LEAST_TEXTURE_CODES = 0.1, 8.0
RIM = 32
"""Columns at both sides that count for nothing: their other view may lie beyond the frame."""
MARGIN = 12
"""Columns beside what is bare that count for nothing either."""
STRUCTURE, LEAST_SLOPE = 11, 0.7
"""Side of the squares in which it counts, and mean slope of 8-bit codes, stretched, a sample."""
MOST_REPEATED = 0.5
"""Share of structure that fits elsewhere on its line as well: more, and matching is a guess."""
AGREED, MOST_AGREE = 3.0, 0.9
"""Samples by which master and export may part, a common shift apart, and the share that must not.
"""
AS_GOOD = 1.25
"""A place fits as well as another with so many times its difference; coding leaves some codes."""
PLACES = 2 * round(PARALLAX_REACH / PARALLAX_STEP)
ATTEMPT = cv2.DISOPTICAL_FLOW_PRESET_MEDIUM


@dataclass(frozen=True, slots=True)
class Matched:
    """Both eyes of one moment on SIZE samples: left luma, the right one laid over it, and where.

    away: right eye's place − left eye's in samples (row, column); known: where it was found. drop:
    by how many samples the right eye's picture is lower, and half of what lies between most.
    """

    away: Real
    known: npt.NDArray[np.bool_]
    drop: tuple[float, float]

    @property
    def use(self) -> ParallaxUse:
        """Return the parallax of all that is known."""
        percent = self.away[self.known] / SIZE[0] * 100
        nearest, middle, farthest = (float(v) for v in np.percentile(percent, (2, 50, 98)))
        bins = np.floor((percent + PARALLAX_REACH) / PARALLAX_STEP).astype(int)
        counts = np.bincount(np.clip(bins, 0, PLACES - 1), minlength=PLACES)
        return ParallaxUse(
            counts=tuple(int(n) for n in counts),
            nearest=round(nearest, 3),
            middle=round(middle, 3),
            farthest=round(farthest, 3),
            vertical=round(self.drop[0] / SIZE[1] * 100, 3),
            vertical_spread=round(self.drop[1] / SIZE[1] * 100, 3),
            matched=round(float(self.known.mean()), 3),
        )


def match_eyes(left: Real, right: Real) -> Matched | None:
    """Return how far apart both eyes (luma, row and column, 10-bit codes) see things.

    None where hardly anything is matched, or a pattern repeats so that many places fit.
    """
    left_eye, right_eye = (sized(eye, SIZE) for eye in (left, right))
    if min(left_eye.std(), right_eye.std()) < LEAST_TEXTURE_CODES:
        return None
    grey = [_bytes(eye) for eye in (left_eye, right_eye)]
    drop = _drop(*grey)
    level = _lowered(grey[1], -drop[0])
    bare = _bare(level)
    away, known = _across(grey[0], _filled(level, bare))
    goal = np.arange(SIZE[0]) + away
    known &= (goal >= bare[0] + MARGIN * (bare[0] > 0)) & (
        goal < SIZE[0] - bare[1] - MARGIN * (bare[1] > 0)
    )
    known &= _structured(grey[0])
    known[:, :RIM], known[:, -RIM:] = False, False
    if known.mean() < LEAST_MATCHED or self_correspondence(left_eye) > MOST_REPEATED:
        return None
    return Matched(away, known, drop)


def agreeing(export: Matched, master: Matched, eyes: tuple[Real, Real]) -> Matched:
    """Return an export's parallax without places that were matched wrongly, as its master shows.

    Nearly all agree with the master but for a common shift; others are left out where what the
    master says fits the export's eyes (left and right luma) as well as what was found: something
    repeats there. What does not fit has moved in depth, and stays. Where more disagree, depth
    itself may have changed, or the pictures lie elsewhere: then nothing is left out.
    """
    common = master.known & export.known
    if not common.any():
        return export
    apart = export.away - master.away
    shift = np.median(apart[common])
    contradicted = common & (np.abs(apart - shift) > AGREED)
    if contradicted.sum() > (1 - MOST_AGREE) * common.sum():
        return export
    left, right = (sized(eye, SIZE) for eye in eyes)
    found, told = (
        _residual(left, _seen_at(right, away, export.drop[0]))
        for away in (export.away, master.away + shift)
    )
    wrong = contradicted & (told < found * AS_GOOD + LEAST_TEXTURE_CODES)
    return replace(export, known=export.known & ~wrong)


def _residual(first: Real, second: Real) -> Real:
    """Return how far two pictures are apart round every place, in codes."""
    return np.asarray(cv2.blur(np.abs(first - second), (STRUCTURE, STRUCTURE)), np.float32)


def laid_over(plane: Real, matched: Matched) -> Real:
    """Return the right eye's plane, of any size, on SIZE samples and laid over the left eye's."""
    away = np.where(matched.known, matched.away, 0)
    return _seen_at(sized(plane, SIZE), away, matched.drop[0])


def _seen_at(plane: Real, away: Real, drop: float) -> Real:
    """Return what a plane on SIZE samples shows so far to the right and down of every place."""
    rows, columns = np.mgrid[: SIZE[1], : SIZE[0]].astype(np.float32)
    drawn = cv2.remap(
        plane,
        columns + away.astype(np.float32),
        rows + np.float32(drop),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(drawn, np.float32)


def _bare(eye: npt.NDArray[np.uint8]) -> tuple[int, int]:
    """Return how many columns at the left and at the right a shift has left without a picture."""
    even = eye.std(axis=0) < 1.0
    left, right = (int(np.argmin(side)) for side in (even, even[::-1]))
    return (0, 0) if even.all() else (min(left, REACH), min(right, REACH))


def _filled(eye: npt.NDArray[np.uint8], bare: tuple[int, int]) -> npt.NDArray[np.uint8]:
    """Return an eye whose bare columns carry on its picture: a strong edge would draw matches."""
    left, right = bare
    inner = eye[:, left : SIZE[0] - right]
    made = cv2.copyMakeBorder(inner, 0, 0, left, right, cv2.BORDER_REPLICATE)
    return np.asarray(made, np.uint8)


def _structured(left: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    """Return where something stands out on its line: elsewhere matching only carries on."""
    slope = np.abs(cv2.Sobel(left, cv2.CV_32F, 1, 0)) / 8
    return np.asarray(cv2.blur(slope, (STRUCTURE, STRUCTURE)) > LEAST_SLOPE)


def _bytes(luma: Real) -> npt.NDArray[np.uint8]:
    """Return luma as bytes, stretched so that a dark scene is matched as well as a bright one."""
    low, high = np.percentile(luma, (0.5, 99.5))
    made = np.clip((luma - low) / max(high - low, 32.0) * 255, 0, 255)
    return np.asarray(made, np.uint8)


def _drop(left: npt.NDArray[np.uint8], right: npt.NDArray[np.uint8]) -> tuple[float, float]:
    """Return by how many samples the right eye's picture is lower, and half of most's spread."""
    flow = cv2.DISOpticalFlow.create(ATTEMPT)
    none = np.zeros((*left.shape, 2), np.float32)
    there, back = flow.calc(left, right, none.copy()), flow.calc(right, left, none)
    rows, columns = np.mgrid[: SIZE[1], : SIZE[0]].astype(np.float32)
    came_back = cv2.remap(back, columns + there[..., 0], rows + there[..., 1], cv2.INTER_LINEAR)
    sure = np.hypot(*np.moveaxis(there + came_back, -1, 0)) < FLOW_APART
    # Only edges that lie across tell how far down something moved.
    slope = np.abs(cv2.Sobel(left, cv2.CV_32F, 0, 1))
    sure &= slope > np.percentile(slope, 70)
    if sure.sum() < 200:
        return 0.0, 0.0
    low, middle, high = np.percentile(there[..., 1][sure], (10, 50, 90))
    return float(middle), float(high - low) / 2


def _lowered(picture: npt.NDArray[np.uint8], by: float) -> npt.NDArray[np.uint8]:
    shift = np.array([[1, 0, 0], [0, 1, by]], np.float64)
    return np.asarray(
        cv2.warpAffine(picture, shift, SIZE, borderMode=cv2.BORDER_REPLICATE), np.uint8
    )


def _across(
    left: npt.NDArray[np.uint8], right: npt.NDArray[np.uint8]
) -> tuple[Real, npt.NDArray[np.bool_]]:
    """Return right − left place of every sample, and where that is known."""
    # A rim, so that the eyes' outermost columns are matched too.
    padded = [
        cv2.copyMakeBorder(eye, 0, 0, REACH, REACH, cv2.BORDER_REPLICATE) for eye in (left, right)
    ]
    matcher = cv2.StereoSGBM.create(
        minDisparity=-REACH,
        numDisparities=2 * REACH,
        blockSize=BLOCK,
        P1=8 * BLOCK * BLOCK,
        P2=32 * BLOCK * BLOCK,
        disp12MaxDiff=1,
        uniquenessRatio=10,
        speckleWindowSize=80,
        speckleRange=2,
        mode=cv2.STEREO_SGBM_MODE_SGBM,
    )
    found = matcher.compute(*padded)[:, REACH:-REACH]
    known = found > -REACH * 16
    away = np.asarray(-found / 16, np.float32)
    columns = np.arange(SIZE[0], dtype=np.float32) + away
    known &= (columns >= 0) & (columns <= SIZE[0] - 1)
    return away, known
