"""Colours of the pages: legible by WCAG 2.2, 1.4.3 (text 4.5:1) and 1.4.11 (fields 3:1)."""

import re
import unittest
from pathlib import Path

TOKENS = Path("shapkeen/web/static/css/tokens.css")
THEMES = re.compile(r"\[data-theme=\"(dark|light)\"\] \{(.*?)\}", re.DOTALL)
VALUE = re.compile(r"--sk-([a-z]+): #([0-9a-f]{6})")
GROUNDS = ("page", "sheet", "raised")


def luminance(colour: str) -> float:
    """Return the relative luminance of WCAG 2.2: sRGB with its threshold at 0.04045."""
    parts = [int(colour[at : at + 2], 16) / 255 for at in (0, 2, 4)]
    light = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
    return 0.2126 * light[0] + 0.7152 * light[1] + 0.0722 * light[2]


def contrast(one: str, other: str) -> float:
    low, high = sorted((luminance(one), luminance(other)))
    return (high + 0.05) / (low + 0.05)


class Theme(unittest.TestCase):
    def test_the_formula(self) -> None:
        # WCAG 2.2: black on white is 21:1; #767676 on white is the lightest grey that reaches 4.5:1
        self.assertAlmostEqual(contrast("000000", "ffffff"), 21, places=6)
        self.assertGreater(contrast("767676", "ffffff"), 4.5)
        self.assertLess(contrast("777777", "ffffff"), 4.5)

    def test_text_and_fields_are_legible_on_every_ground(self) -> None:
        themes = dict(THEMES.findall(TOKENS.read_text()))
        self.assertEqual(set(themes), {"dark", "light"})
        for theme, body in themes.items():
            values = dict(VALUE.findall(body))
            for ground in GROUNDS:
                for ink, least in (
                    *((ink, 4.5) for ink in ("text", "quiet", "accent", "bent", "lost")),
                    ("field", 3.0),
                ):
                    with self.subTest(theme=theme, ink=ink, ground=ground):
                        self.assertGreaterEqual(contrast(values[ink], values[ground]), least)
