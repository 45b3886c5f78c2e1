"""Spheres of photographs, laid out by the FFmpeg libraries: signs, turns, seams, uprights."""

import unittest

import cv2
import numpy as np

from shapkeen.core.geometry.sphere import Turn, turn_from_matrix, turned_places
from shapkeen.core.measured.alignment.layout.cubemap import matched_joints
from shapkeen.core.measured.alignment.layout.orientation import find_turn, turned, yaw_between
from shapkeen.core.measured.alignment.layout.projection import kind_of
from shapkeen.core.measured.alignment.layout.projection_signs import middle_of, signs_of
from shapkeen.core.measured.alignment.layout.repacking import in_steps, repack, repacked_raster
from shapkeen.core.measured.model import Repacking
from shapkeen.core.measured.sphere.enlargements import enlargements_of
from shapkeen.core.measured.sphere.horizon import horizon_of
from shapkeen.core.measured.sphere.seam import Edges, SeamStep, added_step, edges_of
from tests.builders.media import PHOTOS, photo_frames
from tests.builders.spheres import FACES, OTHERS, filtered, sphere_frames

SIZE = (1024, 512)


def luma(picture: np.ndarray) -> np.ndarray:
    """Return a picture's luma as 10-bit codes, single precision."""
    return (64 + 876 * picture @ np.array([0.2126, 0.7152, 0.0722])).astype(np.float32)


def sphere(faces: tuple[str, ...] = FACES, size: tuple[int, int] = SIZE) -> np.ndarray:
    return luma(sphere_frames(faces, size, 1)[0])


def coded_roughly(picture: np.ndarray, quality: int = 40) -> np.ndarray:
    """Return luma after a rough coding of another kind: JPEG."""
    codes = np.clip(picture / 4, 0, 255).astype(np.uint8)
    _, data = cv2.imencode(".jpg", codes, [cv2.IMWRITE_JPEG_QUALITY, quality])
    return cv2.imdecode(data, cv2.IMREAD_GRAYSCALE).astype(np.float32) * 4


class Kinds(unittest.TestCase):
    def test_knows_whole_spheres_however_they_are_turned_and_coded(self) -> None:
        for faces in (FACES, OTHERS):
            for shift in (0, 137, 700):
                picture = np.roll(sphere(faces), shift, axis=1)
                for shown in (picture, coded_roughly(picture)):
                    self.assertEqual(kind_of(signs_of(shown), 2.0), "equirectangular")

    def test_takes_no_flat_photograph_for_a_sphere(self) -> None:
        for photo in PHOTOS:
            flat = luma(photo_frames(photo, SIZE, 1)[0])
            self.assertIn(kind_of(signs_of(flat), 2.0), ("rectilinear", None))
            self.assertLess(matched_joints(flat), 4)

    def test_knows_half_a_sphere(self) -> None:
        half = sphere()[:, 256:768]
        self.assertEqual(kind_of(signs_of(half), 1.0), "half-equirectangular")
        self.assertIsNone(kind_of(signs_of(half), 2.0))

    def test_knows_a_cube_in_any_layout(self) -> None:
        for layout in ("c3x2:w=768:h=512", "c6x1:w=1536:h=256", "c1x6:w=256:h=1536"):
            whole = (sphere_frames(FACES, (2048, 1024), 1)[0] * 255).astype(np.uint8)
            cube = filtered(whole, f"e:{layout}:interp=cubic:yaw=35:pitch=20:roll=10")
            self.assertEqual(kind_of(signs_of(luma(cube / 255)), 1.5), "cubemap", layout)

    def test_a_covered_tripod_is_no_broken_pole(self) -> None:
        picture = sphere()
        picture[-90:] = 64
        self.assertEqual(kind_of(signs_of(picture), 2.0), "equirectangular")

    def test_says_nothing_of_a_black_or_even_picture(self) -> None:
        for level in (64, 500):
            signs = signs_of(np.full((512, 1024), level, np.float32))
            self.assertIsNone(kind_of(signs, 2.0))

    def test_takes_the_middle_of_several_pictures(self) -> None:
        signs = [signs_of(sphere()), signs_of(np.full((512, 1024), 64, np.float32))]
        self.assertEqual(middle_of(signs).seam, round(signs[0].seam, 4))


class Turning(unittest.TestCase):
    def test_finds_any_turn_to_a_fiftieth_of_a_degree(self) -> None:
        picture = sphere()
        for turn in (Turn(90), Turn(-3.3), Turn(40, 6, -4), Turn(150, -50, 100), Turn(0, 2, 0)):
            with self.subTest(turn):
                maps = (place.astype(np.float32) for place in turned_places(turn, SIZE))
                export = cv2.remap(picture, *maps, cv2.INTER_CUBIC, borderMode=cv2.BORDER_WRAP)
                found = find_turn(picture, coded_roughly(export * 0.9 + 20))
                off = turn_from_matrix(found.turn.matrix() @ turn.matrix().T)
                self.assertLess(max(abs(off.yaw), abs(off.pitch), abs(off.roll)), 0.02)

    def test_finds_the_turn_that_ffmpeg_made(self) -> None:
        frame = sphere_frames(FACES, SIZE, 1)[0]
        made = filtered((frame * 255).astype(np.uint8), "e:e:yaw=-25:pitch=-7:interp=cubic")
        found = find_turn(luma(frame), luma(made / 255)).turn
        self.assertAlmostEqual(found.yaw, 25, delta=0.1)
        self.assertAlmostEqual(found.pitch, 7, delta=0.1)

    def test_finds_none_between_unrelated_spheres(self) -> None:
        self.assertIsNone(find_turn(sphere(FACES), sphere(OTHERS)))
        self.assertIsNone(find_turn(sphere(), np.full((512, 1024), 64, np.float32)))

    def test_tells_the_yaw_that_is_left(self) -> None:
        picture = sphere()
        self.assertAlmostEqual(yaw_between(picture, np.roll(picture, 3, 1)), 3 * 360 / 1024, 1)
        self.assertAlmostEqual(yaw_between(picture, coded_roughly(picture)), 0, 1)

    def test_a_master_laid_out_anew_lies_as_its_export(self) -> None:
        picture = sphere()
        turn = in_steps(Repacking(turn=Turn(yaw=90.1)), SIZE)
        self.assertEqual(turn.turn.yaw, 90)
        np.testing.assert_array_equal(repack(picture, turn), np.roll(picture, 256, 1))
        tilted = repack(picture, Repacking(turn=Turn(0, 10, 0)))
        self.assertGreater(
            np.corrcoef(tilted.ravel(), turned(picture, Turn(0, 10, 0)).ravel())[0, 1], 0.99
        )

    def test_knows_the_raster_of_eyes_laid_out_anew(self) -> None:
        way = Repacking(("beside", "stacked"), (0, 1))
        self.assertEqual(repacked_raster((3840, 1080), way), (1920, 2160))
        self.assertEqual(repacked_raster((1920, 1080), Repacking(("beside", "mono"))), (960, 1080))


class Seams(unittest.TestCase):
    def added(self, export: np.ndarray) -> SeamStep:
        master = sphere()
        return added_step(master, export, Edges(edges_of(master), edges_of(export)))

    def step(self, export: np.ndarray) -> float:
        found = self.added(export)
        return found.seam / found.ordinary

    def test_coding_adds_no_more_at_the_seam_than_elsewhere(self) -> None:
        for quality in (90, 60, 30):
            self.assertLess(self.step(coded_roughly(sphere(), quality)), 2)

    def test_an_edge_that_was_darkened_or_moved_shows(self) -> None:
        dark = sphere()
        dark[:, :8] = 64 + (dark[:, :8] - 64) * 0.85
        self.assertGreater(self.step(coded_roughly(dark, 90)), 3)
        moved = sphere()
        moved[:, -60:] = np.roll(moved[:, -60:], 5, axis=0)
        self.assertGreater(self.step(coded_roughly(moved, 90)), 2.5)

    def test_tells_at_which_latitude(self) -> None:
        export = sphere()
        export[100:150, :4] += 100
        worst = max(self.added(export).rows, key=lambda row: abs(row[1]))
        self.assertAlmostEqual(worst[0], 90 - 125 / 512 * 180, delta=10)

    def test_shows_both_edges_beside_each_other_and_both_poles(self) -> None:
        picture = np.zeros((512, 1024), np.float32)
        picture[:, :60], picture[:, -60:], picture[:100], picture[-100:] = 400, 800, 200, 600
        views = enlargements_of(picture)
        middle = views.seam[len(views.seam) // 2]
        self.assertEqual((middle[0], middle[-1]), (200, 100))
        self.assertEqual((views.top[24][24], views.bottom[24][24]), (50, 150))


class Uprights(unittest.TestCase):
    def test_finds_how_far_a_room_with_upright_lines_leans(self) -> None:
        columns, rows = np.meshgrid(np.arange(1024), np.arange(512))
        room = 400 + 200 * np.sign(np.sin(columns / 1024 * 40 * np.pi)) * (np.abs(rows - 256) < 150)
        for turn in (Turn(), Turn(0, 4, 0), Turn(0, 0, -5), Turn(30, -3, 6)):
            with self.subTest(turn):
                found = horizon_of(turned(room.astype(np.float32), turn))
                self.assertAlmostEqual(found.pitch, turn.pitch, delta=0.4)
                self.assertAlmostEqual(found.roll, turn.roll, delta=0.4)

    def test_says_nothing_where_nothing_stands_upright(self) -> None:
        chance = np.random.default_rng(3).uniform(64, 900, (128, 256)).astype(np.float32)
        self.assertIsNone(horizon_of(cv2.resize(chance, SIZE)))
        self.assertIsNone(horizon_of(np.full((512, 1024), 500, np.float32)))
