"""Highlights that end, roll off along a curve of their own, or only sank in a blur.

Figures: what photographs that scikit-learn ships showed after these acts (docs/diagnosis.md).
"""

import unittest
from dataclasses import replace

from shapkeen.core.judged.conversion import found_conversion
from shapkeen.core.measured import ActFit, DetailCurve, DetailFindings, HighlightEdge
from tests.builders.evidence import DETAIL, SURVEY


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

    def test_a_cut_beside_a_blur_is_told_where_it_takes_more(self) -> None:
        soft, deep = weakened(0.077, follows=0.93), replace(self.SMALL, kept=86.0)
        self.assertEqual(named(acts=self.STILL, highlights=deep, detail=soft), "highlights-clipped")
