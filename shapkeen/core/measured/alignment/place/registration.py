"""Where the master's picture lies in the export's raster: scale, shift, turn and mirror.

Coarse guesses (same place, from bars, from matched features, from windows slid over the master) are
refined by direct alignment (direct.py), and the best of them once more, by scale and shift alone
(refinement.py). Works in fractions of both rasters, so that a squeeze is a difference of the two
scales.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
import numpy.typing as npt

from ...decoded.grid import Real, Rect, sample
from ...model import Registration
from .direct import align_directly
from .likeness import GRID, SURE_LIKENESS, is_near, likeness_at, placed_at, seen_in, structure
from .refinement import aligned
from .toning import toned
from .turning import best_turn, turned
from .uncovered import uncovered
from .windows import window_place

LEAST_TEXTURE_CODES = 6.0
"""Standard deviation of 10-bit luma below which a picture is too flat to be registered."""
LEAST_LIKENESS = 0.75
"""Unrelated pictures correlate below 0.6 even after alignment; healthy exports above 0.98."""
TONED_LIKENESS = 0.85
"""The same where the master was brought to the export's tones first."""
AS_LIKE, LEAST_BARS = 0.01, 0.01
ROUGH_SIGMA, ROUGH_LIKENESS = 2.0, 0.8
"""On the grid: unrelated photographs are at most 0.53 like each other there, nothing being aligned;
photographs coded so that they swim are 0.83 and more."""
REPEATED_LIKENESS = 0.999
CLEAR_LIKENESS = 0.98
"""Below these, corners or windows of the master may lead to a better place: alignment of a dark
picture settled 31 samples away once, above 0.9."""
EXPECTED_LIKENESS, SETTLED_LIKENESS = 0.97, 0.99
"""Of a picture at its expected place, before and after it was aligned there."""
SAME_TONES, STAYED, NEARLY_THERE = 0.9995, 0.0005, 0.02
"""Below this likeness tones may differ, which moves a place by a sample or two of 640."""
MOVED_GAIN = 1.03
"""How much less alike the fine structure must be at the old place. Of pictures that did not move it
was 0.72 to 0.99 as much, of those stretched by 0.6 per cent at least 1.10."""
LEAST_GUESS = 0.2
"""A guess that is less like is not refined."""
MAX_SHEAR = 0.01
FINE_WIDTH = 960


@dataclass(frozen=True, slots=True)
class Place:
    """The master's raster as a rectangle of the export's, in fractions, and its likeness."""

    rect: Rect
    likeness: float


def is_textured(luma: Real) -> bool:
    """Return whether a picture has enough structure to be registered."""
    return float(cv2.resize(luma, GRID, interpolation=cv2.INTER_AREA).std()) > LEAST_TEXTURE_CODES


@dataclass(frozen=True, slots=True)
class Inside:
    """The picture inside the bars of both files, as far as known, and how the picture is turned.

    hint: where the whole master lies, where that was guessed already. shapes: shown shape of the
    export ÷ that of the master, as far as it may be; windows of these are looked for.
    """

    master: Rect
    export: Rect
    turn: int = 0
    mirrored: bool = False
    hint: Rect | None = None
    shapes: tuple[float, ...] = ()


def register(
    pairs: Sequence[tuple[Real, Real]],
    *,
    master_active: Rect,
    export_active: Rect,
    export_raster: tuple[int, int],
    shapes: tuple[float, ...] = (),
) -> Registration | None:
    """Return where the whole master lies in the export; the median over the textured pairs.

    pairs: (master luma, export luma), any sizes. shapes: shown shape of the export ÷ that of the
    master, as far as it may be. None where fewer than half of the textured pairs agree, or none
    has texture: a flat picture cannot tell.
    """
    textured = [p for p in pairs if is_textured(p[0]) and is_textured(p[1])]
    if not textured:
        return None
    turn, mirrored = best_turn(textured[len(textured) // 2], export_active)
    inside = Inside(master_active, export_active, turn, mirrored, shapes=shapes)
    places = [place_one(master, export, inside) for master, export in textured]
    return merged(places, export_raster, inside)


def place_one(master: Real, export: Real, inside: Inside) -> Place | None:
    """Return where one textured picture says that the whole master lies; None if unlike."""
    upright = turned(master, inside.turn, mirrored=inside.mirrored)
    is_upright = (inside.turn, inside.mirrored) == (0, False)
    inside = replace(inside, master=inside.master if is_upright else Rect())
    place = _register_one(upright, export, inside)
    if place is not None and place.likeness >= LEAST_LIKENESS:
        return _unless_toned(upright, export, place, inside)
    # Blown out, or folded hard, a picture has another contrast everywhere.
    place = _register_one(toned(upright, export, inside.master, inside.export), export, inside)
    if place is not None and place.likeness >= TONED_LIKENESS:
        return place
    return _roughly_there(upright, export, inside)


def _unless_toned(master: Real, export: Real, place: Place, inside: Inside) -> Place:
    """Return a place, or that of a picture that did not move, where other tones led away from it.

    Alignment lays bright on bright: where a fold made lights smaller, it shrinks the picture. What
    is fine in a picture lies where it lay, whatever the tones became. And one that was blown out is
    somewhat like a corner of its master, and more like all of it brought to its tones.
    """
    rect = place.rect
    away = max(abs(v) for v in (rect.left, rect.top, rect.width - 1, rect.height - 1))
    if away >= NEARLY_THERE and place.likeness < CLEAR_LIKENESS:
        alike = toned(master, export, inside.master, inside.export)
        small = sample(alike, Rect(), GRID), sample(export, Rect(), GRID)
        unmoved = _scored(Rect(), small, inside.export)
        least = max(place.likeness + AS_LIKE, TONED_LIKENESS)
        return unmoved if unmoved.likeness > least else place
    if not STAYED < away < NEARLY_THERE or place.likeness >= SAME_TONES:
        return place
    fine = structure(sample(master, Rect(), GRID)), structure(sample(export, Rect(), GRID))
    here, there = (1 - likeness_at(*fine, one, inside.export) for one in (Rect(), rect))
    return place if here >= MOVED_GAIN * there else replace(place, rect=Rect())


def _roughly_there(master: Real, export: Real, inside: Inside) -> Place | None:
    """Return the expected place, where rough coding took all fine structure and left the rest."""
    small = sample(master, Rect(), GRID), sample(export, Rect(), GRID)
    one, other = (
        np.asarray(cv2.GaussianBlur(plane, (0, 0), ROUGH_SIGMA), np.float32) for plane in small
    )
    place = _scored(Rect(), (one, other), inside.export)
    return place if place.likeness >= ROUGH_LIKENESS else None


def merged(
    found: Sequence[Place | None], raster: tuple[int, int], inside: Inside
) -> Registration | None:
    """Return the middle of what textured pictures say; None where fewer than half agree.

    found: None for a picture that is not like its counterpart. raster: the export's.
    """
    places = [place for place in found if place is not None]
    if not places or len(places) * 2 < len(found):
        return None
    return _merged(places, raster, inside.turn, mirrored=inside.mirrored)


def _merged(
    places: list[Place], raster: tuple[int, int], turn: int, *, mirrored: bool
) -> Registration:
    width, height = raster
    factors = np.array([width, height, width, height])
    table = np.array([[p.rect.left, p.rect.top, p.rect.width, p.rect.height] for p in places])
    middle = np.median(table, axis=0)
    spread = float((np.abs(table - middle) * factors).max(axis=1).mean())
    left, top, wide, high = (float(v) for v in middle * factors)
    return Registration(
        left=left,
        top=top,
        width=wide,
        height=high,
        spread=spread,
        likeness=float(np.median([p.likeness for p in places])),
        frames=len(places),
        turn=turn,
        mirrored=mirrored,
    )


def _register_one(master: Real, export: Real, inside: Inside) -> Place | None:
    small = sample(master, Rect(), GRID), sample(export, Rect(), GRID)
    settled = _settled(master, export, small, inside)
    if settled is not None:
        return settled
    places: list[Place] = []
    # From the cheapest on; dearer ones only while a likeness leaves room for a better place.
    for guess, enough in (
        (_plain_guesses, 1.0),
        (_feature_guesses, CLEAR_LIKENESS),
        (_window_guesses, SURE_LIKENESS),
    ):
        if max((place.likeness for place in places), default=0.0) < enough:
            places += _tried(guess(*small, inside), small, inside.export)
    best = _likest(places, small, inside.export)
    exact = next((place for place in places if place.rect == Rect()), None)
    plain = best is not None and (best.rect == Rect() or not _lies_under_bars(inside))
    if best and plain and exact and exact.likeness >= min(REPEATED_LIKENESS, best.likeness):
        return exact  # nothing moved: refinement would only add its own noise
    return _finer(master, export, best, inside.export) if best else None


def _likest(places: list[Place], small: tuple[Real, Real], active: Rect) -> Place | None:
    """Return the likeliest place; of several that are as good, the one whose structure is.

    A smooth sky is like itself wherever it lies.
    """
    best = max(places, key=lambda place: place.likeness, default=None)
    if best is None:
        return None
    alike = [place for place in places if place.likeness >= best.likeness - AS_LIKE]
    if len(alike) == 1:
        return best
    one, other = map(structure, small)
    return max(alike, key=lambda place: likeness_at(one, other, place.rect, active))


def _lies_under_bars(inside: Inside) -> bool:
    """Return whether a master that fills the export's raster would lie under bars of its own."""
    sides = zip(
        (inside.export.left, inside.export.top, inside.export.width, inside.export.height),
        (inside.master.left, inside.master.top, inside.master.width, inside.master.height),
        strict=True,
    )
    return any(abs(here - there) > LEAST_BARS for here, there in sides)


def _settled(master: Real, export: Real, small: tuple[Real, Real], inside: Inside) -> Place | None:
    """Return the place of a picture that lies where it was expected, or within a sample of it.

    Most pictures do; to try other guesses on them, and align those, is most of the work. None where
    the picture is not so alike that no better place can be.
    """
    if _lies_under_bars(inside) and inside.hint in (None, Rect()):
        return None  # a smooth picture is like itself there, too
    begin = _scored(Rect(), small, inside.export)
    if begin.likeness >= REPEATED_LIKENESS:
        return begin  # nothing moved: refinement would only add its own noise
    if inside.hint is not None and inside.hint != Rect():
        hinted = _scored(inside.hint, small, inside.export)
        under = _lies_under_bars(inside)
        begin = hinted if under else max(begin, hinted, key=lambda place: place.likeness)
    if begin.likeness < EXPECTED_LIKENESS:
        return None
    found = _scored(_finer(master, export, begin, inside.export).rect, small, inside.export)
    if found.rect == begin.rect or found.likeness < SETTLED_LIKENESS:
        return None
    return found if found.likeness > begin.likeness else begin


def _scored(rect: Rect, small: tuple[Real, Real], active: Rect) -> Place:
    return Place(rect, likeness_at(*small, rect, active))


def _tried(guesses: Iterable[Rect], small: tuple[Real, Real], active: Rect) -> list[Place]:
    """Return guesses, the likeliest of them refined too."""
    scored = [_scored(rect, small, active) for rect in dict.fromkeys(guesses)]
    scored.sort(key=lambda place: -place.likeness)
    if any(one.rect == Rect() and one.likeness >= REPEATED_LIKENESS for one in scored):
        return scored  # nothing moved
    likely = [place for place in scored[:3] if place.likeness > LEAST_GUESS]
    refined = (_refine(*small, place, active) for place in likely)
    return [*scored, *(place for place in refined if place)]


def _finer(master: Real, export: Real, place: Place, active: Rect) -> Place:
    """Return a place aligned once more, on more samples and with scale and shift alone."""
    if place.likeness < LEAST_LIKENESS:
        return place
    height, width = export.shape
    side = min(width, FINE_WIDTH)
    size = (side, max(round(height * side / width), 1))
    return replace(place, rect=aligned(master, sample(export, Rect(), size), place.rect, active))


def _plain_guesses(_master: Real, _export: Real, inside: Inside) -> Iterator[Rect]:
    master_active, export_active = inside.master, inside.export
    yield Rect()
    if inside.hint is not None:
        yield inside.hint
    if export_active != Rect() or master_active != Rect():
        yield _mapped(master_active, export_active)
        yield export_active
        yield Rect(0.0, export_active.top, 1.0, export_active.height)
        yield Rect(export_active.left, 0.0, export_active.width, 1.0)


def _feature_guesses(master: Real, export: Real, _inside: Inside) -> Iterator[Rect]:
    matched = _from_features(master, export)
    if matched is not None:
        yield matched


def _window_guesses(master: Real, export: Real, inside: Inside) -> Iterator[Rect]:
    place = window_place(master, export, inside.shapes)
    if place is not None:
        yield place


def _mapped(source: Rect, goal: Rect) -> Rect:
    """Return where the whole lies when `source` (a part of it) lies at `goal`."""
    wide, high = goal.width / source.width, goal.height / source.height
    return Rect(goal.left - source.left * wide, goal.top - source.top * high, wide, high)


def _from_features(master: Real, export: Real) -> Rect | None:
    """Return a guess from matched corners: scale and shift that most of them agree on."""
    finder = cv2.ORB.create(nfeatures=1200, fastThreshold=5)
    bytes_of = [cv2.convertScaleAbs(p, alpha=0.25) for p in (master, export)]
    (points_m, marks_m), (points_e, marks_e) = (finder.detectAndCompute(p, None) for p in bytes_of)
    if len(points_m) < 20 or len(points_e) < 20:
        return None  # then the signatures may be None, too
    matches = cv2.BFMatcher(cv2.NORM_HAMMING, crossCheck=True).match(marks_m, marks_e)
    if len(matches) < 12:
        return None
    source = np.array([points_m[m.queryIdx].pt for m in matches], dtype=np.float64)
    goal = np.array([points_e[m.trainIdx].pt for m in matches], dtype=np.float64)
    matrix, inliers = cv2.estimateAffine2D(source, goal, ransacReprojThreshold=2.0)
    if int(np.sum(inliers)) < 12:
        return None
    return _rect_from_matrix(np.asarray(matrix, dtype=np.float64))


def _rect_from_matrix(matrix: npt.NDArray[np.float64]) -> Rect | None:
    """Return the rectangle that a GRID → GRID affine map gives; None if sheared or turned."""
    width, height = GRID
    if abs(matrix[0, 1]) > MAX_SHEAR * 5 or abs(matrix[1, 0]) > MAX_SHEAR * 5:
        return None
    if not (0.1 < matrix[0, 0] < 10 and 0.1 < matrix[1, 1] < 10):
        return None
    # Sample centres: position p is at (p + ½) ÷ size.
    centre_x = matrix[0, 0] * (width / 2 - 0.5) + matrix[0, 1] * (height / 2 - 0.5) + matrix[0, 2]
    centre_y = matrix[1, 0] * (width / 2 - 0.5) + matrix[1, 1] * (height / 2 - 0.5) + matrix[1, 2]
    middle_x, middle_y = (centre_x + 0.5) / width, (centre_y + 0.5) / height
    wide, high = float(matrix[0, 0]), float(matrix[1, 1])
    return Rect(float(middle_x) - wide / 2, float(middle_y) - high / 2, wide, high)


def _refine(master: Real, export: Real, guess: Place, active: Rect) -> Place | None:
    """Return the guess aligned directly, or None where that runs away."""
    rect, (width, height) = guess.rect, GRID
    start = np.array(
        [
            [1 / rect.width, 0, (-rect.left / rect.width) * width + 0.5 / rect.width - 0.5],
            [0, 1 / rect.height, (-rect.top / rect.height) * height + 0.5 / rect.height - 0.5],
        ],
        dtype=np.float32,
    )
    inside = seen_in(rect, active)
    covered = guess.likeness < CLEAR_LIKENESS and is_near(rect)
    seen = uncovered(placed_at(master, rect), export, inside) if covered else None
    mask = (inside if seen is None else seen).astype(np.uint8) * 255
    found = align_directly(export, master, start, mask)
    if found is None:
        return None
    inverse = cv2.invertAffineTransform(found)
    if abs(inverse[0, 1]) > MAX_SHEAR or abs(inverse[1, 0]) > MAX_SHEAR:
        return None
    placed = _rect_from_matrix(np.asarray(inverse, dtype=np.float64))
    return Place(placed, likeness_at(master, export, placed, active)) if placed else None
