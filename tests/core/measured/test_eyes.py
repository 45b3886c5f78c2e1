"""Two eyes: a photographed pair whose disparity is known, and photographs with depth put in."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from shapkeen.core.measured.alignment.layout.cells import cells_of, joined
from shapkeen.core.measured.alignment.layout.correspondences import find_correspondences
from shapkeen.core.measured.alignment.layout.frame_sequential import (
    frame_sequential_order,
    is_frame_sequential,
)
from shapkeen.core.measured.alignment.layout.packing import match_views, packing_alone
from shapkeen.core.measured.alignment.layout.view_matching import fit, view_order
from shapkeen.core.measured.stereo.parallax import SIZE, agreeing, match_eyes
from shapkeen.core.measured.stereo.view_difference import sharpness_between
from tests.builders.eyes import eyes_frames, motorcycle
from tests.builders.media import PHOTOS, photo_frames
from tests.core.measured.test_spheres import coded_roughly, luma

SCENES = ("motorcycle", "coffee", "astronaut")


def eyes(scene: str, number: int = 0) -> tuple[np.ndarray, np.ndarray]:
    left, right = eyes_frames(scene)[number]
    return luma(left), luma(right)


class Parallax(unittest.TestCase):
    def test_meets_the_known_disparity_of_a_photographed_pair(self) -> None:
        # Middlebury 2014 "Motorcycle", as scikit-image ships it with its disparity.
        left, right, truth = motorcycle()
        known = np.isfinite(truth)
        drawn = cv2.resize(np.where(known, truth, 0).astype(np.float32), SIZE, interpolation=0)
        drawn *= SIZE[0] / truth.shape[1]
        told = cv2.resize(known.astype(np.uint8), SIZE, interpolation=0) > 0
        for quality, bad, middle in ((None, 0.11, 0.25), (40, 0.19, 0.4)):
            pair = [luma(eye / 255) for eye in (left, right)]
            pair = [coded_roughly(eye, quality) for eye in pair] if quality else pair
            found = match_eyes(*pair)
            off = np.abs(-found.away - drawn)[found.known & told]
            with self.subTest(quality, bad=np.mean(off > 1), middle=np.median(off)):
                self.assertGreater((found.known & told).sum() / told.sum(), 0.6)
                self.assertLess(np.mean(off > 1), bad)
                self.assertLess(np.median(off), middle)
            percent = -drawn[told] / SIZE[0] * 100
            self.assertAlmostEqual(found.use.nearest, np.percentile(percent, 2), delta=0.3)
            self.assertAlmostEqual(found.use.farthest, np.percentile(percent, 98), delta=0.3)

    def test_signs_and_vertical_parallax(self) -> None:
        left, right = eyes("coffee")
        for dx, dy in ((0, 0), (12, 0), (-12, 0), (0, 3), (0, -5)):
            found = match_eyes(left, np.roll(right, (dy, dx), axis=(0, 1))).use
            plain = match_eyes(left, right).use
            with self.subTest((dx, dy)):
                # moved right: behind the screen, positive
                self.assertAlmostEqual(found.middle - plain.middle, dx / 6.4, delta=0.1)
                self.assertAlmostEqual(found.vertical, dy / 3.6, delta=0.05)

    def test_says_nothing_of_patterns_blank_or_unlike_pictures(self) -> None:
        stripes = np.tile((500 + 300 * np.sin(np.arange(640) / 4)).astype(np.float32), (360, 1))
        self.assertIsNone(match_eyes(stripes, np.roll(stripes, 5, 1)))
        blank = np.full((360, 640), 64, np.float32)
        self.assertIsNone(match_eyes(blank, blank))
        self.assertIsNone(match_eyes(eyes("coffee")[0], blank))

    def test_leaves_out_what_was_matched_wrongly(self) -> None:
        pair = eyes("coffee")
        found = match_eyes(*pair)
        part = np.s_[100:120, 200:260]
        away = found.away.copy()
        away[part] -= 40
        told = agreeing(replace(found, away=away), found, pair)
        self.assertGreater(found.known[part].sum(), 400)
        self.assertLess(told.known[part].sum(), 40)
        lost = found.known.sum() - told.known.sum()
        self.assertEqual(lost, found.known[part].sum() - told.known[part].sum())

    def test_keeps_a_part_that_came_nearer_and_another_depth(self) -> None:
        left, right = eyes("coffee")
        found = match_eyes(left, right)
        nearer = right.copy()
        nearer[100:160, 180:280] = right[100:160, 200:300]  # stands 20 samples further left
        moved = match_eyes(left, nearer)
        inside = np.s_[115:145, 215:285]
        told = agreeing(moved, found, (left, nearer))
        went = moved.known & (np.abs(moved.away - found.away + 20) < 2)
        self.assertGreater(went[inside].sum(), 300)
        # where the picture is smooth both places fit
        self.assertGreater(told.known[inside][went[inside]].mean(), 0.95)
        deeper = replace(found, away=found.away * 2)
        np.testing.assert_array_equal(agreeing(deeper, found, (left, right)).known, found.known)


class Packing(unittest.TestCase):
    def test_knows_two_eyes_beside_and_over_each_other(self) -> None:
        for scene in SCENES:
            for way in ("beside", "stacked"):
                picture = coded_roughly(joined(eyes(scene), way))
                with self.subTest((scene, way)):
                    self.assertEqual(packing_alone([picture]).way, way)

    def test_takes_no_flat_photograph_for_two_eyes(self) -> None:
        for photo in PHOTOS:
            flat = luma(photo_frames(photo, (1280, 720), 1)[0])
            self.assertEqual(packing_alone([flat]).way, "mono", photo)

    def test_knows_one_eye_twice(self) -> None:
        left, right = eyes("coffee")
        self.assertTrue(find_correspondences(left, coded_roughly(left)).are_same)
        self.assertFalse(find_correspondences(left, right).are_same)

    def test_a_pattern_that_repeats_proves_nothing(self) -> None:
        tiles = np.tile((500 + 300 * np.sin(np.arange(640) / 5)).astype(np.float32), (360, 1))
        self.assertIsNone(find_correspondences(tiles, np.roll(tiles, 4, 1)).share)

    def test_seats_each_eye_by_its_masters(self) -> None:
        for scene in SCENES:
            left, right = eyes(scene)
            for order in ((0, 1), (1, 0), (0, 0), (1, 1)):
                cells = [coded_roughly((left, right)[at]) for at in order]
                found = view_order([((left, right), cells)])
                with self.subTest((scene, order)):
                    self.assertEqual(found.eyes, order)
                    self.assertGreater(found.lead, 1.3)

    def test_finds_eyes_packed_another_way(self) -> None:
        pair = eyes("astronaut")
        master = joined(pair, "beside")
        for way in ("beside", "stacked"):
            squeezed = cv2.resize(joined(pair, way), (640, 360))
            self.assertEqual(match_views([master], [squeezed], "beside", None).way, way)
        self.assertEqual(match_views([master], [pair[0]], "beside", None).way, "mono")
        self.assertIsNone(match_views([master], [eyes("coffee")[0]], "beside", None))

    def test_cells_come_apart_as_they_were_joined(self) -> None:
        pair = eyes("coffee")
        for way in ("beside", "stacked"):
            for one, other in zip(pair, cells_of(joined(pair, way), way), strict=True):
                np.testing.assert_array_equal(one, other)


class Shifts(unittest.TestCase):
    def test_finds_shifts_and_size_to_a_hundredth_of_a_sample(self) -> None:
        left, _ = eyes("astronaut")
        for dx, dy in ((0, 0), (5, 0), (0, -4), (7, 3)):
            found = fit(coded_roughly(np.roll(left, (dy, dx), axis=(0, 1))), left, fine=True)
            self.assertAlmostEqual(found.dx * 640, dx, delta=0.1)
            self.assertAlmostEqual(found.dy * 360, dy, delta=0.1)
            self.assertAlmostEqual(found.size, 1, delta=0.001)
        smaller = np.pad(cv2.resize(left, (608, 342)), ((9, 9), (16, 16)), constant_values=64)
        self.assertAlmostEqual(fit(smaller, left, fine=True).size, 0.95, delta=0.005)

    def test_tells_which_eye_is_softer(self) -> None:
        left, right = eyes("motorcycle")
        self.assertAlmostEqual(sharpness_between(left, right), 1, delta=0.1)
        self.assertLess(sharpness_between(left, cv2.GaussianBlur(right, (0, 0), 1.5)), 0.7)
        self.assertIsNone(sharpness_between(left, np.full_like(left, 500)))


class InTurn(unittest.TestCase):
    def series(self, scene: str, *, swapped: bool = False) -> list[np.ndarray]:
        order = (1, 0) if swapped else (0, 1)
        return [eyes(scene, number)[at] for number in range(5) for at in order]

    def test_knows_eyes_frame_after_frame_from_a_moving_camera(self) -> None:
        for scene in SCENES:
            self.assertTrue(is_frame_sequential(self.series(scene)), scene)
        for photo in PHOTOS:
            frames = [luma(frame) for frame in photo_frames(photo)]
            self.assertFalse(is_frame_sequential(frames), photo)

    def test_a_still_and_a_flicker_are_no_eyes(self) -> None:
        left = eyes("coffee")[0]
        self.assertFalse(is_frame_sequential([left] * 8))
        self.assertFalse(is_frame_sequential([left * (1 + 0.05 * (n % 2)) for n in range(8)]))

    def test_tells_the_order_by_the_masters(self) -> None:
        master = self.series("astronaut")
        for swapped in (False, True):
            export = [coded_roughly(p) for p in self.series("astronaut", swapped=swapped)]
            found = frame_sequential_order(master, export)
            self.assertEqual((found.swapped, found.sure), (swapped, True))
