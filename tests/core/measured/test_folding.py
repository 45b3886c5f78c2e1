"""How HDR was folded: hues and flat highlights, on colours folded in plain NumPy.

Codes by colour-science: BT.2020 under PQ (ITU-R BT.2100), BT.709 (ITU-R BT.709).
"""

import unittest
import warnings

import numpy as np

from shapkeen.core.colour.coding import Coding
from shapkeen.core.measured.tone.conversions import Cells
from shapkeen.core.measured.tone.folding import find_fold
from tests.builders.folding import folded

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

OWN = Coding(transfer=16, primaries=9, matrix=9, full_range=False)


def codes(signal: np.ndarray, standard: str) -> np.ndarray:
    made = colour.RGB_to_YCbCr(
        signal, K=colour.WEIGHTS_YCBCR[standard], out_bits=10, out_int=True, out_legal=True
    )
    return np.asarray(made, float)


def cells(light: np.ndarray, signal: np.ndarray, bits: int = 8) -> Cells:
    """Return what a survey gathers: delivered codes of eight bits, on the scale of ten."""
    step = 1 << (10 - bits)
    delivered = np.round(codes(signal, "ITU-R BT.709") / step) * step
    expected = codes(colour.models.eotf_inverse_ST2084(light), "ITU-R BT.2020")
    return Cells(expected.astype(np.float64), delivered)


def tinted(strength: float) -> np.ndarray:
    """Return light in cd/m² of 300 colours off grey by a share, all towards warm ones."""
    chance = np.random.default_rng(5)
    grey = np.geomspace(3, 800, 300)[:, None]
    off = np.array([1.0, 0.1, -0.9]) * strength * chance.uniform(0.6, 1.0, (300, 1))
    return grey * (1 + off)


class Hues(unittest.TestCase):
    def test_weak_colours_tell_a_turn_that_rounding_cannot_make(self) -> None:
        for strength, known in ((0.02, False), (0.12, True)):
            light = tinted(strength)
            signal = folded(light, "reinhard", "luminance", white=203.0, peak=1000.0)
            usual = find_fold(cells(light, signal), OWN, promised=True)
            turned = find_fold(cells(light, signal[..., [2, 0, 1]]), OWN, promised=True)
            with self.subTest(strength=strength):
                self.assertIsNone(usual.hue)  # hues stayed, or there is too little to say so
                if known:
                    self.assertAlmostEqual(turned.hue, 120, delta=25)
                else:
                    self.assertIsNone(turned.hue)

    def test_strong_ones_tell_any_turn(self) -> None:
        light = tinted(0.8)
        signal = folded(light, "reinhard", "luminance", white=203.0, peak=1000.0)
        self.assertLess(find_fold(cells(light, signal), OWN, promised=True).hue, 6)
        turned = find_fold(cells(light, signal[..., [2, 0, 1]]), OWN, promised=True)
        self.assertGreater(turned.hue, 60)


class Flat(unittest.TestCase):
    def test_a_roll_off_that_still_rises_is_no_cut(self) -> None:
        # nothing lies between 46 and 330 cd/m², and BT.2390 to 100 cd/m² rises by 0.012 above
        grey = np.concatenate([np.linspace(15, 46, 40), np.linspace(330, 540, 60)])
        light = np.repeat(grey[:, None], 3, axis=1)
        rolled = folded(light, "bt2390", "luminance", white=100.0, peak=1000.0)
        self.assertIsNone(find_fold(cells(light, rolled), OWN, promised=True).flat_above)
        cut = folded(light, "clip", "luminance", white=100.0, peak=1000.0)
        found = find_fold(cells(light, cut), OWN, promised=True)
        self.assertAlmostEqual(found.flat_above, 100, delta=6)
        self.assertAlmostEqual(found.cut, 0.6, delta=0.02)
