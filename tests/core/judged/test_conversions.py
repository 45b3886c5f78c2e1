"""Conversions of light and colour named on photographs that other code injured.

Photographs: scikit-image's open samples. Injuries: colour-science 0.4.7 and plain NumPy, so that
nothing here is judged by the formulas that made it. Every file went through x264 or x265 at CRF 16.
"""

import unittest
import warnings
from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

from shapkeen.core.judged import Comparison
from shapkeen.core.promised import Promise, Promised
from tests.builders import media
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import shared_out
from tests.builders.media import HDR, SDR, coded, photo_frames, write

Signal = np.ndarray
Injury = Callable[[Signal], Signal]
SPACES = {1: "ITU-R BT.709", 9: "ITU-R BT.2020", 12: "P3-D65"}
PEAK_NITS = 900.0


def pq_light(signal: Signal) -> Signal:
    return colour.models.eotf_ST2084(np.clip(signal, 0, 1))


def pq_signal(light: Signal) -> Signal:
    return colour.models.eotf_inverse_ST2084(np.clip(light, 0, 10_000))


def matrix(source: int, goal: int) -> np.ndarray:
    one, other = (colour.RGB_COLOURSPACES[SPACES[code]] for code in (source, goal))
    return colour.matrix_RGB_to_RGB(one, other, None)


@lru_cache(maxsize=2)
def hdr_signal(photo: str, *, wide: bool = False) -> list[Signal]:
    """Return BT.2020 PQ frames; wide: the photograph's own RGB taken as BT.2020's, so that much
    lies outside smaller gamuts."""
    step = np.eye(3) if wide else matrix(1, 9)
    frames = (colour.models.eotf_sRGB(frame) @ step.T for frame in photo_frames(photo)[:6])
    return [pq_signal(np.clip(light, 0, 1) ** 1.1 * PEAK_NITS) for light in frames]


def sdr_signal(photo: str) -> list[Signal]:
    return [frame.astype(np.float64) for frame in photo_frames(photo)[:6]]


def planes(frames: list[Signal], *, hdr: bool, by: int) -> list:
    depth = 10 if hdr else 8
    return [coded(frame.astype(np.float32), matrix=by, depth=depth) for frame in frames]


@lru_cache(maxsize=16)
def master(photo: str, kind: str) -> Path:
    hdr = kind != "sdr"
    frames = sdr_signal(photo) if kind == "sdr" else hdr_signal(photo, wide=kind == "wide")
    coding = replace((HDR if hdr else SDR).with_options(crf="4"), ending=".mov")
    return write(f"conv-{kind}-{photo}", planes(frames, hdr=hdr, by=9 if hdr else 1), coding)


def compared(
    photo: str,
    kind: str,
    injury: Injury = np.asarray,
    *,
    by: int | None = None,
    promise: Promise | None = None,
    coding: media.Coding | None = None,
) -> Comparison:
    hdr = kind != "sdr"
    frames = sdr_signal(photo) if kind == "sdr" else hdr_signal(photo, wide=kind == "wide")
    made = planes([injury(frame) for frame in frames], hdr=hdr, by=by or (9 if hdr else 1))
    path = write("conv-export", made, coding or (HDR if hdr else SDR))
    return compare_files(master(photo, kind), path, overrides=promise)


def to_gamut(source: int, goal: int, *, hdr: bool, back: bool = False) -> Injury:
    def injure(signal: Signal) -> Signal:
        light = pq_light(signal) if hdr else np.clip(signal, 0, 1) ** 2.4
        light = np.maximum(light @ matrix(source, goal).T, 0)
        if back:
            light = np.maximum(light @ matrix(goal, source).T, 0)
        return pq_signal(light) if hdr else np.clip(light, 0, 1) ** (1 / 2.4)

    return injure


def to_hlg(signal: Signal) -> Signal:
    light = np.clip(pq_light(signal), 0, 1000)
    return np.clip(colour.models.eotf_inverse_BT2100_HLG(light, L_B=0, L_W=1000), 0, 1)


def to_srgb(signal: Signal) -> Signal:
    return colour.models.eotf_inverse_sRGB(np.clip(signal, 0, 1) ** 2.4)


def rolled_off(signal: Signal) -> Signal:
    """A photographic shoulder, and not the one of BT.2390."""
    return pq_signal(250 * (1 - np.exp(-pq_light(signal) / 250)))


def cut_at(level: float) -> Injury:
    return lambda signal: np.minimum(signal, level)


def squeezed(signal: Signal) -> Signal:
    """Full to limited range, where it was limited already (ITU-R BT.2100-2 table 9)."""
    return (64 + (64 + 876 * signal) * 876 / 1023 - 64) / 876


def stretched(signal: Signal) -> Signal:
    return np.clip((1023 * signal - 64) / 876, -64 / 876, 959 / 876)


def powered(exponent: float) -> Injury:
    return lambda signal: np.clip(signal, 0, 1) ** exponent


CASES: tuple[tuple[str, str, Injury, int | None, dict], ...] = (
    # cause, kind of master, injury, matrix to code with, values
    ("matrix-swapped", "sdr", np.asarray, 6, {"from": 6, "to": 1}),
    ("matrix-swapped", "hdr", np.asarray, 1, {"from": 1, "to": 9}),
    ("gamut-converted", "hdr", to_gamut(9, 1, hdr=True), None, {"from": 9, "to": 1}),
    ("gamut-converted", "hdr", to_gamut(9, 12, hdr=True), None, {"from": 9, "to": 12}),
    ("gamut-converted", "sdr", to_gamut(1, 9, hdr=False), None, {"from": 1, "to": 9}),
    ("gamut-converted", "sdr", to_gamut(1, 12, hdr=False), None, {"from": 1, "to": 12}),
    ("gamut-clipped", "wide", to_gamut(9, 1, hdr=True, back=True), None, {"to": 1}),
    ("transfer-converted", "hdr", to_hlg, None, {"from": 16, "to": 18}),
    ("transfer-converted", "sdr", to_srgb, None, {"from": 1, "to": 13}),
    ("tone-compressed", "hdr", rolled_off, None, {}),
    ("highlights-clipped", "hdr", cut_at(float(pq_signal(200.0))), None, {"level": 200}),
    ("highlights-clipped", "sdr", cut_at(0.7), None, {"level": 0.7}),
    ("range-compressed", "sdr", squeezed, None, {}),
    ("range-expanded", "sdr", stretched, None, {}),
    ("range-compressed", "hdr", squeezed, None, {}),
    # A 2.4 picture shown by a 2.2 chain, and the well-known drift of players to 1.96.
    ("gamma-shifted", "sdr", powered(2.2 / 2.4), None, {"exponent": 2.2 / 2.4}),
    ("gamma-shifted", "sdr", powered(1.96 / 2.4), None, {"exponent": 1.96 / 2.4}),
    ("gamma-shifted", "hdr", powered(1.08), None, {"exponent": 1.08}),
)


def after(first: Injury, second: Injury) -> Injury:
    return lambda signal: second(first(signal))


PAIRS: tuple[tuple[tuple[str, ...], str, Injury, int | None], ...] = (
    (
        ("gamut-converted", "gamma-shifted"),
        "sdr",
        after(to_gamut(1, 9, hdr=False), powered(1.12)),
        None,
    ),
    (("matrix-swapped", "range-compressed"), "sdr", squeezed, 6),
    (
        ("gamut-converted", "transfer-converted"),
        "hdr",
        after(to_gamut(9, 1, hdr=True), to_hlg),
        None,
    ),
)


class Photograph:
    """Acts on one photograph, and healthy ones; what a picture cannot tell is silence.

    share: which quarter of the acts is tried on it, so that each is tried on one photograph (`make
    acts`: on all). silent, in_part: the acts for which this one has too little colour or light, as
    (cause, kind).
    """

    photo: str
    share: int
    silent: frozenset[tuple[str, str]] = frozenset()
    in_part: frozenset[tuple[str, ...]] = frozenset()

    def test_acts_are_named(self) -> None:
        for _, (cause, kind, injury, by, values) in shared_out(CASES, self.share, 4):
            found = compared(self.photo, kind, injury, by=by).survival.causes
            with self.subTest(cause, kind=kind):
                named = [] if (cause, kind) in self.silent else [cause]
                self.assertEqual([one.id for one in found], named)
                if found:
                    self.assertTrue(self.fits(values, found[0].values), found[0].values)

    def test_two_acts_at_once(self) -> None:
        for _, (causes, kind, injury, by) in shared_out(PAIRS, self.share, 4):
            found = compared(self.photo, kind, injury, by=by).survival.causes
            names = sorted(one.id for one in found)
            with self.subTest(causes, kind=kind):
                # A picture with little colour shows the tone's act alone: never another one.
                self.assertLessEqual(set(names), set(causes))
                if causes not in self.in_part:
                    self.assertEqual(names, sorted(causes))

    def fits(self, wanted: dict, found: dict) -> bool:
        if "exponent" in wanted:
            return abs(found["exponent"] - wanted["exponent"]) < 0.02
        if "level" in wanted:
            return abs(found["level"] / wanted["level"] - 1) < 0.04
        return all(found.get(name) == value for name, value in wanted.items())

    def test_a_healthy_one_names_nothing(self) -> None:
        # At CRF 16 the damage tests say the same.
        for _, (kind, coding) in shared_out(
            (("sdr", SDR), ("hdr", HDR), ("wide", HDR), ("sdr", SDR)), self.share, 4
        ):
            found = compared(self.photo, kind, coding=coding.with_options(crf="24"))
            verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
            with self.subTest(kind):
                self.assertEqual(found.survival.causes, ())
                for trait in ("tone", "gamut", "transfer", "matrix", "primaries", "range"):
                    # A picture with little colour in it leaves its matrix unproven.
                    self.assertIn(verdicts[trait], ("kept", "unproven"), trait)


class Astronaut(Photograph, unittest.TestCase):
    photo, share = "astronaut", 0


class Coffee(Photograph, unittest.TestCase):
    photo, share = "coffee", 1


class Chelsea(Photograph, unittest.TestCase):
    photo, share = "chelsea", 2
    silent = frozenset({("matrix-swapped", "hdr")})


class Rocket(Photograph, unittest.TestCase):
    photo, share = "rocket", 3
    silent = frozenset({("matrix-swapped", "hdr")})
    in_part = frozenset({("matrix-swapped", "range-compressed")})


class Verdicts(unittest.TestCase):
    def verdicts(self, comparison: Comparison) -> dict[str, str]:
        return {v.trait: v.verdict for v in comparison.survival.verdicts}

    def test_a_colour_act_leaves_tone_alone(self) -> None:
        found = self.verdicts(compared("coffee", "sdr", by=6))
        self.assertEqual((found["matrix"], found["gamut"]), ("lost", "lost"))
        self.assertEqual((found["transfer"], found["tone"]), ("kept", "kept"))
        self.assertEqual(found["primaries"], "kept")
        comparison = compared("coffee", "hdr", to_gamut(9, 1, hdr=True))
        other = self.verdicts(comparison)
        self.assertEqual((other["primaries"], other["matrix"]), ("lost", "kept"))
        # moved codes look like a staircase, and are none
        self.assertNotEqual(other["bit_depth"], "lost")
        shown = {v.trait: v.picture for v in comparison.survival.verdicts}
        self.assertEqual(shown["primaries"], 1)

    def test_a_clip_keeps_the_transfer_function(self) -> None:
        found = self.verdicts(compared("coffee", "sdr", cut_at(0.7)))
        self.assertEqual((found["tone"], found["transfer"]), ("lost", "kept"))

    def test_the_cure_and_the_reason_are_told(self) -> None:
        cause = compared("coffee", "hdr", to_hlg).survival.causes[0]
        self.assertIn("from PQ to HLG", cause.why)
        self.assertIn("codes unexplained", cause.why)
        self.assertGreater(cause.strength, 0.9)
        self.assertIn("transfer", cause.traits)
        shown = {v.trait: v.picture for v in compared("coffee", "hdr", to_hlg).survival.verdicts}
        self.assertEqual((shown["transfer"], shown["tone"]), (18, "as HLG"))


class Promises(unittest.TestCase):
    """What the promise asks for is no injury, once the picture is what it should give."""

    PROMISE = Promise(traits={"transfer": Promised(value=18, origin="this test", explicit=True)})

    def test_a_promised_conversion_is_kept(self) -> None:
        x265 = dict(HDR.options)["x265-params"].replace("smpte2084", "arib-std-b67")
        hlg = replace(HDR.with_options(**{"x265-params": x265}), colour=(9, 18, 9, 1))
        found = compared("coffee", "hdr", to_hlg, promise=self.PROMISE, coding=hlg)
        verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertEqual(verdicts["tone"], "kept")
        self.assertEqual(verdicts["transfer"], "kept")
        self.assertEqual(verdicts["gamut"], "kept")
        self.assertEqual(found.survival.causes, ())

    def test_a_promised_conversion_that_was_not_made_is_not_kept(self) -> None:
        found = compared("coffee", "hdr", promise=self.PROMISE)
        verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertNotEqual(verdicts["tone"], "kept")
        self.assertEqual(verdicts["transfer"], "lost")
