"""Two eyes through real encoders: each act named with its value, alone; no healthy one.

A photographed pair (Middlebury 2014, as scikit-image ships it) and photographs with depth put in.
"""

import json
import unittest
from functools import lru_cache
from pathlib import Path

import cv2
import numpy as np

from shapkeen.core.judged import Comparison
from shapkeen.core.promised import promise_from_json
from tests.builders.boxes import flagged
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts, shared_out
from tests.builders.eyes import eyes_frames, packed, shifted
from tests.builders.media import SDR, coded, resized, write

MASTER = SDR.with_options(crf="8")
EXPORT = SDR.with_options(crf="20", preset="veryfast")
SIDE_BY_SIDE = {"stereo": "left-right"}
DOWN, RIGHT = {"dy": 4}, {"dx": 8}
SCENES = ("motorcycle", "coffee")


@lru_cache
def master_of(scene: str) -> Path:
    """Return a master with both eyes of a scene side by side, flagged so."""
    whole = write(f"eyes-master-{scene}", packed(eyes_frames(scene)), MASTER)
    return flagged(whole, **SIDE_BY_SIDE)


class EyesActs(unittest.TestCase):
    def compare(
        self, scene, planes, flags=SIDE_BY_SIDE, master=None, **promise: object
    ) -> Comparison:
        export = write("eyes-export", planes, EXPORT)
        wanted = {"schema": "shapkeen.promise/1", "traits": promise}
        return compare_files(
            master or master_of(scene),
            flagged(export, **flags) if flags else export,
            overrides=promise_from_json(json.dumps(wanted), origin="this test"),
            workers=1,
        )

    def named(self, *args, only: str = "", **more):
        """Return the one cause that is named, None where none is; only: all that it may harm."""
        survival = self.compare(*args, **more).survival
        causes = survival.causes
        if only:
            harmed = [v.trait for v in survival.verdicts if v.verdict != "kept"]
            self.assertEqual(harmed, [only])
        self.assertLessEqual(len(causes), 1, causes)
        return causes[0] if causes else None

    def test_healthy_eyes_show_no_cause_and_leave_nothing_unproven(self) -> None:
        for _, scene in shared_out(SCENES, 1):
            found = self.compare(scene, packed(eyes_frames(scene)))
            with self.subTest(scene):
                self.assertEqual((found.survival.causes, found.survival.overall), ((), "kept"))
                self.assertEqual(found.survey.eyes.packings, ("left-right", "left-right"))

    def test_flags(self) -> None:
        planes = packed(eyes_frames("coffee"))
        self.assertEqual(self.named("coffee", planes, None).id, "stereo-unflagged")
        cause = self.named("coffee", planes, {"stereo": "top-bottom"})
        self.assertEqual(cause.id, "stereo-misflagged")
        self.assertEqual(dict(cause.values), {"from": "left-right", "to": "top-bottom"})

    def test_exchanged_and_repeated_eyes(self) -> None:
        for _, scene in shared_out(SCENES, 0):
            frames = eyes_frames(scene)
            swapped = self.named(scene, packed(frames, way="right-left"))
            twice = self.named(scene, packed([(left, left) for left, _ in frames]))
            with self.subTest(scene):
                self.assertEqual((swapped.id, swapped.traits), ("eyes-swapped", ("stereo",)))
                self.assertEqual(twice.id, "eye-repeated")

    @in_acts
    def test_half_packed_eyes_exchanged_in_an_unchanged_raster(self) -> None:
        frames = eyes_frames("motorcycle")
        master = flagged(write("eyes-half", packed(frames, half=True), MASTER), **SIDE_BY_SIDE)
        self.assertIsNone(self.named("", packed(frames, half=True), SIDE_BY_SIDE, master))
        swapped = packed(frames, half=True, way="right-left")
        self.assertEqual(self.named("", swapped, SIDE_BY_SIDE, master).id, "eyes-swapped")

    def test_eyes_moved_against_each_other_by_their_values(self) -> None:
        for _, scene in shared_out(SCENES, 1):
            lower, aside = (packed(shifted(eyes_frames(scene), **by)) for by in (DOWN, RIGHT))
            drop = self.named(scene, lower, only="eye_height")
            slid = self.named(scene, aside, only="convergence")
            with self.subTest(scene):
                self.assertEqual(drop.id, "eyes-offset")
                self.assertAlmostEqual(drop.values["dy"], 4 / 3.6, delta=0.05)
                self.assertEqual(slid.id, "convergence-shifted")
                self.assertAlmostEqual(slid.values["shift"], 8 / 6.4, delta=0.05)

    @in_acts
    def test_a_promised_convergence_is_no_shift_and_its_absence_is_one(self) -> None:
        frames = eyes_frames("coffee")
        wanted = {"convergence": {"value": {"shift": 1.25}}}
        self.assertIsNone(self.named("coffee", packed(shifted(frames, dx=8)), **wanted))
        cause = self.named("coffee", packed(frames), **wanted)
        self.assertEqual(cause.id, "convergence-shifted")
        self.assertAlmostEqual(cause.values["shift"], -1.25, delta=0.05)

    def test_eyes_packed_another_way(self) -> None:
        frames = eyes_frames("coffee")
        stacked = {"stereo": "top-bottom"}
        cases = (
            (packed(frames, way="top-bottom"), stacked, "top-bottom"),
            (packed(frames, half=True), SIDE_BY_SIDE, "left-right"),
            ([coded(left, matrix=1, depth=8) for left, _ in frames], None, "mono"),
            (packed(frames, way="top-bottom", half=True), stacked, "top-bottom"),
        )
        for _, (planes, flags, goal) in shared_out(cases, 0):
            cause = self.named("coffee", planes, flags)
            with self.subTest(goal):
                self.assertEqual(cause.id, "layout-changed")
                self.assertEqual((cause.values["from"], cause.values["to"]), ("left-right", goal))

    def test_a_promised_packing_is_no_change(self) -> None:
        planes = packed(eyes_frames("coffee"), way="top-bottom")
        found = self.compare(
            "coffee",
            planes,
            {"stereo": "top-bottom"},
            stereo={"value": "top-bottom", "from": "left-right"},
            raster={"value": [640, 720]},
        )
        self.assertEqual((found.survival.causes, found.survival.overall), ((), "kept"))

    @in_acts
    def test_promised_half_size_is_kept_and_its_absence_named(self) -> None:
        frames = eyes_frames("coffee")
        wanted = {"stereo": {"value": "left-right"}, "raster": {"value": [640, 360]}}
        found = self.compare("coffee", packed(frames, half=True), **wanted)
        self.assertEqual((found.survival.causes, found.survival.overall), ((), "kept"))
        self.assertEqual(self.named("coffee", packed(frames), **wanted).id, "layout-changed")

    @in_acts
    def test_promised_whole_eyes_from_half_ones_are_no_stretch(self) -> None:
        frames = eyes_frames("coffee")
        master = flagged(
            write("eyes-half-master", packed(frames, half=True), MASTER), **SIDE_BY_SIDE
        )
        whole = resized(packed(frames, half=True), 1280, 360)
        wanted = {"stereo": {"value": "left-right"}, "raster": {"value": [1280, 360]}}
        found = self.compare("", whole, SIDE_BY_SIDE, master, **wanted)
        told = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertEqual((told["shown_shape"], told["framing"], told["raster"]), ("kept",) * 3)
        self.assertNotIn("stretched", [cause.id for cause in found.survival.causes])

    @in_acts
    def test_a_silent_masters_two_views_leave_open_which_is_the_left_one(self) -> None:
        planes = packed(eyes_frames("coffee"))
        silent = write("eyes-silent", planes, MASTER)
        for flags in (SIDE_BY_SIDE, {"stereo": "right-left"}):
            found = self.compare("", planes, flags, silent)
            told = {v.trait: v.verdict for v in found.survival.verdicts}
            with self.subTest(flags):
                self.assertEqual((told["stereo"], found.survival.causes), ("unproven", ()))
        self.assertEqual(self.named("", planes, None, silent).id, "stereo-unflagged")
        cause = self.named("", planes, {"stereo": "top-bottom"}, silent)
        self.assertEqual(cause.id, "stereo-misflagged")

    @in_acts
    def test_one_eye_under_a_flag_for_two(self) -> None:
        planes = [coded(left, matrix=1, depth=8) for left, _ in eyes_frames("coffee")]
        self.assertEqual(self.named("coffee", planes, SIDE_BY_SIDE).id, "stereo-misflagged")
        flat = write("eyes-flat", planes, MASTER)
        self.assertEqual(self.named("", planes, SIDE_BY_SIDE, flat).id, "stereo-misflagged")
        self.assertIsNone(self.named("", planes, None, flat))

    @in_acts
    def test_a_smaller_copy_keeps_its_own_name(self) -> None:
        planes = resized(packed(eyes_frames("motorcycle")), 640, 180)
        self.assertEqual(self.named("motorcycle", planes).id, "downscaled")

    def test_eyes_that_no_longer_match_are_told_without_a_cause(self) -> None:
        frames = eyes_frames("motorcycle")
        soft = [(left, cv2.GaussianBlur(right, (0, 0), 1.5)) for left, right in frames]
        tinted = [(left, right * np.float32([1.08, 1, 0.92])) for left, right in frames]
        late = [(frames[i][0], frames[max(i - 1, 0)][1]) for i in range(len(frames))]
        small = [
            (left, np.pad(cv2.resize(right, (576, 324)), ((18, 18), (32, 32), (0, 0))))
            for left, right in frames
        ]
        cases = (
            (soft, "eye_sharpness", "bent"),
            (tinted, "eye_colour", "bent"),
            (late, "eye_time", "lost"),
            (small, "eye_size", "lost"),
        )
        for _, (made, trait, verdict) in shared_out(cases, 1):
            found = self.compare("motorcycle", packed(np.clip(made, 0, 1)))
            told = {v.trait: v.verdict for v in found.survival.verdicts}
            with self.subTest(trait):
                self.assertEqual(told[trait], verdict)
                self.assertEqual(found.survival.causes, ())

    def test_patterns_and_black_frames_prove_nothing(self) -> None:
        wave = 0.5 + 0.3 * np.sin(np.arange(640) / 5)
        tile = np.tile(wave.astype(np.float32)[None, :, None], (360, 1, 3))
        pattern = [(np.roll(tile, k, 1), np.roll(tile, k + 4, 1)) for k in range(8)]
        black = [(tile * 0, tile * 0)] * 8
        for name, frames in (("pattern", pattern), ("black", black)):
            master = flagged(write(f"eyes-{name}", packed(frames), MASTER), **SIDE_BY_SIDE)
            found = self.compare("", packed(frames), SIDE_BY_SIDE, master)
            told = {v.trait: v.verdict for v in found.survival.verdicts}
            with self.subTest(name):
                self.assertEqual((told["stereo"], told["parallax"]), ("unproven", "unproven"))
                self.assertEqual(found.survival.causes, ())

    @in_acts
    def test_eyes_frame_after_frame(self) -> None:
        in_turn = {"x264-params": "frame-packing=5"}
        frames = eyes_frames("coffee")
        planes = [coded(eye, matrix=1, depth=8) for pair in frames for eye in pair]
        master = write("eyes-turn", planes, MASTER.with_options(**in_turn))
        export = write("eyes-turn-export", planes, EXPORT.with_options(**in_turn))
        found = compare_files(master, export, workers=1)
        self.assertEqual(found.survival.causes, ())
        self.assertEqual(found.survey.eyes.packings, ("frame-sequential",) * 2)
        swapped = [planes[i ^ 1] for i in range(len(planes))]
        export = write("eyes-turn-export", swapped, EXPORT.with_options(**in_turn))
        causes = compare_files(master, export, workers=1).survival.causes
        self.assertEqual([cause.id for cause in causes], ["eyes-swapped"])
