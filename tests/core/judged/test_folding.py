"""HDR folded into SDR: which curves are ordinary, and whether one that nobody promised was made.

Curves are those of tests/builders/folding.py, written apart from the ones that judging knows.
"""

import unittest
from dataclasses import replace

import numpy as np

from shapkeen.core.judged.folding import fault_of, looks_folded, peak_of
from shapkeen.core.measured import ActFit, Fit, FoldFindings
from tests.builders.evidence import TONE, declaration, evidence
from tests.builders.folding import CURVES
from tests.core.judged.test_rules import causes

NITS = np.geomspace(0.5, 1000, 24)


def fold(signal: np.ndarray, nits: np.ndarray = NITS, **more: object) -> FoldFindings:
    values = {
        "transfer": 16,
        "primaries": 1,
        "matrix": 1,
        "curve": tuple(zip(nits.tolist(), np.clip(signal, 0, 1).tolist(), strict=True)),
        "scatter": 4.0,
        "hue": 2.0,
        "saturation": 0.9,
        "flat_above": None,
        "cut": 0.0,
        "white": None,
        "untouched": 120.0,
        "promised": True,
    }
    return FoldFindings(**(values | more))


def through(name: str, white: float) -> np.ndarray:
    return CURVES[name](NITS / white, 1000 / white) ** (1 / 2.4)


class Promised(unittest.TestCase):
    def test_ordinary_folds_have_no_fault(self) -> None:
        for name in ("reinhard", "hable", "mobius", "bt2390", "bt2446"):
            for white in (100.0, 203.0):
                with self.subTest(name, white=white):
                    self.assertIsNone(fault_of(fold(through(name, white))))

    def test_bad_ones_do(self) -> None:
        ordinary = through("bt2390", 100.0)
        for kind, signal in (
            ("milky", 0.16 + 0.62 * ordinary),
            ("dull", 0.7 * ordinary),
            ("dull", 0.75 * np.clip(NITS / 1000, 0, 1) ** (1 / 2.4)),
        ):
            found = fault_of(fold(signal))
            self.assertIsNotNone(found, kind)
            self.assertEqual(found.kind, kind)
            self.assertTrue(found.text)

    def test_of_a_picture_without_black_lifted_tones_are_milky(self) -> None:
        some = NITS[(NITS > 15) & (NITS < 90)]
        for name, white in (("bt2390", 100.0), ("reinhard", 203.0), ("mobius", 160.0)):
            signal = CURVES[name](some / white, 1000 / white) ** (1 / 2.4)
            for lifted, kind in ((signal, None), (0.16 + 0.62 * signal, "milky")):
                found = fault_of(fold(lifted, some))
                with self.subTest(name, kind=kind):
                    self.assertEqual(found.kind if found else None, kind)

    def test_of_light_tones_alone_a_lift_must_explain_nearly_all(self) -> None:
        some = NITS[(NITS > 60) & (NITS < 400)]
        ordinary = CURVES["bt2446"](some / 100, 10.0) ** (1 / 2.4)
        self.assertIsNone(fault_of(fold(ordinary, some)))
        self.assertEqual(fault_of(fold(0.16 + 0.62 * ordinary, some)).kind, "milky")
        # citrus fruit folded by luminance: its signals lie above the curve, up to a white that fits
        light = np.array([54.3, 60.2, 68.2, 75.4, 88.6, 967.7])
        signal = np.array([0.779, 0.806, 0.838, 0.858, 0.873, 1.0])
        self.assertIsNone(fault_of(fold(signal, light)))

    def test_a_cut_below_diffuse_white_is_one(self) -> None:
        cut = fold(np.minimum(NITS / 100, 1) ** (1 / 2.4), flat_above=100.0, cut=0.3)
        found = fault_of(cut)
        self.assertEqual((found.kind, found.measure.value), ("clipped", 100))
        self.assertIsNone(fault_of(fold(through("mobius", 203.0), flat_above=600.0, cut=0.01)))


class Unpromised(unittest.TestCase):
    def test_it_is_told_by_curve_and_hue(self) -> None:
        ordinary = through("bt2446", 100.0)
        self.assertTrue(looks_folded(fold(ordinary), stated_hdr=False))
        self.assertFalse(looks_folded(fold(ordinary, scatter=90.0), stated_hdr=False))
        self.assertFalse(looks_folded(fold(ordinary, hue=80.0), stated_hdr=False))

    def test_under_a_pq_tag_its_tones_must_be_sdrs(self) -> None:
        self.assertTrue(looks_folded(fold(through("hable", 203.0)), stated_hdr=True))
        # PQ codes, read as SDR: ITU-R BT.2100-2 table 4, 1000 cd/m² at 0.752
        pq_like = np.interp(np.log(NITS), np.log([0.5, 10, 100, 1000]), [0.12, 0.3, 0.508, 0.752])
        self.assertFalse(looks_folded(fold(pq_like), stated_hdr=True))

    def test_called_sdr_a_fold_wins_over_a_power_that_was_bent_to_fit(self) -> None:
        # a dark wood, folded (x264): gamut and power leave 3.7 codes, the fold 0.2
        sdr = declaration(both={"transfer": 1, "primaries": 1, "matrix": 1, "bit_depth": 8})
        dark = fold(through("reinhard", 300.0), scatter=0.2, promised=False)
        for left, named in ((3.7, ["tone-compressed"]), (0.3, ["gamma-shifted", "tag-wrong"])):
            acts = (
                ActFit(act="gamma-shifted", residual=left, values={"exponent": 1.236}),
                ActFit(act="identity", residual=55.0, values={}),
            )
            left_over = (("gamma-shifted", left, 1.236), ("identity", 55.0, None))
            fits = [Fit(act=a, residual=r, exponent=e) for a, r, e in left_over]
            tone = replace(TONE, fits=(*fits, Fit(act="depth-reduced", residual=60.0)))
            made = evidence(export=sdr, fold=dark, acts=acts, tone=tone)
            self.assertEqual(sorted(set(causes(made)) & {*named, "tone-compressed"}), sorted(named))

    def test_of_too_few_tones_for_any_act_nothing_goes_wrong(self) -> None:
        sdr = declaration(both={"transfer": 1, "primaries": 1, "matrix": 1, "bit_depth": 8})
        dark = fold(through("reinhard", 300.0), scatter=0.2, promised=False)
        for export in (sdr, declaration()):
            named = causes(evidence(export=export, fold=dark, acts=(), tone=None))
            self.assertNotIn("gamma-shifted", named)

    def test_what_white_stands_for(self) -> None:
        self.assertEqual(peak_of(fold(through("clip", 203.0), white=203.4)), 203)
        self.assertEqual(peak_of(fold(through("reinhard", 203.0))), 100)
