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

    def test_end_with_the_file_and_pass_over_frames_without_a_counterpart(self) -> None:
        pairs = [(0, 0), (1, 1), (2, 4), (3, 5)]
        self.assertEqual(proxy_pairs(pairs, 2, Fraction(12)), [(2, 4), (3, 5)])
        self.assertEqual(proxy_pairs(pairs, 6, Fraction(12)), [])
