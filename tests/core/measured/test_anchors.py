"""Exports that begin far into their master, or after a leader: signatures, and real clips."""

import unittest
from dataclasses import replace
from functools import lru_cache
from unittest import mock

import cv2
import numpy as np

from shapkeen.core.errors import UsageError
from shapkeen.core.measured import Source
from shapkeen.core.measured.alignment.time import anchors
from shapkeen.core.measured.alignment.time.anchors import anchored_offset
from shapkeen.core.measured.alignment.time.rows import BLOCK, HeldRows
from shapkeen.core.measured.survey.pair import survey_pair
from tests.builders.comparing import in_acts
from tests.builders.media import PHOTOS, Coding, coded, photo_frames, write
from tests.core.measured.test_timing import HARD, READING

SIZE = (256, 144)


OTHERS = ("china", "flower", "motorcycle", "immunohistochemistry")


@lru_cache
def programme(photos: tuple[str, ...] = PHOTOS) -> tuple:
    """Return 200 frames: four photographs that stand still, over each a part of another moves."""
    frames = []
    for photo, other in zip(photos, photos[1:] + photos[:1], strict=True):
        ground = photo_frames(photo, SIZE)[0]
        moving = photo_frames(other, SIZE)[0][20:84, 60:150]
        for number in range(50):
            frame = ground.copy()
            left = int(80 + 70 * np.sin(number / 7))
            top = int(40 + 35 * np.cos(number / 11))
            frame[top : top + 64, left : left + 90] = moving
            frames.append(coded(frame, matrix=1, depth=8))
    return tuple(frames)


def clip(name: str, planes: list, **options: str) -> Source:
    coding = (Coding() if name == "master" else HARD).with_options(**options)
    path = write(f"anchors-{name}", planes, coding)
    return Source(path, replace(READING, frame_count=len(planes)))


def offset(master: np.ndarray, export: np.ndarray, assumed: int | None = None) -> int | None:
    return anchored_offset(HeldRows(master), HeldRows(export), assumed)


class Signatures(unittest.TestCase):
    def rows(self, count: int, seed: int = 1) -> np.ndarray:
        walk = np.cumsum(np.random.default_rng(seed).normal(0, 0.2, (count, 60)), axis=0)
        walk += np.random.default_rng(seed + 1).normal(0, 2, (1, 60))
        walk -= walk.mean(axis=1, keepdims=True)
        return (walk / np.linalg.norm(walk, axis=1, keepdims=True)).astype(np.float32)

    def test_any_offset_is_found(self) -> None:
        rows = self.rows(900)
        for first in (0, 37, 400, 700):
            self.assertEqual(offset(rows, rows[first : first + 200]), first)
        self.assertEqual(offset(rows[500:], rows[300:]), -200)

    def test_far_in_a_long_film_which_is_looked_at_by_blocks(self) -> None:
        rows = self.rows(2 * BLOCK + 900)
        for first in (BLOCK - 5, 2 * BLOCK + 300):
            self.assertEqual(offset(rows, rows[first : first + 200]), first)

    def test_drops_do_not_hide_it(self) -> None:
        rows = self.rows(900)
        self.assertEqual(offset(rows, np.delete(rows[300:600], [150], axis=0)), 300)

    def test_loops_keep_to_what_was_assumed(self) -> None:
        # twice the same, and played twice: every stretch fits in two places
        loop = np.tile(self.rows(150), (2, 1))
        noise = np.random.default_rng(5).normal(0, 2e-4, loop.shape).astype(np.float32)
        self.assertEqual(offset(loop, loop + noise, 0), 0)
        self.assertEqual(offset(loop, (loop + noise)[150:], 150), 150)

    def test_still_unrelated_or_short_rows_have_none(self) -> None:
        rows = self.rows(300)
        still = np.repeat(rows[:1], 100, axis=0)
        self.assertIsNone(offset(rows, still))
        self.assertIsNone(offset(rows, self.rows(200, 9)))
        self.assertIsNone(offset(rows, rows[:5]))
        self.assertIsNone(offset(rows[:5], rows))


class Clips(unittest.TestCase):
    def test_a_part_from_far_in_is_found(self) -> None:
        planes = list(programme())
        master = clip("master", planes)
        for first, last in ((110, 170),):
            found = survey_pair(master, clip(f"part{first}", planes[first:last]), frames=6).timing
            assert found is not None
            with self.subTest(first=first):
                self.assertEqual((found.trimmed_in, found.trimmed_out), (first, 200 - last))
                self.assertEqual((found.missing, found.shown_again), (0, 0))

    def test_another_film_is_refused_without_a_search_frame_by_frame(self) -> None:
        short_groups = {"g": "8", "sc_threshold": "0"}
        master = clip("master", list(programme()), **short_groups)
        wrong = clip("wrong", list(programme(OTHERS)), **short_groups)
        part = clip("keyed-part", list(programme())[90:], **short_groups)
        with mock.patch.object(anchors, "_signatures", side_effect=AssertionError("searched")):
            with self.assertRaises(UsageError) as caught:
                survey_pair(master, wrong, frames=6)
            self.assertEqual(caught.exception.code, "no-common-frame")
            with self.assertRaisesRegex(AssertionError, "searched"):
                anchors.far_offset(master, part)
        self.assertEqual(anchors.far_offset(master, part), 90)

    def test_a_leader_before_the_picture_is_told(self) -> None:
        planes = list(programme())
        black = tuple(np.full_like(p, v) for p, v in zip(planes[0], (16, 128, 128), strict=True))
        found = survey_pair(
            clip("master", planes), clip("leader", [black] * 60 + planes), frames=6
        ).timing
        assert found is not None
        self.assertEqual((found.added_in, found.trimmed_in, found.missing), (60, 0, 0))

    @in_acts
    def test_a_moving_part_in_another_light_is_found(self) -> None:
        planes = list(programme())
        dark = [
            (cv2.convertScaleAbs(p[0], alpha=0.8, beta=4).astype(p[0].dtype), *p[1:])
            for p in planes
        ]
        found = survey_pair(clip("master", planes), clip("dark", dark[90:180]), frames=6).timing
        assert found is not None
        self.assertEqual((found.trimmed_in, found.trimmed_out), (90, 20))
