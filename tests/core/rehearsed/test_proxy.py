"""Proxies of both files: which pairs of frames they show."""

import unittest
from fractions import Fraction
from itertools import pairwise

from shapkeen.core.rehearsed.proxy import SECONDS, proxy_pairs, proxy_step


class ProxyPairs(unittest.TestCase):
    def test_follow_each_other_in_the_exports_own_frames(self) -> None:
        pairs = [(number + 5, number) for number in range(400)]
        rate = Fraction(60000, 1001)
        step = proxy_step(rate)
        shown = proxy_pairs(pairs, 37, rate)
        self.assertEqual(shown[0], (42, 37))
        self.assertEqual({b[1] - a[1] for a, b in pairwise(shown)}, {step})
        self.assertEqual(len(shown), round(SECONDS * rate / step))

    def test_a_picture_stands_at_its_frame_whatever_is_missing(self) -> None:
        # Frames 2 and 3 of the export have no counterpart: the one before them stays meanwhile.
        pairs = [(0, 0), (1, 1), (2, 4), (3, 5)]
        self.assertEqual(proxy_pairs(pairs, 0, Fraction(12)), [(0, 0), *[(1, 1)] * 3, *pairs[2:]])
        self.assertEqual(proxy_pairs(pairs, 3, Fraction(12)), [(1, 1), (2, 4), (3, 5)])
        self.assertEqual(proxy_pairs([(0, 7), (1, 8)], 6, Fraction(12)), [(0, 7), (0, 7), (1, 8)])
        self.assertEqual(proxy_pairs(pairs, 6, Fraction(12)), [])
        self.assertEqual(proxy_pairs([], 0, Fraction(12)), [])
