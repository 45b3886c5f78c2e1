"""Spheres of photographs through real encoders: each act named with its value, alone.

Facts of the trade (common practice, no source): sphere playback needs the flag; 3840×2160 carrying
a sphere is stretched; a covered tripod is ordinary.
"""

import json
import unittest

import numpy as np

from shapkeen.core.judged import Comparison
from shapkeen.core.promised import promise_from_json
from tests.builders.boxes import flagged
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts, shared_out
from tests.builders.media import SDR, coded, padded, photo_frames, resized, write
from tests.builders.spheres import (
    OTHERS,
    cut,
    darker_edge,
    rolled,
    sphere_planes,
    through,
    torn,
    yawed,
)

MASTER = SDR.with_options(crf="8")
EXPORT = SDR.with_options(crf="20", preset="veryfast")
WHOLE = {"projection": "equirectangular"}


class SphereActs(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.planes = sphere_planes()
        cls.master = flagged(write("sphere-master", cls.planes, MASTER), **WHOLE)

    def compare(self, planes=None, flags=WHOLE, master=None, **promise: object) -> Comparison:
        export = write("sphere-export", planes or self.planes, EXPORT)
        wanted = {"schema": "shapkeen.promise/1", "traits": promise}
        return compare_files(
            master or self.master,
            flagged(export, **flags) if flags else export,
            overrides=promise_from_json(json.dumps(wanted), origin="this test"),
            workers=1,
        )

    def named(self, *args, **more):
        """Return the one cause that is named, None where none is."""
        causes = self.compare(*args, **more).survival.causes
        self.assertLessEqual(len(causes), 1, causes)
        return causes[0] if causes else None

    def test_a_healthy_sphere_shows_no_cause_and_leaves_nothing_unproven(self) -> None:
        found = self.compare()
        self.assertEqual((found.survival.causes, found.survival.overall), ((), "kept"))
        sphere = found.survey.sphere
        self.assertEqual(sphere.kinds, ("equirectangular",) * 2)
        self.assertLess(abs(sphere.turn.yaw), 0.05)

    def test_a_forgotten_flag(self) -> None:
        cause = self.named(flags=None)
        self.assertEqual((cause.id, cause.traits), ("sphere-unflagged", ("projection",)))
        self.assertGreater(cause.strength, 0.9)

    def test_another_layout_stated(self) -> None:
        cause = self.named(flags={"projection": "cubemap"})
        self.assertEqual(cause.id, "sphere-misflagged")
        self.assertEqual(dict(cause.values), {"from": "equirectangular", "to": "cubemap"})

    def test_a_turned_sphere_by_its_yaw_and_tilt(self) -> None:
        turns = ((0.25, 90), (-0.125, -45), (1 / 96, 3.75))
        for _, (share, yaw) in shared_out(turns, 0):
            cause = self.named(rolled(self.planes, share))
            with self.subTest(yaw):
                self.assertEqual((cause.id, cause.traits), ("sphere-turned", ("sphere_front",)))
                self.assertAlmostEqual(cause.values["yaw"], yaw, delta=0.1)
        cause = self.named(through(self.planes, "e:e:pitch=-6:roll=4:interp=cubic"))
        self.assertEqual(cause.id, "sphere-turned")
        self.assertAlmostEqual(cause.values["pitch"], 6, delta=0.1)
        self.assertAlmostEqual(cause.values["roll"], -4, delta=0.1)

    def test_a_pose_that_turns_it_back_is_no_injury(self) -> None:
        made = self.compare(rolled(self.planes, 0.125), {**WHOLE, "pose": (45, 0, 0)})
        self.assertEqual(made.survival.causes, ())

    def test_a_cut_sphere_explains_its_open_seam(self) -> None:
        cases = (
            (cut(self.planes, across=1), "left", 48),
            (resized(cut(self.planes, down=1), 768, 384), "top", 24),
        )
        for _, (planes, side, count) in shared_out(cases, 1):
            cause = self.named(planes)
            with self.subTest(side):
                self.assertEqual(cause.id, "sphere-cropped")
                self.assertAlmostEqual(cause.values[side], count, delta=2)

    @in_acts
    def test_edges_that_no_longer_meet(self) -> None:
        for planes in (darker_edge(self.planes, 0.25), torn(self.planes)):
            self.assertEqual(self.named(planes).id, "seam-broken")

    def test_a_turn_by_parts_of_a_sample_keeps_the_seam_closed(self) -> None:
        for _, yaw in shared_out((0.5, 17.3, -3.2), 1):  # a sample is 0.47 degrees
            cause = self.named(yawed(self.planes, yaw))
            with self.subTest(yaw):
                self.assertEqual((cause.id, cause.traits), ("sphere-turned", ("sphere_front",)))
                self.assertAlmostEqual(cause.values["yaw"], yaw, delta=0.05)

    @in_acts
    def test_other_acts_keep_their_own_names(self) -> None:
        cases = (
            (resized(self.planes, 768, 432), "stretched"),
            (padded(self.planes, top=24, bottom=24), "letterboxed"),
            (resized(self.planes, 384, 192), "downscaled"),
        )
        for _, (planes, name) in shared_out(cases, 0):
            cause = self.named(planes)
            with self.subTest(name):
                self.assertEqual(cause.id, name)
                self.assertEqual("A whole sphere is 2:1" in cause.why, name == "stretched")

    def test_a_silent_masters_picture_speaks(self) -> None:
        silent = write("sphere-silent", sphere_planes(OTHERS), MASTER)
        self.assertEqual(self.named(sphere_planes(OTHERS), None, silent).id, "sphere-unflagged")
        self.assertIsNone(self.named(sphere_planes(OTHERS), WHOLE, silent))

    @in_acts
    def test_half_a_sphere_is_known_by_its_flag_and_by_its_picture(self) -> None:
        half = cut(self.planes, across=4)
        flags = {**WHOLE, "bounds": (0, 0, 0.25, 0.25)}
        silent = write("sphere-half", half, MASTER)
        for _, master in shared_out((flagged(silent, **flags), silent), 1):
            found = self.compare(half, flags, master)
            with self.subTest(master.name):
                self.assertEqual((found.survival.causes, found.survival.overall), ((), "kept"))
                self.assertEqual(found.survey.sphere.kinds, ("half-equirectangular",) * 2)
            self.assertEqual(self.named(half, None, master).id, "sphere-unflagged")
            cause = self.named(half, WHOLE, master)
            values = {"from": "half-equirectangular", "to": "equirectangular"}
            self.assertEqual((cause.id, dict(cause.values)), ("sphere-misflagged", values))

    @in_acts
    def test_a_flat_picture_under_a_flag(self) -> None:
        flat = [coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (768, 384), 8)]
        for name, flags in (("silent", None), ("flagged", WHOLE)):
            master = write(f"flat-{name}", flat, MASTER)
            cause = self.named(flat, WHOLE, flagged(master, **flags) if flags else master)
            with self.subTest(name):
                self.assertEqual(cause.id, "sphere-misflagged")
                values = {"from": "rectilinear", "to": "equirectangular"}
                self.assertEqual(dict(cause.values), values)
        self.assertIsNone(self.named(flat, None, write("flat-plain", flat, MASTER)))

    @in_acts
    def test_a_covered_tripod_breaks_nothing(self) -> None:
        covered = [(y.copy(), cb, cr) for y, cb, cr in self.planes]
        for y, _, _ in covered:
            y[-50:] = 16
        master = flagged(write("sphere-tripod", covered, MASTER), **WHOLE)
        self.assertIsNone(self.named(covered, WHOLE, master))

    def test_black_frames_prove_nothing(self) -> None:
        black = [
            tuple(np.full_like(p, 128 if i else 16) for i, p in enumerate(item))
            for item in self.planes
        ]
        master = flagged(write("sphere-black", black, MASTER), **WHOLE)
        found = self.compare(black, WHOLE, master)
        told = {v.trait: v.verdict for v in found.survival.verdicts if v.family == "sphere"}
        self.assertEqual(set(told.values()), {"unproven"})
        self.assertEqual(found.survival.causes, ())

    def test_bounds_that_deny_the_whole_sphere(self) -> None:
        part = flagged(write("sphere-part", self.planes, MASTER), **WHOLE, bounds=(0, 0, 0.1, 0.1))
        found = self.compare(self.planes, {**WHOLE, "bounds": (0, 0, 0.1, 0.1)}, part)
        bounds = next(v for v in found.survival.verdicts if v.trait == "projection_bounds")
        self.assertEqual((bounds.verdict, bounds.picture), ("lost", "whole"))
