"""Transfer functions against published values and against colour-science.

tests/reference/transfer-values.json: SMPTE ST 2084, ITU-R BT.2100-2, BT.1886, BT.709-6,
IEC 61966-2-1; provenance in the file.
"""

import unittest

import colour
import numpy as np

from shapkeen.core.colour import hlg, pq, sdr
from shapkeen.core.colour.tone_maps import rolled_off
from tests.reference import load

VALUES = load("transfer-values")
GRID = np.linspace(0, 1, 201)


class PerceptualQuantizer(unittest.TestCase):
    def test_signal_for_published_light(self) -> None:
        for light, signal, *_ in VALUES["pq"]["cd_m2_to_signal"]["rows"]:
            with self.subTest(light=light):
                self.assertAlmostEqual(float(pq.signal_from_light(light)), signal, delta=1e-10)

    def test_light_for_published_signal(self) -> None:
        for signal, light in VALUES["pq"]["signal_to_cd_m2"]["rows"]:
            with self.subTest(signal=signal):
                self.assertAlmostEqual(
                    float(pq.light_from_signal(signal)), light, delta=1e-9 * max(light, 1)
                )

    def test_code_values_to_light(self) -> None:
        for code, _, light in VALUES["pq"]["code10_narrow_to_cd_m2"]["rows"]:
            with self.subTest(code=code):
                found = float(pq.light_from_signal((code - 64) / 876))
                self.assertAlmostEqual(found, light, delta=1e-9 * max(light, 1))

    def test_agrees_with_colour_science(self) -> None:
        # colour-science 0.4.7, models/rgb/transfer_functions/st_2084.py
        ours = pq.light_from_signal(GRID)
        np.testing.assert_allclose(ours, colour.models.eotf_ST2084(GRID), rtol=1e-10, atol=1e-12)

    def test_reference_white(self) -> None:
        # ITU-R BT.2408 table 1: 203 cd/m² is 58 % PQ; rounded to 1 %.
        self.assertAlmostEqual(float(pq.signal_from_light(203.0)), 0.58, delta=0.005)

    def test_inverse_returns(self) -> None:
        np.testing.assert_allclose(
            pq.signal_from_light(pq.light_from_signal(GRID)), GRID, atol=1e-6
        )


class HybridLogGamma(unittest.TestCase):
    def test_signal_for_published_scene_light(self) -> None:
        for scene, signal, _ in VALUES["hlg"]["scene_to_signal"]["rows"]:
            with self.subTest(scene=scene):
                self.assertAlmostEqual(float(hlg.signal_from_scene(scene)), signal, delta=1e-9)

    def test_display_light_of_grey(self) -> None:
        table = VALUES["hlg"]["signal_to_scene_and_display"]
        column = table["columns"].index("cd_m2_at_LW1000")
        for row in table["rows"]:
            with self.subTest(signal=row[0]):
                scene = hlg.scene_from_signal(row[0])
                shown = hlg.display_from_scene(np.full(3, scene))
                np.testing.assert_allclose(shown, row[column], rtol=1e-6, atol=1e-9)

    def test_ootf_works_on_luminance(self) -> None:
        for scene, _, display in VALUES["hlg"]["ootf_colour_1000"]["rows"]:
            with self.subTest(scene=scene):
                np.testing.assert_allclose(hlg.display_from_scene(scene), display, rtol=1e-8)

    def test_system_gamma(self) -> None:
        for peak, gamma, _ in VALUES["hlg"]["system_gamma"]["rows"]:
            with self.subTest(peak=peak):
                self.assertAlmostEqual(hlg.system_gamma(peak), gamma, delta=1e-8)

    def test_agrees_with_colour_science(self) -> None:
        # colour-science 0.4.7, models/rgb/transfer_functions/itur_bt_2100.py
        theirs = colour.models.oetf_inverse_BT2100_HLG(GRID)
        np.testing.assert_allclose(hlg.scene_from_signal(GRID), theirs, atol=1e-9)


class StandardRange(unittest.TestCase):
    def test_published_values(self) -> None:
        table = VALUES["sdr"]["linear_to_signal"]
        names = {"BT.709_OETF": sdr.bt709_signal_from_scene, "sRGB": sdr.srgb_signal_from_light}
        for name, function in names.items():
            column = table["columns"].index(name)
            for row in table["rows"]:
                with self.subTest(name=name, light=row[0]):
                    self.assertAlmostEqual(float(function(row[0])), row[column], delta=1e-9)

    def test_bt1886_light(self) -> None:
        table = VALUES["sdr"]["signal_to_light"]
        black_at_zero = table["columns"].index("BT.1886_Lb0_cd_m2")
        for row in table["rows"]:
            with self.subTest(signal=row[0]):
                light = float(sdr.bt1886_light_from_signal(row[0]))
                self.assertAlmostEqual(light, row[black_at_zero], delta=1e-8)
                raised = float(sdr.bt1886_light_from_signal(row[0], black_nits=0.1))
                self.assertAlmostEqual(raised, row[black_at_zero + 1], delta=1e-7)

    def test_inverses_return(self) -> None:
        light = sdr.bt1886_light_from_signal(GRID)
        np.testing.assert_allclose(sdr.bt1886_signal_from_light(light), GRID, atol=1e-12)
        linear = sdr.srgb_light_from_signal(GRID)
        np.testing.assert_allclose(sdr.srgb_signal_from_light(linear), GRID, atol=1e-7)


class RolledOff(unittest.TestCase):
    """ITU-R BT.2390-8 5.4.1: below the knee light stays, the source's peak becomes the goal's."""

    def test_the_peak_becomes_the_goal_and_darks_stay(self) -> None:
        light = np.array([0.1, 1.0, 5.0, 1000.0])
        made = pq.light_from_signal(rolled_off(light, source=1000.0, goal=400.0))
        np.testing.assert_allclose(made, [0.1, 1.0, 5.0, 400.0], rtol=1e-6)

    def test_onto_a_peak_that_is_no_lower_nothing_is_rolled_off(self) -> None:
        light = np.array([0.0, 100.0, 999.0, 1000.0])
        for goal in (1000.0, 4000.0):
            made = pq.light_from_signal(rolled_off(light, source=1000.0, goal=goal))
            np.testing.assert_allclose(made, light, rtol=1e-6, atol=1e-9)
