"""What each witness alone says of the promise; the contract's words for it."""

import unittest
from dataclasses import replace

from shapkeen.core.judged import judge_survival
from tests.builders.evidence import PLACE, SURVEY, TONE, declaration, evidence, explicit, tone

ALL = {"kept", "bent", "lost", "silent", "cannot-tell"}


def states(made, trait: str) -> tuple[str, str, str]:
    verdict = next(v for v in judge_survival(made).verdicts if v.trait == trait)
    return verdict.states.wrapper, verdict.states.stream, verdict.states.picture


class States(unittest.TestCase):
    def test_every_verdict_has_one_of_the_five_for_each(self) -> None:
        for made in (evidence(), evidence(tone=tone("gamma-shifted", 0.5)), evidence(tone=None)):
            for verdict in judge_survival(made).verdicts:
                found = verdict.states
                with self.subTest(verdict.trait):
                    self.assertLessEqual({found.wrapper, found.stream, found.picture}, ALL)
                    if verdict.verdict == "kept":
                        self.assertNotIn("lost", (found.wrapper, found.stream, found.picture))

    def test_a_wrong_tag_over_an_untouched_picture(self) -> None:
        made = evidence(export=declaration(both={"transfer": 1}))
        self.assertEqual(states(made, "transfer"), ("lost", "lost", "kept"))

    def test_one_witness_wrong_and_one_silent(self) -> None:
        made = evidence(export=declaration(wrapper={"transfer": None}, stream={"transfer": 1}))
        self.assertEqual(states(made, "transfer"), ("silent", "lost", "kept"))

    def test_right_tags_over_a_moved_picture(self) -> None:
        made = evidence(tone=tone("gamma-shifted", 0.5))
        self.assertEqual(states(made, "transfer"), ("kept", "kept", "lost"))
        self.assertEqual(states(made, "tone"), ("silent", "silent", "lost"))

    def test_a_picture_that_cannot_tell(self) -> None:
        made = evidence(tone=replace(TONE, span=0.0))
        self.assertEqual(states(made, "transfer"), ("kept", "kept", "cannot-tell"))
        self.assertEqual(states(made, "tone"), ("silent", "silent", "cannot-tell"))

    def test_a_forgotten_pixel_aspect_leaves_the_stored_picture_right(self) -> None:
        master = declaration(both={"pixel_aspect": (4, 3)})
        export = declaration(both={"pixel_aspect": None})
        made = evidence(master=master, export=export)
        self.assertEqual(states(made, "pixel_aspect"), ("silent", "silent", "kept"))
        self.assertEqual(states(made, "shown_shape")[2], "lost")

    def test_carriage_is_the_wrappers_and_the_streams_affair(self) -> None:
        made = evidence(export=declaration(index_first=False))
        self.assertEqual(states(made, "index_first"), ("bent", "silent", "cannot-tell"))

    def test_light_above_its_promised_ceiling_is_the_pictures_own_doing(self) -> None:
        light = replace(SURVEY.export_statistics.light, p999=5000.0)
        made = evidence(export_light=light)
        self.assertEqual(states(made, "content_light")[2], "bent")

    def test_fewer_bits_than_promised(self) -> None:
        made = evidence(
            export=declaration(both={"bit_depth": 8}), promise={"bit_depth": explicit(10)}
        )
        self.assertEqual(states(made, "bit_depth")[:2], ("lost", "lost"))

    def test_a_picture_that_was_turned(self) -> None:
        made = evidence(registration=replace(PLACE, mirrored=True))
        self.assertEqual(states(made, "framing"), ("silent", "silent", "lost"))
