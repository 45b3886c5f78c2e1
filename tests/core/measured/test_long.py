"""What is kept of a long film: signatures on disk, in any order, and moments told from them.

Walks by NumPy's generator stand for pictures; what is dropped from them is known.
"""

import unittest
from fractions import Fraction
from unittest import mock

import numpy as np

from shapkeen.core.measured.alignment import signature
from shapkeen.core.measured.alignment.signature import SignatureSeries, kept
from shapkeen.core.measured.alignment.time.frame_map import FrameMap
from shapkeen.core.measured.time.timing import find_timing

SAME = FrameMap(Fraction(1), 0)


def walk(count: int, seed: int = 1) -> np.ndarray:
    """Return signatures (n, 18, 32) that wander, in 10-bit codes."""
    chance = np.random.default_rng(seed)
    steps = np.cumsum(chance.normal(0, 6, (count, 18, 32)), axis=0)
    return np.clip(512 + chance.normal(0, 120, (1, 18, 32)) + steps, 0, 1023).astype(np.float32)


def noisy(rows: np.ndarray) -> np.ndarray:
    """Return signatures as coding leaves them."""
    return rows + np.random.default_rng(9).normal(0, 1.0, rows.shape).astype(np.float32)


class Kept(unittest.TestCase):
    def test_parts_in_any_order_come_back_in_order_from_disk_as_from_memory(self) -> None:
        rows = walk(300)
        wanted = np.array([0, 1, 2, 299, 7, 8, 150, 0])
        for most in (1 << 20, 64):  # held in memory, and written to disk at once
            with mock.patch.object(signature, "MOST_HELD", most):
                series = SignatureSeries()
            for first in (200, 0, 100):
                numbers = np.arange(first, first + 100)
                series.add(numbers[::-1], kept(rows[numbers[::-1]]))
            with self.subTest(most):
                self.assertEqual(series.numbers.tolist(), list(range(300)))
                self.assertLess(np.abs(series.rows(wanted) - rows[wanted]).max(), 1 / 60)
                self.assertEqual(series._file._rolled, most == 64)


class Moments(unittest.TestCase):
    def timing(self, master: np.ndarray, export: np.ndarray, **more: object):
        sides = (SignatureSeries.of(np.arange(len(s)), s) for s in (master, noisy(export)))
        found = find_timing(*sides, SAME, **more)
        assert found is not None
        return found.findings

    def test_events_are_told_across_blocks(self) -> None:
        rows = walk(3000)
        self.assertFalse(self.timing(rows, rows).has_events)
        for at in (63, 64, 2047, 2900):  # on either side of where blocks meet
            found = self.timing(rows, np.delete(rows, [at, at + 1], axis=0))
            with self.subTest(at):
                self.assertEqual([(e.master_frame, e.count) for e in found.dropped], [(at, 2)])
                self.assertEqual((found.repeated, found.matched), ((), 2998))

    def test_bars_over_a_picture_hide_no_moment(self) -> None:
        rows = walk(200)
        covered = rows.copy()
        covered[:, :4], covered[:, -4:] = 64, 64
        found = self.timing(rows, covered, painted=(0.2, 0.2, 0.0, 0.0))
        self.assertEqual(
            (found.matched, found.has_events, found.has_other_ends), (200, False, False)
        )
        # what they hide counts for nothing: without them nothing is left in common here
        rows[:, 4:-4] = rows[:1, 4:-4]
        covered[:, 4:-4] = rows[:, 4:-4]
        still = self.timing(rows, covered, painted=(0.2, 0.2, 0.0, 0.0))
        self.assertEqual(still.still_share, 1.0)
