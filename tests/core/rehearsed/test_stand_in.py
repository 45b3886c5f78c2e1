"""Stand-ins as files: those that ship, and what is wrong with others."""

import json
import unittest

from shapkeen.core.errors import UsageError
from shapkeen.core.rehearsed.stand_in import (
    shipped_stand_ins,
    stand_in_from_json,
    stand_in_named,
    stand_in_to_json,
)


def changed(*path: object, value: object) -> str:
    """Return a shipped stand-in's text with one value changed."""
    data = json.loads(stand_in_to_json(stand_in_named("tidewater-club")))
    at = data
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    return json.dumps(data)


class Shipped(unittest.TestCase):
    def test_at_least_six_differ_in_kind(self) -> None:
        known = shipped_stand_ins()
        self.assertGreaterEqual(len(known), 6)
        self.assertEqual(len({one.key for one in known}), len(known))
        self.assertTrue(any(one.plays_itself for one in known))
        self.assertTrue(any(one.hdr for one in known))
        layouts = [(one.believes["projection"], one.believes["stereo"]) for one in known]
        self.assertTrue(any(sphere.witnesses and eyes.witnesses for sphere, eyes in layouts))
        self.assertTrue(any(one.picture.crop for one in known))

    def test_a_file_is_read_as_it_was_written(self) -> None:
        for one in shipped_stand_ins():
            with self.subTest(one.key):
                self.assertEqual(stand_in_from_json(stand_in_to_json(one)), one)

    def test_it_is_found_by_name_key_and_not_otherwise(self) -> None:
        self.assertEqual(stand_in_named("Tidewater Club"), stand_in_named("tidewater-club"))
        with self.assertRaisesRegex(UsageError, "Known are Beacon Broadcast"):
            stand_in_named("nowhere")


class Faults(unittest.TestCase):
    def test_a_fault_is_told_with_its_place(self) -> None:
        for path, value, where in (
            (("schema",), "shapkeen.promise/1", "schema"),
            (("key",), "Big Name", "key"),
            (("takes", "wrappers"), [], "takes.wrappers"),
            (("takes", "colour"), "red", "takes"),
            (("takes", "most_raster"), [0, 10], "takes.most_raster"),
            (("believes", "range", "silent"), "wide", "believes.range.silent"),
            (("believes", "rotation", "silent"), 45, "believes.rotation.silent"),
            (("believes", "pixel_aspect", "silent"), [0, 1], "believes.pixel_aspect.silent"),
            (("believes",), {}, "believes.transfer"),
            (("ladder", 0, "stage"), "never", "ladder[0].stage"),
            (("ladder", 0, "codec"), "mpeg2", "ladder[0].codec"),
            (("ladder", 0, "lines"), 2, "ladder[0].lines"),
            (("ladder", 0, "bit_rate"), 1, "ladder[0].bit_rate"),
            (("ladder", 3, "codec"), "h264", "ladder[3].codec"),
            (("ladder", 3, "codec"), "vp9", "ladder[3].codec"),
            (("sdr", "tone_map"), "magic", "sdr.tone_map"),
            (("sdr", "table"), "no table", "sdr.table"),
            (("hdr", "transfer"), 1, "hdr.transfer"),
            (("picture", "denoise"), 99.0, "picture.denoise"),
            (("stages", 0, "after_s"), -1.0, "stages[0]"),
        ):
            with self.subTest(path=path, value=value):
                with self.assertRaises(UsageError) as caught:
                    stand_in_from_json(changed(*path, value=value))
                self.assertTrue(caught.exception.where.startswith(where), caught.exception.where)

    def test_what_is_no_json_is_refused(self) -> None:
        for text in ("", "[]", "{", '{"schema": "shapkeen.stand-in/1"}', "1" * (5 << 20)):
            with self.subTest(text[:20]), self.assertRaises(UsageError):
                stand_in_from_json(text)
