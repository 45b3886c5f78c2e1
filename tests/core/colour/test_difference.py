"""Colour differences against colour-science, scikit-image and published pairs."""

import unittest

import colour
import numpy as np
from skimage.color import deltaE_ciede2000

from shapkeen.core.colour.difference import (
    delta_e_2000,
    delta_e_itp,
    ictcp_from_light,
    lab_from_xyz,
)

# Sharma, Wu and Dalal 2005, table 1 (from memory): pairs of CIELAB, and CIEDE2000.
PUBLISHED = (
    ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
    ((50.0, -1.3802, -84.2814), (50.0, 0.0, -82.7485), 1.0000),
    ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
    ((50.0, 2.5, 0.0), (50.0, 3.2592, 0.3350), 1.0000),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
)


class Differences(unittest.TestCase):
    def test_published_pairs(self) -> None:
        for one, other, expected in PUBLISHED:
            found = float(delta_e_2000(np.array(one), np.array(other)))
            self.assertAlmostEqual(found, expected, places=4)

    def test_random_colours_against_two_libraries(self) -> None:
        chance = np.random.default_rng(5)
        one, other = (chance.uniform((0, -90, -90), (100, 90, 90), (2000, 3)) for _ in "ab")
        found = delta_e_2000(one, other)
        np.testing.assert_allclose(found, deltaE_ciede2000(one, other), atol=1e-6)
        expected = colour.difference.delta_E_CIE2000(one, other)
        np.testing.assert_allclose(found, expected, atol=1e-6)
        self.assertEqual(float(delta_e_2000(one[:1], one[:1])[0]), 0.0)

    def test_lab_against_colour_science(self) -> None:
        xyz = np.random.default_rng(6).uniform(0, 1, (500, 3))
        white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
        np.testing.assert_allclose(lab_from_xyz(xyz), colour.XYZ_to_Lab(xyz, white), atol=0.02)

    def test_ictcp_and_itp_against_colour_science(self) -> None:
        chance = np.random.default_rng(7)
        one, other = (chance.uniform(0, 1000, (500, 3)) for _ in "ab")
        mine = ictcp_from_light(one)
        theirs = colour.RGB_to_ICtCp(one, method="ITU-R BT.2100-2 PQ", L_p=10000)
        np.testing.assert_allclose(mine, theirs, atol=2e-6)
        expected = colour.difference.delta_E_ITP(mine, ictcp_from_light(other))
        np.testing.assert_allclose(delta_e_itp(one, other), expected, rtol=1e-9)
