"""Where the brightest light ends, on ramps whose cut is known by plain arithmetic."""

import unittest
from unittest import mock

import numpy as np

from shapkeen.core.colour import pq
from shapkeen.core.colour.coding import PQ, Coding
from shapkeen.core.measured.tone import limits
from shapkeen.core.measured.tone.limits import edge_counts, find_calm_edge, find_highlight_edge
from tests.builders.folding import bt2390

CODING = Coding(full_range=False, transfer=PQ, matrix=9, primaries=9)
CUT = 700.0
"""Limited-range luma code of ten bits."""


def planes(luma: np.ndarray) -> dict[str, np.ndarray]:
    grey = np.full((luma.shape[0] // 2, luma.shape[1] // 2), 512, np.float32)
    return {"luma": luma.astype(np.float32), "cb": grey, "cr": grey.copy()}


class CalmSamples(unittest.TestCase):
    ramp = np.tile(np.linspace(200, 900, 640), (360, 1))

    def counts(self, luma: np.ndarray, delivered: np.ndarray):
        return [edge_counts(planes(luma), planes(delivered), CODING)]

    def test_a_cut_ramp_ends_at_its_level_and_is_flat_above(self) -> None:
        found = find_calm_edge(self.counts(self.ramp, np.minimum(self.ramp, CUT)), CODING)
        assert found is not None and found.nits is not None
        expected = float(pq.light_from_signal((CUT - 64) / 876))
        self.assertAlmostEqual(found.nits / expected, 1, delta=0.04)
        self.assertLess(abs(found.slope), 0.02)
        self.assertLess(found.cut, found.rolled / 4)
        # Even steps from the cut to the top: as many levels as bins of the signal between them.
        self.assertAlmostEqual(found.levels, (900 - CUT) / 876 / 1.1 * 176, delta=3)

    def test_only_samples_count_whose_neighbours_are_alike(self) -> None:
        rough = self.ramp.copy()
        rough[:, ::3] += 40  # on the right half alone
        rough[:, :320] = self.ramp[:, :320]
        (one,) = self.counts(rough, rough)
        self.assertEqual(int(one.brights.sum()), 180 * 320)
        self.assertAlmostEqual(int(one.calm.sum()), 180 * 160, delta=2 * 180)

    def test_what_coding_does_to_borders_it_does_not_to_calm_ones(self) -> None:
        lights = np.where(np.arange(640) // 4 % 2, 900.0, 300.0) + np.zeros((360, 1))
        both = np.where(np.arange(360)[:, None] < 180, self.ramp, lights)
        cut = np.minimum(both, CUT)
        worn = np.where(np.isin(np.arange(640) % 4, (0, 3)), cut - 60, cut)  # of each light
        worn[:180] = cut[:180]
        counts = self.counts(both, worn)
        every, calm = find_highlight_edge(counts, CODING), find_calm_edge(counts, CODING)
        assert every is not None and calm is not None
        self.assertLess(calm.cut, 1.0)
        self.assertLessEqual(calm.cut, every.cut)

    def test_a_roll_off_for_a_peak_that_the_picture_does_not_reach(self) -> None:
        # BT.2390-11, 5.4.1: from a display of 4000 cd/m² to 1000, of a picture that ends at 2000
        ramp = np.tile(np.linspace(0.3, float(pq.signal_from_light(2000.0)), 640), (360, 1))
        light = bt2390(pq.light_from_signal(ramp) / 100, 40.0, 10.0) * 100
        rolled = pq.signal_from_light(light)
        counts = self.counts(64 + 876 * ramp, 64 + 876 * rolled)
        found = find_calm_edge(counts, CODING)
        with mock.patch.object(limits, "WHITES", (1.0,)):
            by_its_own_white = find_calm_edge(counts, CODING)
        assert found is not None and by_its_own_white is not None
        self.assertLess(found.rolled, 2.0)
        self.assertGreater(found.cut, 2 * found.rolled)
        self.assertGreater(by_its_own_white.rolled, 1.5 * found.rolled)
