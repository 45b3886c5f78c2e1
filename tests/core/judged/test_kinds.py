"""Kinds of export that are easily taken for another: one picture of each; all are in `make kinds`.

Pictures: scikit-image's open samples; tone maps, overlays and shears: plain NumPy and OpenCV.
"""

import unittest
from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np

from shapkeen.core.compared import compare_files
from tests import kinds
from tests.builders.folding import folded
from tests.builders.media import HDR, write
from tests.kinds import SIDES, Trial

TUNED = SIDES["tuned"]
DARK = 0.03
"""Of the light of a photograph in HDR: its whites at 6 cd/m²."""


class Kind(unittest.TestCase):
    def check(self, kind: str, trials: Iterable[Trial], *names: str) -> None:
        left = set(names)
        for trial in trials:
            name = next((n for n in left if trial.name.startswith(n)), None)
            if name is None:
                continue
            left.discard(name)
            with self.subTest(trial.name):
                self.assertEqual(kinds.outcome(kind, trial).told, "")
        self.assertEqual(left, set())


def of(make: Callable[..., Iterable[Trial]], picture: object = "coffee") -> Iterable[Trial]:
    return make(picture, TUNED)


class Light(Kind):
    def test_hdr_folded_into_sdr(self) -> None:
        self.check("folds", of(kinds.folds), "bt2446 luminance")

    def test_folds_by_promise(self) -> None:
        trials = of(kinds.promised_folds, "astronaut")
        self.check("promised", trials, "milky")

    def test_dark_pictures_folded_too(self) -> None:
        # of a few dark tones a power explains nearly as much: it would be tags to be mended
        def fold(light: np.ndarray) -> np.ndarray:
            return folded(light * DARK, curve="hable", way="luminance", white=300.0, peak=1000)

        coding = replace(HDR.with_options(crf="4"), ending=".mov")
        dark = [frame * DARK for frame in kinds.hdr_light("coffee")]
        master = kinds.hdr_file("kinds-dark", dark, coding)
        export = write("kinds-dark-export", kinds.sdr_of("coffee", fold), TUNED.sdr["x264"])
        told = compare_files(master, export, frames=4).survival
        self.assertEqual([cause.id for cause in told.causes], ["tone-compressed"])
        promised = compare_files(master, export, frames=4, overrides=kinds.SDR_PROMISE).survival
        self.assertEqual((promised.overall, promised.causes), ("kept", ()))

    def test_cuts_at_an_edge(self) -> None:
        self.check("cuts", of(kinds.cuts), "cut at 600")

    def test_bits_that_are_left(self) -> None:
        self.check("depths", of(kinds.depths), "7 of 10 ffv1")


class Covered(Kind):
    def test_what_covers_is_named(self) -> None:
        self.check("covers", of(kinds.covers, "rocket"), "timecode")


class Immersive(Kind):
    def test_seams_poles_and_poses(self) -> None:
        self.check("spheres", of(kinds.sphere_trials, TUNED.spheres[0]), "5 one side cut")

    def test_softness_beside_exchanged_eyes(self) -> None:
        self.check("eyes", of(kinds.eyes_trials), "7 swapped, soft")


class Coding(Kind):
    def test_two_acts(self) -> None:
        self.check("together", of(kinds.together), "shift")

    def test_heavy_coding(self) -> None:
        self.check("rough", of(kinds.rough, "chelsea"), "rough x264")

    def test_healthy_ones_are_kept(self) -> None:
        self.check("healthy", of(kinds.healthy, "rocket"), "HDR 26")
