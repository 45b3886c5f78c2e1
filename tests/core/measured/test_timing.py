"""Which frames are there: drops, repeats, holds, trims and blends made by plain list arithmetic.

Real encoders in between; photographs that move a little from frame to frame.
"""

import unittest
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

import cv2
import numpy as np

from shapkeen.core.measured import PairSurvey, Reading, Source
from shapkeen.core.measured.survey.pair import survey_pair
from tests.builders.comparing import in_acts
from tests.builders.media import PHOTOS, Coding, coded, photo_frames, write

COUNT = 72
READING = Reading(
    full_range=False, transfer=1, matrix=1, rate=Fraction(24), frame_count=None, primaries=1
)
HARD = Coding(options=(("preset", "veryfast"), ("crf", "26")))


@lru_cache
def pictures(photo: str) -> tuple:
    frames = photo_frames(photo, (320, 180), COUNT)
    return tuple(coded(frame, matrix=1, depth=8) for frame in frames)


@lru_cache
def coded_clip(photo: str, name: str, numbers: tuple[int, ...], coding: Coding) -> Source:
    drawn = [pictures(photo)[n] for n in numbers]
    path = write(f"timing-{photo}-{name}", drawn, coding)
    return Source(path, replace(READING, frame_count=len(drawn)))


def mixed(one: tuple, other: tuple) -> tuple:
    """Return the mean of two frames."""
    pairs = zip(one, other, strict=True)
    return tuple(((a.astype(int) + b) // 2).astype(a.dtype) for a, b in pairs)


def survey(name: str, numbers, photo: str = "coffee") -> PairSurvey:
    master = coded_clip(photo, "master", tuple(range(COUNT)), Coding())
    return survey_pair(master, coded_clip(photo, name, tuple(numbers), HARD), frames=6)


class Timing(unittest.TestCase):
    def timing(self, name: str, numbers, photo: str = "coffee"):
        found = survey(name, numbers, photo).timing
        assert found is not None
        return found

    def test_a_healthy_export_misses_nothing(self) -> None:
        for photo in PHOTOS:
            found = self.timing("healthy", range(COUNT), photo)
            with self.subTest(photo):
                self.assertEqual((found.missing, found.shown_again, found.blended), (0, 0, ()))
                self.assertEqual((found.trimmed_in, found.trimmed_out, found.foreign), (0, 0, 0))
                self.assertEqual(found.matched, COUNT)

    def test_dropped_frames(self) -> None:
        for photo, at, count in (("coffee", 30, 1), ("astronaut", 50, 3), ("rocket", 20, 1)):
            numbers = [n for n in range(COUNT) if not at <= n < at + count]
            found = self.timing(f"drop{at}", numbers, photo)
            with self.subTest(photo):
                self.assertEqual((found.missing, found.shown_again), (count, 0))
                self.assertLessEqual(abs(found.dropped[0].master_frame - at), 1)

    @in_acts
    def test_repeated_frames(self) -> None:
        for at, again in ((25, 1), (40, 2)):
            numbers = [*range(at + 1), *[at] * again, *range(at + 1, COUNT)]
            found = self.timing(f"repeat{at}", numbers)
            with self.subTest(again):
                self.assertEqual((found.missing, found.shown_again), (0, again))
                self.assertLessEqual(abs(found.repeated[0].export_frame - at - 1), 1)

    def test_a_frame_held_in_place_of_the_next(self) -> None:
        numbers = [n - 1 if n in (20, 45) else n for n in range(COUNT)]
        found = self.timing("held", numbers)
        self.assertEqual((found.missing, found.shown_again), (0, 2))
        self.assertEqual([event.export_frame for event in found.repeated], [20, 45])

    @in_acts
    def test_ends_cut_off(self) -> None:
        for first, last in ((5, COUNT), (0, COUNT - 11), (7, COUNT - 4)):
            found = self.timing(f"trim{first}-{last}", range(first, last))
            with self.subTest(first=first, last=last):
                self.assertEqual((found.trimmed_in, found.trimmed_out), (first, COUNT - last))
                self.assertEqual((found.missing, found.shown_again), (0, 0))

    def test_likeness_follows_the_frames_after_a_drop(self) -> None:
        found = survey("drop30", [n for n in range(COUNT) if n != 30])
        after = [one for one in found.series if one.export_frame >= 40]
        self.assertEqual({one.master_frame - one.export_frame for one in after}, {1})
        self.assertGreater(min(one.ssim for one in after), 0.93)

    def test_a_mix_of_both_neighbours_is_no_drop(self) -> None:
        drawn = list(pictures("coffee"))
        for at in (20, 33, 51):
            drawn[at] = mixed(drawn[at - 1], drawn[at + 1])
        master = coded_clip("coffee", "master", tuple(range(COUNT)), Coding())
        path = write("timing-blend", drawn, HARD)
        found = survey_pair(master, Source(path, replace(READING, frame_count=COUNT)), frames=6)
        assert found.timing is not None
        # the mix of both neighbours looks like the frame between them
        self.assertEqual((found.timing.missing, found.timing.shown_again), (0, 0))

    def test_blended_frames(self) -> None:
        # fast enough that half a frame stands out from coding: 12 samples of 320 a frame
        still = pictures("astronaut")[0]
        moving = [
            tuple(np.roll(p, 12 * n // (320 // p.shape[1]), axis=1) for p in still)
            for n in range(40)
        ]
        drawn = list(moving)
        for at in (10, 25):
            drawn[at] = mixed(moving[at], moving[at + 1])
        paths = [write(f"timing-fast-{n}", p, Coding()) for n, p in enumerate((moving, drawn))]
        sources = [Source(path, replace(READING, frame_count=40)) for path in paths]
        found = survey_pair(*sources, frames=6).timing
        healthy = survey_pair(sources[0], sources[0], frames=6).timing
        assert found is not None and healthy is not None
        self.assertEqual((found.blended, found.missing, found.shown_again), ((10, 25), 0, 0))
        self.assertEqual(healthy.blended, ())

    def test_a_still_passage_is_told_as_such(self) -> None:
        numbers = [*range(24), *[24] * 24, *range(24, 48)]
        master = coded_clip("coffee", "still-m", tuple(numbers), Coding())
        export = coded_clip("coffee", "still-e", tuple(numbers[:30] + numbers[32:]), HARD)
        found = survey_pair(master, export, frames=6).timing
        assert found is not None
        self.assertGreater(found.still_share, 0.3)
        self.assertEqual(found.missing, 2)  # that two are gone shows; which of the still ones, not

    @in_acts
    def test_mirrored_and_darker_and_smaller(self) -> None:
        drawn = []
        for n in [n for n in range(COUNT) if n != 30]:
            y, cb, cr = pictures("coffee")[n]
            y = (16 + (y.astype(float) - 16) ** 1.08 / 219**0.08).clip(16, 235).astype(np.uint8)
            planes = (
                cv2.resize(p[:, ::-1], (s, t))
                for p, s, t in ((y, 240, 136), (cb, 120, 68), (cr, 120, 68))
            )
            drawn.append(tuple(planes))
        master = coded_clip("coffee", "master", tuple(range(COUNT)), Coding())
        path = write("timing-mirror", drawn, HARD)
        found = survey_pair(
            master, Source(path, replace(READING, frame_count=COUNT - 1)), frames=6
        ).timing
        assert found is not None
        self.assertEqual((found.missing, found.shown_again), (1, 0))
