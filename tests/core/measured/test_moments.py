"""Which moments of spheres and eyes are looked at, and by how many frames an eye is behind."""

import unittest
from fractions import Fraction

import cv2
import numpy as np

from shapkeen.core.geometry.packing import SIDE_BY_SIDE
from shapkeen.core.measured.alignment.signature import SignatureSeries
from shapkeen.core.measured.alignment.time.frame_map import FrameMap
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.grid import reduce_frame
from shapkeen.core.measured.pair_pass.views import ViewSampler, ViewSampling, chosen_views
from shapkeen.core.measured.stereo.moment import Sharing
from shapkeen.core.measured.stereo.sync import frames_late
from tests.builders.media import photo_frames
from tests.core.measured.test_spheres import luma

EACH = 24
SAME = FrameMap(Fraction(1), 0)
CHANGES = (30, 61, 64, 96)
"""Frames at which a scene begins: two in one second, and one that begins a second."""


def frame(number: int) -> Frame:
    scene = sum(number >= change for change in CHANGES)
    plane = np.full((8, 16), 60 + 100 * (scene % 2), np.uint16)
    cb = cr = plane[:4, :8]
    return Frame(number=number, depth=8, luma=plane, cb=cb, cr=cr)


def signature(number: int) -> np.ndarray:
    return np.full((18, 32), 4.0 * frame(number).luma[0, 0], np.float32)


def moments(count: int, cuts: tuple[int, ...], missing: frozenset[int] = frozenset()) -> list[int]:
    """Return the frames that are looked at, of a file surveyed in spans that begin at cuts."""
    sampled_views = []
    for first, end in zip((0, *cuts), (*cuts, count), strict=True):
        sharing = Sharing(SIDE_BY_SIDE, left_first=True)
        view_sampling = ViewSampling(sharing, eyes=False, sphere=False, each=EACH)
        sampler = ViewSampler(view_sampling, None, full_range=False, rate=EACH)
        for number in range(first, end):
            sampler.see(signature(number))
            if number not in missing:
                small = reduce_frame(frame(number), full_range=False)
                sampler.add((frame(number), frame(number)), (small, small))
        sampled_views += sampler.sampled_views
    signatures = np.stack([signature(number) for number in range(count)])
    series = SignatureSeries.of(np.arange(count), signatures)
    chosen = chosen_views(sampled_views, series, EACH)
    return [view.export_frame for view in chosen]


class Moments(unittest.TestCase):
    def test_one_a_second_and_the_first_change_of_scene_in_each(self) -> None:
        self.assertEqual(moments(120, ()), [0, 24, 30, 48, 61, 72, 96])

    def test_are_the_same_however_the_file_is_cut(self) -> None:
        whole = moments(120, ())
        for cuts in ((30,), (61, 64), (10, 29, 31, 62, 97), tuple(range(5, 120, 5))):
            with self.subTest(cuts):
                self.assertEqual(moments(120, cuts), whole)

    def test_pass_to_the_next_pair_where_a_frame_has_none(self) -> None:
        missing = frozenset({0, 1, 24, 61})
        whole = moments(120, (), missing)
        self.assertEqual(whole, [2, 25, 30, 48, 72, 96])
        self.assertEqual(moments(120, (1, 24, 61), missing), whole)


class Lateness(unittest.TestCase):
    def signatures(self, late: tuple[int, int]) -> SignatureSeries:
        """Return the signatures of a moving picture twice beside itself, each eye so late."""
        shown = [
            cv2.resize(luma(f), (16, 18), interpolation=cv2.INTER_AREA)
            for f in photo_frames("coffee", (320, 180), 24)
        ]
        made = [np.hstack([shown[max(n - by, 0)] for by in late]) for n in range(len(shown))]
        return SignatureSeries.of(np.arange(len(shown)), np.stack(made).astype(np.float32))

    def late(self, export: SignatureSeries, cell: int) -> int | None:
        return frames_late(self.signatures((0, 0)), export, SAME, SIDE_BY_SIDE, cell)

    def test_tells_each_eye_by_itself(self) -> None:
        for by in ((0, 0), (1, 0), (0, 1), (2, 0), (0, 2)):
            export = self.signatures(by)
            with self.subTest(by):
                self.assertEqual((self.late(export, 0), self.late(export, 1)), by)

    def test_a_still_tells_nothing(self) -> None:
        moving = self.signatures((0, 0))
        first = moving.rows(np.zeros(len(moving), np.int64))
        still = SignatureSeries.of(moving.numbers, first)
        self.assertIsNone(frames_late(still, still, SAME, SIDE_BY_SIDE, 0))
