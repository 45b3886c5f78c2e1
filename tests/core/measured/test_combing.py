"""Woven fields: told from pictures that comb by themselves, however many frames are looked at."""

import unittest
from itertools import pairwise

import numpy as np

from shapkeen.core.measured.detail.combing import comb_share, woven_beyond
from tests.builders.media import PHOTOS, coded, photo_frames


def lines(number: int) -> np.ndarray:
    """Return a progressive test picture of fine lines, 8 bits, that moves."""
    rows = np.arange(360)[:, None] + number * 3
    columns = np.arange(640)[None, :]
    zone = np.cos((rows**2 + (columns + 2 * number) ** 2) / 900)
    return np.where(columns < 320, 126 + 90 * zone, 126 + 90 * np.cos(rows * 2.6)).astype(np.uint8)


class Woven(unittest.TestCase):
    def test_more_looking_finds_no_more_by_chance(self) -> None:
        chance = np.random.default_rng(5)
        for count in (24, 240, 2400):
            masters = [comb_share(lines(number % 40), 8) for number in range(min(count, 40))]
            masters = (masters * (count // len(masters)))[:count]
            self.assertGreater(max(masters), 0.2)  # the picture combs by itself
            exports = [share + abs(chance.normal(0, 0.01)) for share in masters]
            with self.subTest(count=count):
                self.assertLess(woven_beyond(list(zip(masters, exports, strict=True))), 0)

    def test_one_odd_frame_tells_nothing_and_telecine_does(self) -> None:
        whole = [(0.001, 0.001)] * 40
        self.assertLess(woven_beyond([*whole, (0.001, 0.4)]), 0.01)
        telecine = [(0.001, 0.3 if number % 5 < 2 else 0.001) for number in range(40)]
        self.assertGreater(woven_beyond(telecine), 0.2)
        self.assertIsNone(woven_beyond([]))

    def test_photographs_woven_from_two_moments(self) -> None:
        for photo in PHOTOS:
            luma = [coded(one, matrix=1, depth=8)[0] for one in photo_frames(photo)]
            pairs = []
            for one, other in pairwise(luma):
                woven = one.copy()
                woven[1::2] = other[1::2]
                pairs.append((comb_share(one, 8), comb_share(woven, 8)))
            with self.subTest(photo):
                self.assertGreater(woven_beyond(pairs), 0.05)
                self.assertLess(woven_beyond([(one, one) for one, _ in pairs]), 0.01)
