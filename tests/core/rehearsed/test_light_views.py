"""Light in steps and colours outside a gamut, against PQ's published values and chromaticities."""

from dataclasses import replace
from unittest import TestCase

import colour
import numpy as np

from shapkeen.core.measured import Reading
from shapkeen.core.rehearsed.light_views import (
    STEPS_NITS,
    in_steps,
    luminance,
    only_outside,
    step_greys,
)
from shapkeen.core.rehearsed.screen import RENDERERS, display_light


def reading(transfer: int, primaries: int) -> Reading:
    return Reading(
        full_range=False, transfer=transfer, matrix=1, primaries=primaries, rate=24, frame_count=1
    )


HDR, SDR = reading(16, 9), reading(1, 1)


def field(value: object) -> np.ndarray:
    return np.broadcast_to(np.asarray(value, dtype=np.float32), (12, 12, 3)).copy()


def in_2020(xy: tuple[float, float], nits: float) -> np.ndarray:
    """Return BT.2020 light of a chromaticity, by the colour-science library."""
    xyz = colour.xy_to_XYZ(xy) * nits
    return field(colour.RGB_COLOURSPACES["ITU-R BT.2020"].matrix_XYZ_to_RGB @ xyz)


class Steps(TestCase):
    def test_light_is_what_the_standards_say_of_a_signal(self) -> None:
        # ITU-R BT.2408 table 1: 203 cd/m² is 58 % PQ; ITU-R BT.1886: 100 · V^2.4.
        self.assertAlmostEqual(float(display_light(field(0.5807), HDR).mean()), 203, delta=1)
        self.assertAlmostEqual(float(display_light(field(0.5), SDR).mean()), 18.95, delta=0.05)

    def test_a_step_begins_where_it_says(self) -> None:
        greys = step_greys()
        for number, begin in enumerate(STEPS_NITS):
            for nits, step in ((begin * 0.98, number), (begin * 1.02, number + 1)):
                shown = in_steps(field(nits), 9)[..., 0]
                common = np.unique(shown.round(4), return_counts=True)
                self.assertAlmostEqual(common[0][common[1].argmax()], greys[step], delta=1e-3)
                self.assertEqual(len(common[0]), 1 + step % 2)  # every second one is hatched

    def test_light_of_a_colour_is_its_luminance(self) -> None:
        # ITU-R BT.2020 table 4: Y = 0.2627 R + 0.6780 G + 0.0593 B.
        self.assertAlmostEqual(float(luminance(field((100, 0, 0)), 9)[0, 0]), 26.27, delta=0.02)

    def test_what_lies_outside_stays_and_all_else_is_grey(self) -> None:
        # Chromaticities: ITU-R BT.709 item 1.3, SMPTE RP 431-2 (P3), ITU-R BT.2020 table 3.
        reds = {"709": (0.64, 0.33), "p3": (0.68, 0.32), "2020": (0.708, 0.292)}
        inside = {"outside709": {"709"}, "outsidep3": {"709", "p3"}}
        pq = colour.models.eotf_inverse_ST2084
        for display, within in inside.items():
            for name, xy in reds.items():
                light = np.maximum(in_2020(xy, 20.0), 0.0)
                shown = RENDERERS[display](pq(light).astype(np.float32), HDR)
                is_grey = bool(np.ptp(shown, axis=2).max() < 1e-3)
                self.assertEqual(is_grey, name in within, (display, name))

    def test_darkness_has_no_colour_to_lie_outside(self) -> None:
        dark = only_outside(field((0.01, 0, 0)), field((0.2, 0, 0)), -np.eye(3))
        self.assertLess(np.ptp(dark, axis=2).max(), 1e-6)


class Limits(TestCase):
    def test_only_what_is_brighter_than_the_peak_stays(self) -> None:
        # SMPTE ST 2084: 1000 cd/m² is the signal 0.7518, 4000 is 0.9026.
        picture = field(0.7518)
        picture[:6] = 0.80
        tinted = picture * np.array((1, 0.9, 0.9), dtype=np.float32)
        shown = RENDERERS["abovepeak"](tinted, HDR)
        self.assertGreater(np.ptp(shown[:6], axis=2).min(), 0.01)
        self.assertLess(np.ptp(shown[6:], axis=2).max(), 1e-6)
        higher = replace(HDR, peak_nits=4000.0)
        self.assertLess(np.ptp(RENDERERS["abovepeak"](tinted, higher), axis=2).max(), 1e-6)

    def test_only_what_lies_below_black_is_hatched(self) -> None:
        # ITU-R BT.709: black is 16 of 8 bits, 219 codes from white: 12 is below, 16 and 15 are not.
        picture = field((16 - 16) / 219)
        picture[:4] = (12 - 16) / 219
        picture[4:8] = (15 - 16) / 219
        shown = RENDERERS["belowblack"](picture, SDR)
        self.assertGreater(shown[:4].min(), 0.5)
        self.assertLess(shown[4:].max(), 0.1)

    def test_a_saturated_colour_is_not_below_black(self) -> None:
        # Of BT.2020's pure red BT.709 has negative green and blue, and light all the same.
        self.assertLess(RENDERERS["belowblack"](field((0.5, -0.1, -0.02)), SDR).max(), 0.5)
