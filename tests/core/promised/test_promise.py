"""Promises: what follows from a master, and the promise file."""

import json
import unittest

from shapkeen.core.errors import UsageError
from shapkeen.core.promised import (
    FAMILIES,
    TRAITS,
    promise_from_json,
    promise_from_master,
    promise_to_json,
    read_promise_file,
    trait_by_name,
)
from tests.builders import media
from tests.builders.evidence import declaration


def promise(**traits: object):
    text = json.dumps({"schema": "shapkeen.promise/1", "traits": traits})
    return promise_from_json(text, origin="this test")


class FromMaster(unittest.TestCase):
    def test_every_value_says_where_it_came_from(self) -> None:
        made = promise_from_master(declaration())
        for name, promised in made.traits.items():
            self.assertTrue(promised.origin, name)
            self.assertFalse(promised.explicit)
        self.assertIn("SPS (hvcC)", made.traits["transfer"].origin)

    def test_unspecified_and_unknown_are_not_promised(self) -> None:
        silent = declaration(
            both={"transfer": 2}, stream={"content_light": {"max_cll": 0, "max_fall": 0}}
        )
        made = promise_from_master(silent)
        self.assertNotIn("transfer", made.traits)
        self.assertNotIn("content_light", made.traits)

    def test_silence_that_has_a_meaning(self) -> None:
        made = promise_from_master(declaration())
        self.assertEqual(made.value("pixel_aspect"), (1, 1))
        self.assertEqual(made.value("rotation"), 0)
        self.assertNotIn("stereo", made.traits)

    def test_another_transfer_takes_what_belongs_to_the_first_along(self) -> None:
        hlg = declaration(both={"transfer": 18}, stream={"alternative_transfer": 18})
        as_pq = promise_from_master(hlg, overrides=promise(transfer={"value": 16}))
        self.assertNotIn("alternative_transfer", as_pq.traits)
        self.assertIn("content_light", as_pq.traits)
        as_sdr = promise_from_master(hlg, overrides=promise(transfer={"value": 1}))
        self.assertNotIn("content_light", as_sdr.traits)
        asked = promise(
            transfer={"value": 1}, content_light={"value": {"max_cll": 100, "max_fall": 50}}
        )
        self.assertIn("content_light", promise_from_master(hlg, overrides=asked).traits)

    def test_shown_shape_follows(self) -> None:
        made = promise_from_master(declaration(both={"pixel_aspect": (4, 3)}))
        # geometry.json: 1920×1080 at 4:3 is shown 2560 wide, 2.3704:1
        self.assertAlmostEqual(made.value("shown_shape"), 2560 / 1080, places=4)

    def test_derived_display_size_is_no_promise_of_its_own(self) -> None:
        anamorphic = {"pixel_aspect": (4, 3)}
        derived = declaration(both=anamorphic, wrapper={"display_size": (2560, 1080)})
        self.assertNotIn("display_size", promise_from_master(derived).traits)
        own = declaration(both=anamorphic, wrapper={"display_size": (2000, 1080)})
        self.assertEqual(promise_from_master(own).value("display_size"), (2000, 1080))

    def test_a_promise_file_wins_trait_by_trait(self) -> None:
        wanted = promise(transfer={"value": 18, "from": 16})
        made = promise_from_master(declaration(), overrides=wanted)
        self.assertEqual(made.value("transfer"), 18)
        self.assertEqual(made.traits["transfer"].converted_from, 16)
        self.assertEqual(made.value("primaries"), 9)

    def test_index_is_promised_whatever_the_masters(self) -> None:
        made = promise_from_master(declaration(index_first=False))
        self.assertIs(made.value("index_first"), True)


class File(unittest.TestCase):
    def test_goes_out_and_comes_back(self) -> None:
        wanted = promise(
            raster={"value": [3840, 2160], "from": [1920, 1080]},
            pixel_aspect={"value": [1, 1], "tolerance": 0.01, "weight": "should"},
            frame_rate={"one_of": [[24, 1], [24000, 1001]]},
            content_light={"value": {"max_cll": 1000, "max_fall": 400}},
            framing={"value": {"crop": [0, 138, 1920, 804]}},
        )
        again = promise_from_json(promise_to_json(wanted), origin="this test")
        self.assertEqual(again, wanted)
        self.assertTrue(again.traits["raster"].explicit)
        self.assertEqual(again.traits["frame_rate"].one_of, ((24, 1), (24000, 1001)))

    def test_faults_are_told_with_their_place(self) -> None:
        for traits, place in (
            ({"tranfser": {"value": 16}}, "traits/tranfser"),
            ({"transfer": 16}, "traits/transfer"),
            ({"transfer": {"value": 300}}, "traits/transfer/value"),
            ({"transfer": {"value": "PQ"}}, "traits/transfer/value"),
            ({"transfer": {"vaule": 16}}, "traits/transfer/vaule"),
            ({"transfer": {}}, "traits/transfer"),
            ({"raster": {"value": [0, 1080]}}, "traits/raster/value"),
            ({"raster": {"value": [1920]}}, "traits/raster/value"),
            ({"raster": {"value": [1920, 1080], "weight": "maybe"}}, "traits/raster/weight"),
            ({"raster": {"value": [1920, 1080], "tolerance": -1}}, "traits/raster/tolerance"),
            ({"range": {"one_of": "limited"}}, "traits/range/one_of"),
            ({"range": {"one_of": ["narrow"]}}, "traits/range/one_of"),
            ({"mirror": {"value": 1}}, "traits/mirror/value"),
        ):
            with self.subTest(traits=traits), self.assertRaises(UsageError) as caught:
                promise(**traits)
            self.assertEqual(caught.exception.where, place)
            self.assertEqual(caught.exception.exit_status, 64)

    def test_what_is_no_promise_at_all(self) -> None:
        deep = "[" * 100_000
        for text in (
            "",
            "not json",
            "[]",
            '{"schema": "other/1"}',
            deep,
            '{"schema":"shapkeen.promise/1"}',
        ):
            with self.assertRaises(UsageError):
                promise_from_json(text, origin="this test")

    def test_files_that_cannot_be_read(self) -> None:
        for path in (media.temporary("p.json", b"\xff\xfe\xff"), media.temporary("x", b"").parent):
            with self.assertRaises(UsageError):
                read_promise_file(path)


class Registry(unittest.TestCase):
    def test_names_are_unique_and_families_known(self) -> None:
        names = [trait.name for trait in TRAITS]
        self.assertEqual(len(names), len(set(names)))
        self.assertLessEqual({trait.family for trait in TRAITS}, set(FAMILIES))

    def test_holds_every_trait_of_the_contract(self) -> None:
        # docs/contract.md, the table of witnesses' traits
        for name in [
            "raster",
            "pixel_aspect",
            "display_size",
            "clean_aperture",
            "rotation",
            "mirror",
            "scan",
            "frame_rate",
            "bit_depth",
            "chroma",
            "chroma_location",
            "range",
            "primaries",
            "transfer",
            "matrix",
            "alternative_transfer",
            "mastering_display",
            "content_light",
            "dynamic_hdr",
            "projection",
            "projection_bounds",
            "pose",
            "stereo",
            "framing",
            "index_first",
        ]:
            self.assertIsNotNone(trait_by_name(name), name)

    def test_every_trait_has_a_rule(self) -> None:
        from shapkeen.core.judged.rules import RULES

        self.assertLessEqual({trait.rule for trait in TRAITS}, set(RULES))

    def test_values_are_shown_in_few_signs(self) -> None:
        for name, value, shown in (
            ("transfer", 16, "PQ"),
            ("transfer", 77, "code 77"),
            ("raster", (1920, 1080), "1920×1080"),
            ("pixel_aspect", (4, 3), "4:3"),
            ("frame_rate", (24000, 1001), "23.976"),
            ("frame_rate", (25, 1), "25"),
            ("index_first", True, "yes"),
            ("shown_shape", 2.3704, "2.37"),
            ("content_light", {"max_cll": 1000, "max_fall": 400}, "1000 / 400"),
            ("chroma_location", 2, "top left"),
            ("dynamic_hdr", ("st2094-40",), "st2094-40"),
            ("framing", {"crop": (0, 138, 1920, 804)}, "1920×804 at 0,138"),
        ):
            trait = trait_by_name(name)
            assert trait is not None
            self.assertEqual(trait.form.show(value), shown)
