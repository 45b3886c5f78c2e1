"""Coloured glasses: the published matrices do what they are published for."""

import unittest

import numpy as np
from skimage import data

from shapkeen.core.colour.anaglyph import (
    ALL,
    AMBER_BLUE,
    RED_CYAN,
    combine,
    ghosting,
    plain_channels,
)
from shapkeen.core.colour.sdr import srgb_light_from_signal

LEFT, RIGHT = (
    np.asarray(srgb_light_from_signal(eye / 255)) for eye in data.stereo_motorcycle()[:2]
)


class ColouredGlasses(unittest.TestCase):
    def test_keeps_white_and_black_where_they_are(self) -> None:
        # E. Dubois 2001: white for both eyes stays near white; of red and cyan the sums of rows
        # are 1.00, 0.999 and 1.00.
        for glasses, most in ((RED_CYAN, 0.02), (AMBER_BLUE, 0.14)):
            white = combine(np.ones((1, 3)), np.ones((1, 3)), glasses)
            np.testing.assert_allclose(white, 1, atol=most)
            self.assertEqual(combine(np.zeros((1, 3)), np.zeros((1, 3)), glasses).max(), 0)

    def test_sends_each_eye_through_its_own_filter(self) -> None:
        grey, none = np.full((1, 3), 0.5), np.zeros((1, 3))
        red, green, blue = combine(grey, none, RED_CYAN)[0]
        self.assertTrue(red > 0.4 and max(green, blue) < 0.01)
        red, green, blue = combine(none, grey, RED_CYAN)[0]
        self.assertTrue(red < 0.01 and min(green, blue) > 0.4)
        red, green, blue = combine(none, grey, AMBER_BLUE)[0]
        self.assertTrue(blue > 0.5 and max(red, green) < 0.1)

    def test_ghosts_less_than_plain_channels_on_a_photographed_pair(self) -> None:
        for glasses in ALL:
            made, plain = (
                sum(ghosting(LEFT, RIGHT, one)) for one in (glasses, plain_channels(glasses))
            )
            with self.subTest(glasses.name, made=made, plain=plain):
                self.assertLess(made, plain)

    def test_is_silent_of_one_dark_eye(self) -> None:
        self.assertEqual(ghosting(np.zeros((4, 3)), np.zeros((4, 3)), RED_CYAN), (0.0, 0.0))
