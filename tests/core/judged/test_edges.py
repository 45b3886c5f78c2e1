"""Highlights that end, roll off along a curve of their own, or only sank in a blur.

Figures: what photographs that scikit-learn ships showed after these acts (docs/diagnosis.md).
"""

import unittest
from dataclasses import replace

from shapkeen.core.judged.conversion import found_conversion
from shapkeen.core.judged.edges import is_flattened
from shapkeen.core.measured import ActFit, DetailCurve, DetailFindings, HighlightEdge
from tests.builders.evidence import DETAIL, SURVEY, TONE, evidence
from tests.core.judged.test_rules import causes, verdicts


def edge(**figures: float) -> HighlightEdge:
    measured = {"level": 0.574, "nits": 190.0, "cut": 18.8, "rolled": 13.2, "kept": 60.9}
    return HighlightEdge(**(measured | {"slope": 0.36, "samples": 246_000} | figures))


def acts(**residuals: float) -> tuple[ActFit, ...]:
    made = [
        ActFit(act=name.replace("_", "-"), residual=residual, values={})
        for name, residual in residuals.items()
    ]
    return tuple(sorted(made, key=lambda fit: fit.residual))


def weakened(transfer: float, *, follows: float) -> DetailFindings:
    """Return detail of which the middle frequency keeps a half, and so much follows."""
    curve = DetailCurve((0.25, 0.5, 0.95), (1.0, 0.5, 0.0), (1.0, 0.5 + follows / 2, 0.0))
    return replace(DETAIL, transfer=transfer, across=curve, down=curve)


def named(**changes: object) -> str | None:
    found = found_conversion(replace(SURVEY, **changes))
    return found.fit.act if found else None


class RollingOff(unittest.TestCase):
    SHOULDER = acts(tone_compressed=8.8, highlights_clipped=13.9, gamma_shifted=34.7, identity=85.7)

    def test_a_shoulder_that_is_none_of_ours_is_told_where_nothing_else_comes_near(self) -> None:
        self.assertEqual(named(acts=self.SHOULDER, highlights=edge()), "tone-compressed")
        near = acts(tone_compressed=8.8, gamma_shifted=12.0, identity=85.7)
        self.assertIsNone(named(acts=near, highlights=edge()))
        far = acts(tone_compressed=11.0, gamma_shifted=34.7, identity=85.7)
        self.assertIsNone(named(acts=far, highlights=edge()))

    def test_light_above_it_must_go_on_rising_and_less_than_it_did(self) -> None:
        for slope in (0.1, 0.8):
            self.assertIsNone(named(acts=self.SHOULDER, highlights=edge(slope=slope)))

    def test_where_a_cut_explains_it_as_well_nothing_is_told(self) -> None:
        alike = acts(tone_compressed=0.56, highlights_clipped=0.61, gamma_shifted=9.4, identity=9.5)
        ends = edge(cut=7.6, rolled=6.4, kept=32.3, slope=0.33)
        self.assertIsNone(named(acts=alike, highlights=ends))


class EndingAtALevel(unittest.TestCase):
    STILL = acts(identity=0.97, gamma_shifted=0.97, highlights_clipped=1.07)
    SMALL = edge(level=0.948, cut=2.5, rolled=2.6, kept=13.4, slope=0.03, samples=3363)

    def test_a_blur_takes_light_from_small_highlights(self) -> None:
        soft = weakened(0.077, follows=0.93)
        self.assertIsNone(named(acts=self.STILL, highlights=self.SMALL, detail=soft))
        self.assertEqual(
            named(acts=self.STILL, highlights=self.SMALL, detail=DETAIL), "highlights-clipped"
        )

    def test_what_coding_took_is_no_blur(self) -> None:
        coded = weakened(0.16, follows=0.05)
        self.assertEqual(
            named(acts=self.STILL, highlights=self.SMALL, detail=coded), "highlights-clipped"
        )

    def test_where_even_places_wander_coding_sank_it(self) -> None:
        crawling = replace(TONE, noise=7.4)
        coded = weakened(0.07, follows=-0.1)
        rough = {"acts": self.STILL, "highlights": self.SMALL, "tone": crawling}
        self.assertIsNone(named(**rough, detail=coded))
        self.assertEqual(named(**rough, detail=DETAIL), "highlights-clipped")  # fine structure is

    def test_a_cut_beside_a_blur_is_told_where_it_takes_more(self) -> None:
        soft, deep = weakened(0.077, follows=0.93), replace(self.SMALL, kept=86.0)
        self.assertEqual(named(acts=self.STILL, highlights=deep, detail=soft), "highlights-clipped")


class SmallLights(unittest.TestCase):
    """A field of stars at CRF 18 to 26, cut and rolled off: coding wears its lights down, too."""

    STILL = EndingAtALevel.STILL

    def test_rough_coding_leaves_more_of_a_cut(self) -> None:
        rough = edge(nits=419.0, cut=6.5, rolled=5.7, kept=22.7, slope=0.13, samples=4078)
        curve = acts(tone_compressed=2.97, highlights_clipped=7.27, identity=16.3)
        self.assertEqual(named(acts=curve, highlights=rough), "highlights-clipped")

    def test_a_roll_off_is_told_where_a_cut_explains_much_less(self) -> None:
        rolled = edge(nits=441.0, cut=3.2, rolled=1.5, kept=27.1, slope=0.14, samples=15_494)
        found = found_conversion(replace(SURVEY, acts=self.STILL, highlights=rolled))
        self.assertEqual(found.fit.act, "tone-compressed")
        self.assertAlmostEqual(found.fit.values["peak"], 441.0)

    def test_of_a_few_samples_nobody_can_tell(self) -> None:
        for figures in (
            # a rocket's flame, cut and rolled off to 600 cd/m²; stars cut at 400 (x265 CRF 18, 20)
            {"cut": 2.08, "rolled": 1.42, "kept": 7.5, "slope": 0.088, "samples": 156},
            {"cut": 1.72, "rolled": 1.42, "kept": 8.0, "slope": 0.059, "samples": 163},
            {"cut": 5.41, "rolled": 2.79, "kept": 19.9, "slope": 0.206, "samples": 725},
        ):
            self.assertIsNone(named(acts=self.STILL, highlights=edge(**figures)))

    def test_of_a_masters_own_white_neither(self) -> None:
        # nearly all of it is one white, rolled off to 750 cd/m² (x265 CRF 22)
        white = edge(level=0.72, cut=0.89, rolled=0.84, kept=7.6, slope=0.042, samples=12_650)
        self.assertEqual(named(acts=self.STILL, highlights=white), "highlights-clipped")
        self.assertIsNone(named(acts=self.STILL, highlights=replace(white, levels=1.5)))

    def test_either_is_lost_though_nobody_can_tell_which(self) -> None:
        # stars, cut and rolled off; wings and young plants, cut (x265, SVT-AV1, CRF 18 to 28)
        for worn in (
            edge(nits=397.0, cut=5.6, rolled=3.9, kept=17.7, slope=0.24, samples=652),
            edge(nits=441.0, cut=3.2, rolled=1.5, kept=27.1, slope=0.1, samples=15_494),
            edge(nits=394.0, cut=3.1, rolled=1.2, kept=26.6, slope=0.099, samples=2178),
            edge(nits=388.0, cut=3.5, rolled=1.5, kept=34.6, slope=0.108, samples=11_050),
        ):
            survey = replace(SURVEY, acts=self.STILL, highlights=worn)
            with self.subTest(worn.nits):
                self.assertIsNone(found_conversion(survey))
                self.assertTrue(is_flattened(survey))
                made = replace(evidence(), survey=survey)
                self.assertEqual((verdicts(made)["tone"], causes(made)), ("lost", {}))

    def test_healthy_and_merely_rough_ones_are_not(self) -> None:
        for figures in (
            {"cut": 8.1, "rolled": 6.3, "kept": 6.3, "slope": 1.3},  # healthy at CRF 26
            {"cut": 24.5, "rolled": 24.3, "kept": 24.6, "slope": 0.02},  # CRF 34
            {"cut": 4.9, "rolled": 1.6, "kept": 1.2, "slope": 0.36},  # healthy, a photograph
        ):
            self.assertFalse(is_flattened(replace(SURVEY, highlights=edge(**figures))))

    def test_nor_are_those_that_lost_their_fine_structure(self) -> None:
        sunk = edge(cut=1.7, rolled=1.5, kept=5.2, slope=0.34)
        rough = replace(SURVEY, highlights=sunk, detail=weakened(0.31, follows=0.08))
        self.assertFalse(is_flattened(rough))


class InsideHighlights(unittest.TestCase):
    """Photographs cut and rolled off at 400 and 600 cd/m², with what calm samples of them showed
    (SVT-AV1 CRF 22, x265 CRF 18 to 21)."""

    STILL = EndingAtALevel.STILL
    BLURRED = edge(level=0.66, cut=2.2, rolled=1.3, kept=18.2, slope=0.12, samples=5425)
    FLAT = edge(level=0.656, cut=1.0, rolled=1.8, kept=15.4, slope=0.1, samples=2694, levels=5.5)

    def named(self, all_of_it: HighlightEdge, calm: HighlightEdge) -> str | None:
        return named(acts=self.STILL, highlights=all_of_it, calm_highlights=calm)

    def test_a_cut_is_flat_there_whatever_coding_did_to_its_border(self) -> None:
        self.assertIsNone(named(acts=self.STILL, highlights=self.BLURRED))
        self.assertEqual(self.named(self.BLURRED, self.FLAT), "highlights-clipped")
        nearly = replace(self.FLAT, cut=1.76, rolled=1.8, slope=0.054, samples=666)
        self.assertEqual(self.named(self.BLURRED, nearly), "highlights-clipped")

    def test_of_another_part_of_the_picture_it_tells_nothing(self) -> None:
        self.assertIsNone(self.named(self.BLURRED, replace(self.FLAT, level=0.3)))

    def test_nor_where_the_masters_own_white_is_all_that_lies_above(self) -> None:
        self.assertIsNone(self.named(self.BLURRED, replace(self.FLAT, levels=3.3)))

    def test_what_rises_there_is_no_cut(self) -> None:
        rolled = edge(level=0.7, cut=1.9, rolled=1.7, kept=16.6, slope=0.142, samples=22_202)
        self.assertEqual(named(acts=self.STILL, highlights=rolled), "highlights-clipped")
        for calm in (
            replace(rolled, cut=1.94, rolled=1.51, slope=0.145, levels=6.0),
            replace(rolled, cut=1.9, rolled=0.5, slope=0.09, levels=6.0),
        ):
            self.assertIsNone(self.named(rolled, calm))

    def test_nor_what_bends_there_along_many_levels(self) -> None:
        # a sea, rolled off to 600 cd/m² and cut there (x265 CRF 19)
        rolled = edge(level=0.697, cut=1.26, rolled=0.87, kept=11.0, slope=0.028, samples=2598)
        calm = replace(rolled, cut=1.09, rolled=0.84, slope=0.06, samples=1541, levels=5.7)
        cut = replace(calm, cut=0.6, rolled=1.2, slope=-0.064, samples=1318, levels=4.7)
        self.assertIsNone(self.named(rolled, calm))
        self.assertEqual(self.named(rolled, cut), "highlights-clipped")

    def test_what_is_flat_there_did_not_roll_off_whatever_fits_best(self) -> None:
        shoulder = RollingOff.SHOULDER
        flat = replace(edge(), slope=-0.05, samples=2691, levels=2.1)
        self.assertEqual(named(acts=shoulder, highlights=edge()), "tone-compressed")
        self.assertIsNone(named(acts=shoulder, highlights=edge(), calm_highlights=flat))

    def test_what_rises_above_a_level_was_not_cut_at_it(self) -> None:
        # cups, blurred under bars: what a blur sank ends below what is calm, and that rises
        sunk = edge(level=0.888, cut=5.7, rolled=8.0, kept=39.4, slope=-0.13, samples=27_790)
        above = edge(level=0.915, cut=4.6, rolled=3.7, kept=8.9, slope=0.77, samples=1629)
        self.assertEqual(named(acts=self.STILL, highlights=sunk), "highlights-clipped")
        self.assertIsNone(self.named(sunk, replace(above, levels=9.5)))
        elsewhere = replace(above, level=0.5, levels=9.5)
        self.assertEqual(self.named(sunk, elsewhere), "highlights-clipped")

    def test_no_roll_off_where_a_part_of_it_is_told_as_well_by_a_cut(self) -> None:
        # a bee and a bridge by night, cut at 600 and 400 cd/m² (x265 CRF 24, SVT-AV1 CRF 24)
        bee = edge(level=0.704, cut=4.19, rolled=2.92, kept=12.5, slope=0.488, samples=122_922)
        inside = replace(bee, level=0.7, cut=1.69, rolled=0.86, slope=0.185, levels=4.9)
        even = replace(bee, level=0.702, cut=0.8, rolled=0.9, kept=16.9, slope=0.087, levels=2.4)
        self.assertEqual(self.named(bee, inside), "tone-compressed")
        told = {"highlights": bee, "calm_highlights": inside}
        self.assertIsNone(named(acts=self.STILL, **told, even_highlights=even))
        night = edge(level=0.658, cut=4.47, rolled=1.53, kept=30.0, slope=0.163, samples=5710)
        lights = replace(night, level=0.66, cut=1.17, rolled=1.12, slope=0.106, samples=605)
        self.assertEqual(named(acts=self.STILL, highlights=night), "tone-compressed")
        self.assertIsNone(self.named(night, replace(lights, levels=4.1)))

    def test_nor_where_light_ends_flat_a_little_lower(self) -> None:
        # a shop full of lamps, cut at 400 cd/m² (SVT-AV1 CRF 21)
        lamps = acts(tone_compressed=3.14, highlights_clipped=4.95, gamma_shifted=27, identity=30.6)
        all_of_it = edge(level=0.657, cut=6.1, rolled=3.59, kept=35.1, slope=0.221, levels=10.1)
        inside = replace(all_of_it, level=0.635, cut=3.3, rolled=2.53, slope=0.059, levels=3.4)
        self.assertEqual(named(acts=lamps, highlights=all_of_it), "tone-compressed")
        self.assertIsNone(named(acts=lamps, highlights=all_of_it, calm_highlights=inside))

    def test_even_places_on_many_levels_outweigh_calm_samples_that_hardly_rise(self) -> None:
        # fruit cut at 600 cd/m², and rolled off to it (x265 CRF 24), even places of one white alone
        fruit = edge(level=0.706, cut=4.51, rolled=3.01, kept=15.9, slope=0.502, samples=145_933)
        inside = replace(fruit, level=0.701, cut=1.12, rolled=0.85, slope=0.07, levels=5.7)
        even = replace(fruit, level=0.7, cut=0.8, rolled=1.81, kept=25.5, slope=0.028, levels=4.2)
        told = {"highlights": fruit, "calm_highlights": inside}
        self.assertNotEqual(named(acts=self.STILL, **told), "highlights-clipped")
        cut = named(acts=self.STILL, **told, even_highlights=even)
        self.assertEqual(cut, "highlights-clipped")
        rolled = edge(level=0.702, cut=2.98, rolled=1.68, kept=17.7, slope=0.215, samples=52_313)
        inside = replace(rolled, cut=1.35, rolled=1.53, slope=0.063, levels=2.6)
        white = replace(rolled, cut=0.84, rolled=0.8, kept=40.6, slope=-0.078, levels=1.1)
        told = {"highlights": rolled, "calm_highlights": inside, "even_highlights": white}
        self.assertNotEqual(named(acts=self.STILL, **told), "highlights-clipped")

    def test_a_roll_off_is_told_by_it(self) -> None:
        worn = edge(level=0.65, cut=8.3, rolled=6.3, kept=21.3, slope=0.57, samples=89_002)
        calm = replace(worn, cut=3.7, rolled=1.5, kept=20.7, slope=0.25, levels=7.0)
        self.assertIsNone(named(acts=self.STILL, highlights=worn))
        self.assertEqual(self.named(worn, calm), "tone-compressed")
        flat = replace(calm, cut=2.0, slope=0.02, levels=2.1)
        rolled = replace(worn, cut=3.6, rolled=1.6, slope=0.22)
        self.assertEqual(named(acts=self.STILL, highlights=rolled), "tone-compressed")
        self.assertIsNone(self.named(rolled, flat))
