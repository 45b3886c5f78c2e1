"""Parallax by the worked examples: mm, divergence, seen distance, angle."""

import unittest
from math import inf

from shapkeen.core.geometry.parallax import Screen, samples_from_percent


class Parallax(unittest.TestCase):
    def test_limits_by_the_table_of_screens(self) -> None:
        # arithmetic of stereoscopic parallax: screen width, 1 %, divergence limit, in 1920 samples
        for width_m, one, limit, samples in (
            (0.70, 7, 9.29, 178.3),
            (1.22, 12.2, 5.33, 102.3),
            (1.66, 16.6, 3.92, 75.2),
            (10, 100, 0.65, 12.5),
            (20, 200, 0.325, 6.2),
        ):
            screen = Screen(width_m * 1000, 3000)
            self.assertAlmostEqual(screen.mm(1), one, 9)
            self.assertAlmostEqual(screen.divergence_percent, limit, 2)
            self.assertAlmostEqual(
                samples_from_percent(screen.divergence_percent, 1920), samples, 1
            )

    def test_says_where_a_thing_seems_to_stand(self) -> None:
        # D 2 m: +20 mm at 2.889 m, -20 mm at 1.529 m, 65 mm at infinity
        screen = Screen(1000, 2000)
        self.assertAlmostEqual(screen.seen_at_mm(2), 2889, 0)
        self.assertAlmostEqual(screen.seen_at_mm(-2), 1529, 0)
        self.assertEqual(screen.seen_at_mm(6.5), inf)
        self.assertEqual(screen.seen_at_mm(9), inf)

    def test_knows_one_degree_from_three_seats(self) -> None:
        # 1 degree is 1.473 % of width from 1.5 picture heights, 1.964 % from 2, 2.946 % from 3
        for heights, percent in ((1.5, 1.473), (2, 1.964), (3, 2.946)):
            screen = Screen(1600, heights * 900)
            self.assertAlmostEqual(screen.comfort[0], -percent, 3)
            self.assertAlmostEqual(screen.angle_deg(percent), 1, 3)

    def test_keeps_the_zone_within_parallel_eyes(self) -> None:
        # 10 m wide: 65 mm is 0.65 %, one degree from 20 m would be 3.5 %
        self.assertAlmostEqual(Screen(10_000, 20_000).comfort[1], 0.65, 9)
