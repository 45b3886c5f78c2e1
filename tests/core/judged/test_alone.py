"""What can be said of an export without its master, and what can't.

Checks of the design, section 4: codes outside 64 to 940 in quantity, depth used, light, gamut.
"""

import unittest
from dataclasses import replace

from shapkeen.core.judged.alone import CONTRADICTS, FITS, OPEN, tell_alone
from shapkeen.core.measured import Damage, GamutUse
from tests.builders.evidence import CODES, LIGHT, WHOLE, declaration


def told(whole=WHOLE, **declared) -> dict[str, str]:
    """Return trait → how the picture stands to what is stated."""
    return {one.title: one.stands for one in tell_alone(whole, declaration(**declared))}


class Alone(unittest.TestCase):
    def test_a_healthy_picture_fits(self) -> None:
        found = told(replace(WHOLE, banding=0.1))
        self.assertEqual(found["Range"], FITS)
        self.assertEqual(found["Levels"], FITS)
        self.assertEqual(found["Light"], FITS)

    def test_broken_pictures(self) -> None:
        self.assertEqual(told()["Decoding"], FITS)
        broken = replace(WHOLE, damage=Damage(count=2, first=7, stretches=((0, 11),)))
        self.assertEqual(told(broken)["Decoding"], CONTRADICTS)

    def test_range(self) -> None:
        full = replace(WHOLE, codes=replace(CODES, below_black=0.04, lowest=0))
        self.assertEqual(told(full)["Range"], CONTRADICTS)
        self.assertEqual(told(full, both={"range": "full"})["Range"], FITS)
        # a full-range flag over a picture that stays inside proves nothing
        self.assertEqual(told(both={"range": "full"})["Range"], OPEN)
        overshoot = replace(WHOLE, codes=replace(CODES, above_white=0.002))
        self.assertEqual(told(overshoot)["Range"], FITS)

    def test_levels(self) -> None:
        combed = replace(WHOLE, codes=replace(CODES, comb=0.98))
        self.assertEqual(told(combed)["Levels"], CONTRADICTS)
        self.assertEqual(told(replace(WHOLE, banding=0.97))["Levels"], OPEN)
        self.assertEqual(told(WHOLE)["Levels"], OPEN)
        self.assertNotIn("Levels", told(replace(WHOLE, codes=replace(CODES, depth=8))))

    def test_light(self) -> None:
        bright = replace(WHOLE, light=replace(LIGHT, p999=1900.0, above_peak=0.02))
        self.assertEqual(told(bright)["Light"], CONTRADICTS)
        silent = declaration(stream={"content_light": {"max_cll": 0, "max_fall": 0}})
        line = next(one for one in tell_alone(bright, silent) if one.title == "Light")
        self.assertEqual(line.stands, OPEN)
        self.assertIn("2.00%", line.words)
        self.assertNotIn("Light", told(replace(WHOLE, light=None)))

    def test_gamut(self) -> None:
        use = GamutUse(outside_p3=0.0, outside_bt709=0.0, worst_p3=0.0, worst_s=0.0)
        self.assertEqual(told(replace(WHOLE, gamut=use))["Gamut in use"], OPEN)
        wide = replace(use, outside_bt709=0.01)
        self.assertEqual(told(replace(WHOLE, gamut=wide))["Gamut in use"], FITS)

    def test_layouts_that_pictures_show(self) -> None:
        sphere = replace(WHOLE, projection="equirectangular")
        self.assertEqual(told(sphere)["Sphere"], CONTRADICTS)  # silence: players show it flat
        self.assertEqual(told(sphere, both={"projection": "equirectangular"})["Sphere"], FITS)
        self.assertEqual(told(sphere, both={"projection": "cubemap"})["Sphere"], CONTRADICTS)
        flat = replace(WHOLE, projection="rectilinear")
        self.assertEqual(told(flat, both={"projection": "equirectangular"})["Sphere"], CONTRADICTS)
        eyes = replace(WHOLE, stereo="left-right")
        self.assertEqual(told(eyes)["Eyes"], CONTRADICTS)
        self.assertEqual(told(eyes, both={"stereo": "left-right"})["Eyes"], FITS)
        # which is the left one, no picture alone can tell
        self.assertEqual(told(eyes, both={"stereo": "right-left"})["Eyes"], OPEN)
        self.assertEqual(told(eyes, both={"stereo": "top-bottom"})["Eyes"], CONTRADICTS)
        self.assertNotIn("Eyes", told(WHOLE))
