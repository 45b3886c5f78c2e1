"""The time left: by work done of work known, and never more than what was newly learned."""

import unittest

from shapkeen.core.remaining import Remaining, clock_words


class TimeLeft(unittest.TestCase):
    def test_at_an_even_pace_it_is_what_is_left_at_that_pace(self) -> None:
        clock = Remaining()
        self.assertIsNone(clock.learn(0, 100, 0.0))
        self.assertEqual(clock.learn(25, 100, 5.0), 15.0)
        self.assertEqual(clock.learn(50, 100, 10.0), 10.0)
        self.assertEqual(clock.learn(100, 100, 20.0), 0.0)

    def test_it_never_rises_while_work_slows_down(self) -> None:
        clock = Remaining()
        clock.learn(0, 100, 0.0)
        left = [clock.learn(done, 100, now) for done, now in ((50, 5), (51, 9), (52, 20), (90, 30))]
        self.assertEqual(left, sorted(left, reverse=True))

    def test_work_that_was_not_known_of_is_added_at_the_same_pace(self) -> None:
        clock = Remaining()
        clock.learn(0, 100, 0.0)
        self.assertEqual(clock.learn(90, 100, 9.0), 1.0)
        self.assertEqual(clock.learn(100, 200, 10.0), 10.0)

    def test_words(self) -> None:
        self.assertEqual(clock_words(4.25), "4.2 s")
        self.assertEqual(clock_words(42), "42 s")
        self.assertEqual(clock_words(125), "2 min 05 s")
        self.assertEqual(clock_words(3725), "1 h 02 min")
