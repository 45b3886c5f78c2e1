"""Cuts that lie elsewhere in single shots: as promised, not made, and made without promise."""

import json
import unittest
from functools import lru_cache

import cv2

from shapkeen.core.measured.survey.pair import _away
from shapkeen.core.promised import promise_from_json
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts
from tests.builders.media import PHOTOS, SDR, coded, photo_frames, write

SIZE, EACH = (512, 288), 16
LEFTS = (0, 136, 282)
"""Where 230 of 512 samples are cut out of the full height (4:5), in three shots."""


@lru_cache
def master_frames() -> tuple:
    """Return three shots: photographs that stand, with a moving part of another over each."""
    frames = []
    for number, photo in enumerate(PHOTOS[:3]):
        ground = photo_frames(photo, SIZE)[0]
        other = photo_frames(PHOTOS[number + 1], SIZE)[0][60:140, 100:180]
        for step in range(EACH):
            frame = ground.copy()
            frame[30 + 5 * step : 110 + 5 * step, 200 + step : 280 + step] = other
            frames.append(frame)
    return tuple(frames)


def delivered(lefts: tuple[int, ...]) -> list:
    """Return the shots cut upright at these places, enlarged to 460×576."""
    made = []
    for number, frame in enumerate(master_frames()):
        left = lefts[number // EACH]
        cut = frame[:, left : left + 230]
        made.append(
            coded(
                cv2.resize(cut, (460, 576), interpolation=cv2.INTER_CUBIC).clip(0, 1),
                matrix=1,
                depth=8,
            )
        )
    return made


def promise(lefts: tuple[int, ...]) -> object:
    shots = [
        {"first": n * EACH, "last": n * EACH + EACH - 1, "crop": [left, 0, 230, 288]}
        for n, left in enumerate(lefts)
        if n
    ]
    framing = {"crop": [lefts[0], 0, 230, 288], "shots": shots}
    traits = {
        "framing": {"value": framing},
        "raster": {"value": [460, 576], "from": list(SIZE)},
        "bit_depth": {"at_least": 8},
    }
    text = json.dumps({"schema": "shapkeen.promise/1", "traits": traits})
    return promise_from_json(text, origin="test")


def compared(name: str, made: tuple[int, ...], promised: tuple[int, ...]) -> object:
    master = write("shots-master", [coded(f, matrix=1, depth=8) for f in master_frames()], SDR)
    return compare_files(
        master, write(f"shots-{name}", delivered(made), SDR), overrides=promise(promised)
    )


class Shots(unittest.TestCase):
    def test_cuts_that_move_as_promised_are_no_injury(self) -> None:
        found = compared("right", LEFTS, LEFTS)
        verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertEqual(found.survival.causes, ())
        for trait in ("framing", "shown_shape", "tone", "gamut", "frames", "detail"):
            self.assertEqual(verdicts[trait], "kept", trait)
        self.assertEqual(found.survey.astray, ())

    def test_a_shot_whose_place_was_not_set_is_named(self) -> None:
        found = compared("reverted", (0, 136, 0), LEFTS)
        framing = next(v for v in found.survival.verdicts if v.trait == "framing")
        self.assertEqual(framing.verdict, "lost")
        self.assertIn("In some shots the picture lies elsewhere", framing.why)
        causes = {c.id: c.values for c in found.survival.causes}
        self.assertIn("shifted", causes)
        # promised 282 samples further right: without that the picture lies 564 delivered ones right
        self.assertAlmostEqual(causes["shifted"]["dx"], 564, delta=2)

    @in_acts
    def test_a_shot_that_was_moved_without_promise_is_named(self) -> None:
        found = compared("moved", (136, 136, 176), (136, 136, 136))
        causes = {c.id: c.values for c in found.survival.causes}
        self.assertIn("shifted", causes)
        self.assertAlmostEqual(causes["shifted"]["dx"], -80, delta=2)


class Rolled(unittest.TestCase):
    def test_what_came_round_the_edge_is_told_from_what_moved(self) -> None:
        # 512 samples drawn 1024 wide; most frames begin at 100, this shot is promised at 100 + 282
        for real in (0, 100, 282):
            rolled = (real - 282) % 512
            found = _away(-2.0 * rolled, -200.0, 282, 1024.0, 512)
            self.assertAlmostEqual(found, 2.0 * (382 - real))
        # a hair before the edge, as registration finds places, is no whole picture further on
        self.assertAlmostEqual(_away(-460.0 + 0.02, -200.0, 282, 1024.0, 512), 764.02)
        self.assertEqual(_away(-180.0, -200.0, 0, 1024.0, 512), 20.0)
