"""What a silent master leaves open: asked with a likely answer, and read as it was answered.

Code points: ITU-T H.273. Standard definition: ITU-R BT.601-7; high: BT.709-6; HDR: BT.2100-2.
"""

import unittest
from dataclasses import replace

from shapkeen.core.judged.readings import promised_coding, read_pair_by
from shapkeen.core.judged.silence import ASKED, choices_of, question_of
from shapkeen.core.promised import promise_from_layers, promise_from_master
from tests.builders.evidence import CODES, WHOLE, declaration

NOTHING = dict.fromkeys((*ASKED,))
BARE = {"mastering_display": None, "content_light": None}


def silent(stream: dict | None = None, **both: object):
    return declaration(both=NOTHING | both, stream={**BARE, **(stream or {})})


class Questions(unittest.TestCase):
    def test_a_master_that_says_all_is_asked_nothing(self) -> None:
        self.assertIsNone(question_of(declaration(), None))

    def test_likely_answers_and_their_reasons(self) -> None:
        for master, codes, reason in (
            (silent(bit_depth=8), (1, 1, 1), "1080 lines in 8 bits and no HDR metadata"),
            (silent(raster=(720, 576)), (6, 5, 5), "576 lines"),
            (silent(raster=(720, 486)), (6, 6, 6), "486 lines"),
            (silent(stream={"content_light": {"max_cll": 900, "max_fall": 90}}), (16, 9, 9), "PQ"),
            (silent(primaries=9), (16, 9, 9), "BT.2020"),
            (silent(transfer=18), (18, 9, 9), "HLG"),
        ):
            found = question_of(master, None)
            assert found is not None
            likely = tuple(found.likely[trait] for trait in ASKED[:3])
            with self.subTest(reason):
                self.assertEqual(likely, codes)
                self.assertIn(reason, found.reason)

    def test_the_range_is_told_from_the_picture(self) -> None:
        full = replace(WHOLE, codes=replace(CODES, below_black=0.03, above_white=0.01))
        for whole, word in ((None, "limited"), (WHOLE, "limited"), (full, "full")):
            found = question_of(silent(), whole)
            assert found is not None
            self.assertEqual(found.likely["range"], word)
        self.assertIn("4.0% of its samples", found.reason)

    def test_unspecified_is_silence_and_only_what_is_open_is_asked(self) -> None:
        found = question_of(declaration(both={"matrix": 2}), None)
        assert found is not None
        self.assertEqual((found.traits, found.likely["matrix"]), (("matrix",), 9))
        self.assertNotIn(2, choices_of("matrix"))

    def test_a_silent_master_is_read_as_it_was_said_to_be(self) -> None:
        master, export = silent(), declaration()
        text = (
            '{"schema": "shapkeen.promise/1", "traits": {"transfer": {"value": 16}, '
            '"primaries": {"value": 9}, "matrix": {"value": 9}}}'
        )
        said = promise_from_layers([(text, "said by Ines"), ("", "delivery Harbour")])
        promise = promise_from_master(master, overrides=said)
        self.assertEqual(promise.traits["transfer"].origin, "said by Ines")
        reading = read_pair_by(promise, master, export)
        self.assertEqual((reading.master.transfer, reading.master.primaries), (16, 9))
        self.assertIsNone(promised_coding(promise, master))  # no conversion: that is what it is
        # what a delivery itself asks for wins over it
        own = '{"schema": "shapkeen.promise/1", "traits": {"transfer": {"value": 18, "from": 16}}}'
        both = promise_from_layers([(text, "said by Ines"), (own, "delivery Harbour")])
        promise = promise_from_master(master, overrides=both)
        self.assertEqual(promise.value("transfer"), 18)
        self.assertEqual(read_pair_by(promise, master, export).master.transfer, 16)
        self.assertIsNotNone(promised_coding(promise, master))
