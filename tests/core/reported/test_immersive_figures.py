"""Drawings of spheres and of parallax: geometry, limits, and words."""

import re
import unittest
from dataclasses import replace

from shapkeen.core.geometry.parallax import Screen
from shapkeen.core.geometry.sphere import Turn
from shapkeen.core.measured import (
    ParallaxUse,
    SphereEnlargements,
    SphereFindings,
    SphereSigns,
    StereoMoment,
    ViewShift,
)
from shapkeen.core.reported.figures import eyes, sphere
from shapkeen.core.reported.immersive import parallax_words, resolution_line

SCREEN = Screen(1000, 2000)
COUNTS = [0] * 240
COUNTS[120 + 5] = 100  # +0.5 %
USE = ParallaxUse(
    counts=tuple(COUNTS),
    nearest=-1.0,
    middle=0.5,
    farthest=2.0,
    vertical=0.02,
    vertical_spread=0.1,
    matched=0.8,
)
STILL = ViewShift(dx=0.0, dy=0.0, likeness=0.99, other=0.6)


def moment(time_s: float, use: ParallaxUse | None = USE) -> StereoMoment:
    return StereoMoment(
        master_frame=int(time_s * 24),
        export_frame=int(time_s * 24),
        time_s=time_s,
        parallax=(use, use),
        shifts=(STILL, STILL),
        colour=(0.5, 0.6),
        sharpness=(1.0, 1.0),
    )


class EyesDrawing(unittest.TestCase):
    def test_moves_with_convergence_by_its_own_scale(self) -> None:
        drawn = eyes.eyes_figure([moment(0), moment(1)], SCREEN)
        scales = {float(text) for text in re.findall(r'data-scale="([\d.]+)"', drawn)}
        self.assertEqual(len(scales), 1)
        # one degree from 2 m on 1 m is 3.49 % of the width; the axis reaches 0.6 % beyond
        self.assertAlmostEqual(scales.pop(), 300 / (2 * (3.491 + 0.6)), delta=0.05)
        self.assertIn("-1.00 to +2.00 % of the width, -10 to +20 mm", drawn)

    def test_names_the_screen_and_where_eyes_are_parallel(self) -> None:
        self.assertNotIn("parallel", eyes.eyes_figure([moment(0)], Screen(500, 1500)))
        drawn = eyes.eyes_figure([moment(0)], Screen(2600, 4000))
        for word in ("in front", "behind", "screen", "parallel"):
            self.assertIn(word, drawn)

    def test_draws_nothing_where_nothing_was_matched(self) -> None:
        self.assertEqual(eyes.eyes_figure([moment(0, None)], SCREEN), "")

    def test_tells_parallax_in_mm_and_where_things_stand(self) -> None:
        # worked example: 2 m away, +20 mm at 2.889 m
        value, words = parallax_words([USE], SCREEN)
        self.assertEqual(value, "-1.00 to +2.00 % of width")
        self.assertIn("-10.0 to +20.0 mm on 1 m", words)
        self.assertIn("to 2.89 m", words)
        far = replace(USE, farthest=7.0)
        self.assertIn("beyond parallel", parallax_words([far], SCREEN)[1])

    def test_tells_what_a_viewer_gets_of_a_sphere(self) -> None:
        # worked example: 4096 wide, 90 degrees: 11.4 samples a degree, 1024 to 1304 samples
        _, value, words = resolution_line(4096)
        self.assertEqual(value, "11.4 samples a degree")
        self.assertIn("1024 to 1304 samples", words)


class SphereDrawing(unittest.TestCase):
    def test_shows_seams_poles_and_the_step_with_its_limit(self) -> None:
        signs = SphereSigns(seam=1.0, unrelated=8.0, top=0.1, bottom=0.1, stretch=0.4)
        view = SphereEnlargements(
            seam=((1, 2), (3, 4)), top=((5, 6), (7, 8)), bottom=((9, 10), (11, 12))
        )
        found = SphereFindings(
            signs=(signs, signs),
            kinds=("equirectangular", "equirectangular"),
            turn=Turn(),
            turn_likeness=0.99,
            seam=30.0,
            ordinary=4.0,
            moments=(),
            rows=((60.0, 0.0), (0.0, 40.0), (-60.0, 0.0)),
            views=(view, view),
        )
        drawn = sphere.sphere_figure(found, 2.2)
        self.assertEqual(drawn.count("<image"), 6)
        self.assertIn("30.0 codes at the seam, 4.0 elsewhere", drawn)
        # ±40 codes on 96 across: the limit 2.2 · 4 stands 10.56 from the middle
        middle = sphere.PLOT_LEFT + sphere.PLOT_WIDTH / 2
        self.assertIn(f'x1="{middle + 8.8 * 48 / 40:.2f}"', drawn)
        self.assertEqual(sphere.sphere_figure(replace(found, views=None), 2.2), "")
