"""A sheared picture, and one that something lies over: told apart by where its rows lie.

Pictures: scikit-image's open samples; the shear and the letters: plain OpenCV.
"""

import unittest

import cv2
import numpy as np
from skimage import data

from shapkeen.core.compared import judge_survey, survey_files
from shapkeen.core.compared.alone import look_at_file
from shapkeen.core.measured.decoded.grid import Rect
from shapkeen.core.measured.tone.cover_cells import cover_cells
from shapkeen.core.measured.tone.overlay import find_overlays, find_shear
from tests.builders.covering import painted, written
from tests.builders.media import SDR, coded, photo_frames, write

SIZE = (640, 360)
SHEARS = (-24.0, 12.0, 24.0)
"""Samples by which the last row lies further right than the first."""


def sheared(plane: np.ndarray, by: float) -> np.ndarray:
    """Return a plane with each row moved to the side; by: of its samples, first row to last."""
    height, width = plane.shape
    matrix = np.array([[1, by / height, -by / 2], [0, 1, 0]], float)
    drawn = cv2.warpAffine(
        plane.astype(np.float32), matrix, (width, height), borderMode=cv2.BORDER_REPLICATE
    )
    return np.clip(np.round(drawn), 0, 255).astype(plane.dtype)


def planes_of(picture: str, count: int = 3) -> list[tuple[np.ndarray, ...]]:
    return [coded(frame, matrix=1, depth=8) for frame in photo_frames(picture, SIZE, count)]


class Shears(unittest.TestCase):
    def cells(self, given, came):
        found = []
        for number, (one, other) in enumerate(zip(given, came, strict=True)):
            names = zip(("luma", "cb", "cr"), one, strict=True)
            planes = {name: plane.astype(np.float32) * 4 for name, plane in names}
            luma = other[0].astype(np.float32) * 4
            found.append(cover_cells(number, planes, luma, Rect()))
        return found

    def test_a_shear_is_measured_and_covers_nothing(self) -> None:
        for picture in ("coffee", "astronaut", "rocket"):
            given = planes_of(picture)
            for by in SHEARS:
                bent = [
                    (sheared(y, by), sheared(u, by / 2), sheared(v, by / 2)) for y, u, v in given
                ]
                cells = self.cells(given, bent)
                with self.subTest(picture, by=by):
                    self.assertAlmostEqual(find_shear(cells, SIZE[0]), by, delta=1.5)
                    self.assertEqual(find_overlays(cells, SIZE)[0], ())

    def test_what_moves_by_its_distance_is_not_sheared(self) -> None:
        # the two eyes of a photographed pair (Middlebury 2014, as scikit-image ships it)
        left, right, _ = data.stereo_motorcycle()
        eyes = []
        for eye in (left, right):
            picture = cv2.resize(eye, SIZE, interpolation=cv2.INTER_AREA).astype(np.float32) / 255
            eyes.append(coded(picture, matrix=1, depth=8))
        # with letters over it: where nothing seems covered no shear is looked for
        came = written(eyes[1:] * 2, "01:00:00:%02d", at=(0.3, 0.6), high=0.08)
        cells = self.cells(eyes[:1] * 2, came)
        self.assertTrue(cells[0].covered.any())
        self.assertEqual(find_shear(cells, SIZE[0]), 0.0)
        # ground that a camera passes, under a sky that stands
        given = planes_of("coffee")
        passed = [tuple(self.passed(p, 16 * p.shape[1] // SIZE[0]) for p in one) for one in given]
        self.assertEqual(find_shear(self.cells(given, passed), SIZE[0]), 0.0)

    def passed(self, plane: np.ndarray, by: int) -> np.ndarray:
        half = len(plane) // 2
        return np.vstack([plane[:half], np.roll(plane[half:], by, axis=1)])

    def test_of_two_eyes_nothing_is_said(self) -> None:
        given = planes_of("coffee")
        bent = [tuple(sheared(p, 24 * p.shape[1] / SIZE[0]) for p in one) for one in given]
        self.assertEqual(find_shear(self.cells(given, bent), SIZE[0], (2, 1)), 0.0)

    def test_letters_shear_nothing(self) -> None:
        for picture in ("coffee", "astronaut", "rocket"):
            given = planes_of(picture)
            for at in ((0.05, 0.12), (0.3, 0.93)):
                came = written(given, "01:00:00:%02d", at=at, high=0.08)
                cells = self.cells(given, came)
                with self.subTest(picture, at=at):
                    self.assertEqual(find_shear(cells, SIZE[0]), 0.0)
                    self.assertTrue(find_overlays(cells, SIZE)[0])

    def test_while_frames_are_not_matched_only_what_lies_over_all_of_them_counts(self) -> None:
        # from a lost frame on what moves differs from the frames that it is held against
        given = planes_of("coffee", 4)
        came = written(given, "01:00:00:%02d", at=(0.3, 0.6), high=0.08)
        cells = self.cells(given, came)
        clean = self.cells(given, given)
        for found, is_timed, expected in (
            (cells, True, True),
            (cells, False, True),
            ([*clean[:2], *cells[2:]], True, True),
            ([*clean[:2], *cells[2:]], False, False),
        ):
            overlays, _ = find_overlays(found, SIZE, is_timed=is_timed)
            self.assertEqual(bool(overlays), expected)

    def test_a_sheared_export_lost_its_framing_and_nothing_lies_over_it(self) -> None:
        given = planes_of("coffee", 10)
        bent = [tuple(sheared(p, 24 * p.shape[1] / SIZE[0]) for p in one) for one in given]
        master = write("sheared-master", given, SDR.with_options(crf="8"))
        export = write("sheared-export", bent, SDR.with_options(crf="20"))
        made = survey_files(master, export, workers=1)
        survival = judge_survey(made.master, made.export, made.survey).survival
        framing = next(one for one in survival.verdicts if one.trait == "framing")
        self.assertEqual(framing.verdict, "lost")
        self.assertIn("further right", framing.why)
        self.assertAlmostEqual(framing.measure.value, 100 * 24 / SIZE[0], delta=0.3)
        named = {cause.id for cause in survival.causes}
        self.assertFalse(named & {"overlay-added", "generation-loss", "softened"}, named)


class Skies(unittest.TestCase):
    """A sky that coding made even looks like a bar, and hides nothing."""

    def pictures(self) -> list[tuple[np.ndarray, ...]]:
        found = []
        for one in planes_of("coffee", 10):
            luma, *chroma = (plane.copy() for plane in one)
            luma[:120] = 150 + np.linspace(0, 3, SIZE[0])
            for plane in chroma:
                plane[:60] = 128
            found.append((luma, *chroma))
        return found

    def named(self, export: str, planes: list[tuple[np.ndarray, ...]]) -> set[str]:
        grain = np.random.default_rng(5).integers(-9, 10, (120, SIZE[0]))
        given = [(y + np.pad(grain, ((0, 240), (0, 0))), *more) for y, *more in self.pictures()]
        given = [(np.clip(y, 0, 255).astype(np.uint8), *more) for y, *more in given]
        master = write("sky-master", given, SDR.with_options(crf="4"))
        made = survey_files(master, write(export, planes, SDR), workers=1, frames=4)
        return {c.id for c in judge_survey(made.master, made.export, made.survey).survival.causes}

    def test_it_is_no_bar_and_one_drawn_over_it_is(self) -> None:
        sky = self.pictures()
        self.assertEqual(self.named("sky-even", sky) & {"letterboxed", "windowboxed"}, set())
        drawn = painted(sky, top=1 / 3)
        self.assertIn("letterboxed", self.named("sky-bar", drawn))

    def test_nor_is_it_one_without_a_master(self) -> None:
        even = write("sky-even", self.pictures(), SDR)
        drawn = write("sky-bar", painted(self.pictures(), top=1 / 3), SDR)
        told = [{one.cause for one in look_at_file(path).suspicions} for path in (even, drawn)]
        self.assertEqual([bool(one & {"letterboxed"}) for one in told], [False, True])
