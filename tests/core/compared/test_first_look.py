"""The first look: a few pairs reached by seeking say what every frame says, but for time."""

import unittest
from dataclasses import replace
from functools import lru_cache

from shapkeen.core.compared import compare_files
from shapkeen.core.declared import read_declaration
from shapkeen.core.promised import promise_from_master
from shapkeen.core.reported.bench import declared_stage
from tests.builders import media
from tests.builders.media import SDR, changed, coded, photo_frames, write


@lru_cache
def planes(count: int = 60):
    return [coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (640, 360), count)]


class FirstLook(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        grouped = SDR.with_options(crf="6", g="12")
        cls.master = write("first-master", planes(), grouped)

    def look(self, made, coding=SDR, **more):
        return compare_files(self.master, write("first-export", made, coding), quick=True, **more)

    def test_a_healthy_export_is_kept_so_far(self) -> None:
        found = self.look(planes(), SDR.with_options(g="30"))
        self.assertEqual(found.survey.stage, "first-look")
        self.assertEqual((found.survival.overall, found.survival.causes), ("kept", ()))
        told = {v.trait: v for v in found.survival.verdicts}["frames"]
        self.assertIn("still to be looked at", told.why)
        self.assertGreaterEqual(len(found.survey.pairs), 6)

    def test_acts_are_named_as_by_every_frame(self) -> None:
        acts = {
            "range-compressed": changed(
                planes(),
                luma=lambda y: 16 + y * 219 / 255,
                chroma=lambda c: 128 + (c - 128) * 224 / 255,
            ),
            "letterboxed": media.padded(planes(), top=60, bottom=60),
            "mirrored": [tuple(p[:, ::-1] for p in item) for item in planes()],
        }
        for cause, made in acts.items():
            found = self.look(made)
            with self.subTest(cause):
                self.assertEqual(found.survey.stage, "first-look")
                self.assertEqual([one.id for one in found.survival.causes], [cause])

    def test_missing_frames_are_left_open_not_kept(self) -> None:
        found = self.look([item for n, item in enumerate(planes()) if n != 31])
        verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertNotEqual(verdicts["frames"], "kept")
        self.assertLessEqual({one.id for one in found.survival.causes}, {"frames-dropped"})

    def test_another_beginning_is_no_other_framing(self) -> None:
        found = self.look(planes()[20:])
        self.assertEqual((found.survey.stage, found.survey.offset), ("first-look", 20))
        verdicts = {v.trait: v.verdict for v in found.survival.verdicts}
        self.assertEqual((verdicts["framing"], verdicts["frames"]), ("kept", "unproven"))
        self.assertEqual(found.survival.causes, ())


class Declared(unittest.TestCase):
    def test_headers_alone_decide_what_they_can(self) -> None:
        master = read_declaration(media.sdr_master())
        export = read_declaration(
            write("untagged", planes(10), replace(SDR, colour=None, flags=()))
        )
        told = declared_stage(promise_from_master(master), master, export)
        verdicts = {v.trait: v.verdict for v in told.survival.verdicts}
        self.assertEqual((verdicts["primaries"], verdicts["index_first"]), ("lost", "bent"))
        self.assertNotIn("tone", verdicts)
        self.assertNotIn("unproven", verdicts.values())
