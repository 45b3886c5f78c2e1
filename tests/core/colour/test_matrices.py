"""Primaries, luma–chroma matrices and quantisation against published values.

tests/reference/matrices.json: SMPTE RP 177, ITU-R BT.2087-0, BT.2407-0, H.273; provenance there.
"""

import unittest

import colour
import numpy as np

from shapkeen.core.colour import codepoints, matrix, primaries, quantisation
from tests.reference import load

TABLES = load("matrices")
CODES = {"BT.601-525": 6, "BT.601-625": 5, "BT.709": 1, "P3-D65": 12, "DCI-P3": 11, "BT.2020": 9}


class Primaries(unittest.TestCase):
    def test_published_matrices_to_xyz(self) -> None:
        for name, code in CODES.items():
            with self.subTest(name=name):
                published = TABLES["RGB_XYZ"][name]["RGB_to_XYZ"]
                np.testing.assert_allclose(primaries.xyz_from_rgb(code), published, atol=1e-9)

    def test_published_conversions(self) -> None:
        for name, table in TABLES["gamut_conversion_linear"].items():
            source, goal = (CODES[part] for part in name.split(" -> "))
            with self.subTest(name=name):
                made = primaries.between(source, goal)
                np.testing.assert_allclose(made, table["matrix"], atol=1e-9)
                if "printed" in table:  # ITU-R BT.2087-0 and BT.2407-0, four decimals
                    np.testing.assert_allclose(made, table["printed"], atol=5.5e-5)

    def test_agrees_with_colour_science(self) -> None:
        # colour-science 0.4.7: RGB_COLOURSPACES
        theirs = colour.RGB_COLOURSPACES["ITU-R BT.2020"].matrix_RGB_to_XYZ
        np.testing.assert_allclose(primaries.xyz_from_rgb(9), theirs, atol=1e-3)


class LumaChroma(unittest.TestCase):
    def test_published_matrices(self) -> None:
        for name, table in TABLES["YCbCr"]["matrices"].items():
            code = (
                int(name.rpartition("code")[2].strip(" s)").split(",")[0]) if "code" in name else 7
            )
            code = {"SMPTE 240M (code 7)": 7, "BT.2020 NCL (code 9)": 9}.get(name, code)
            with self.subTest(name=name):
                made = matrix.ycbcr_from_rgb(code)
                np.testing.assert_allclose(made, table["RGB_to_YCbCr"], atol=1e-9)

    def test_colour_bar_codes(self) -> None:
        for name, code in (("BT.709 (code 1)", 1), ("BT.2020 NCL (code 9)", 9)):
            for bar, eight, ten in TABLES["colour_bars_narrow_codes"][name]["rows"]:
                for depth, published in ((8, eight), (10, ten)):
                    with self.subTest(bar=bar, depth=depth, matrix=name):
                        self.assertEqual(_bar_codes(bar, code, depth), published)

    def test_inverse_returns(self) -> None:
        for code in matrix.WEIGHTS:
            product = matrix.rgb_from_ycbcr(code) @ matrix.ycbcr_from_rgb(code)
            np.testing.assert_allclose(product, np.eye(3), atol=1e-12)


BARS = {
    "white": (1, 1, 1),
    "yellow": (1, 1, 0),
    "cyan": (0, 1, 1),
    "green": (0, 1, 0),
    "magenta": (1, 0, 1),
    "red": (1, 0, 0),
    "blue": (0, 0, 1),
    "black": (0, 0, 0),
}


def _bar_codes(name: str, code: int, depth: int) -> list[int]:
    share, _, colour_name = name.partition("% ")
    rgb = np.array(BARS[colour_name]) * int(share) / 100
    luma, cb, cr = matrix.ycbcr_from_rgb(code) @ rgb
    # Sums that stand for a half must not fall on its wrong side.
    luma, cb, cr = (round(float(v), 12) for v in (luma, cb, cr))
    return [
        int(quantisation.luma_code_from_signal(luma, depth=depth, full_range=False)),
        int(quantisation.chroma_code_from_signal(cb, depth=depth, full_range=False)),
        int(quantisation.chroma_code_from_signal(cr, depth=depth, full_range=False)),
    ]


class Quantisation(unittest.TestCase):
    def test_published_code_values(self) -> None:
        for depth in (8, 10, 12):
            published = load("transfer-values")["code_values"][str(depth)]
            with self.subTest(depth=depth):
                black, span = quantisation.luma_offset_span(depth=depth, full_range=False)
                self.assertEqual(black, published["narrow"]["luma_black"])
                self.assertEqual(black + span, published["narrow"]["luma_white"])
                zero, chroma = quantisation.chroma_zero_span(depth=depth, full_range=False)
                self.assertEqual(zero, published["narrow"]["chroma_zero"])
                self.assertEqual(chroma, published["narrow"]["chroma_steps_pp"])
                full = quantisation.luma_offset_span(depth=depth, full_range=True)
                self.assertEqual(full, (0, published["full"]["white"]))

    def test_limited_read_as_full(self) -> None:
        # tests/reference/transfer-values.json, range_mistakes_8bit: arithmetic
        for code, shown in ((16, 0.0627), (235, 0.9216)):
            found = quantisation.signal_from_luma_code(code, depth=8, full_range=True)
            self.assertAlmostEqual(float(found), shown, delta=5e-5)


class CodePoints(unittest.TestCase):
    def test_knows_every_published_code(self) -> None:
        # ITU-T H.273 tables 2 to 4 (tests/reference/codepoints.json)
        tables = load("codepoints")
        for key, names in (
            ("colour_primaries", codepoints.PRIMARIES),
            ("transfer_characteristics", codepoints.TRANSFERS),
            ("matrix_coefficients", codepoints.MATRICES),
        ):
            stated = {row[0] for row in tables[key]["rows"] if "reserved" not in row[1]}
            # 15 to 17 of the matrices came with later editions and are shown by number.
            self.assertLessEqual(stated - {15, 16, 17}, set(names), key)

    def test_equal_curves_mean_the_same(self) -> None:
        self.assertTrue(codepoints.mean_the_same("transfer", 1, 14))
        self.assertTrue(codepoints.mean_the_same("matrix", 5, 6))
        self.assertFalse(codepoints.mean_the_same("transfer", 1, 16))
        self.assertFalse(codepoints.mean_the_same("primaries", 5, 6))
