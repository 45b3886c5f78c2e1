"""Delivery specifications: those that ship, the form of their files, and what is refused."""

import json
import unittest

from shapkeen.core.errors import UsageError
from shapkeen.core.promised.specification import (
    SHIPPED,
    shipped_specifications,
    specification_from_json,
    specification_to_json,
)


def refused(**changes: object) -> UsageError | None:
    data = json.loads((SHIPPED / "foghorn-shorts.json").read_text()) | changes
    try:
        specification_from_json(json.dumps({k: v for k, v in data.items() if v is not ...}))
    except UsageError as error:
        return error
    return None


class Shipped(unittest.TestCase):
    def test_at_least_eight_ship_each_with_a_version_and_come_back_as_they_were(self) -> None:
        found = shipped_specifications()
        self.assertGreaterEqual(len(found), 8)
        self.assertEqual(len({one.key for one in found}), len(found))
        for one in found:
            self.assertEqual(specification_from_json(specification_to_json(one)), one)
            self.assertEqual((SHIPPED / f"{one.key}.json").stem, one.key)

    def test_they_cover_the_limits_of_the_trade(self) -> None:
        # common practice, no source
        by = {one.key: one for one in shipped_specifications()}
        sphere, upright = by["vellmar-dome"], by["foghorn-shorts"]
        self.assertEqual((sphere.length.most_s, sphere.most_bytes), (600, 1_750_000_000))
        self.assertEqual(list(sphere.frame_rates), [24, 25, 30, 48, 50, 60])
        self.assertEqual((upright.length.least_s, upright.length.most_s), (3, 60))
        self.assertEqual((upright.most_bytes, upright.most_rate), (150_000_000, (30, 1)))
        self.assertIn((1080, 1350), upright.rasters)
        self.assertEqual(upright.light, ("sdr",))
        hdr = by["harbourlight-premiere"]
        self.assertEqual((hdr.light, hdr.peak_nits, hdr.bit_depth), (("pq",), 1000, 10))
        self.assertTrue(any(one.softens and one.rasters[0][1] == 1080 for one in by.values()))


class Refused(unittest.TestCase):
    def test_says_what_is_wrong_where(self) -> None:
        for changes, place, words in (
            ({"schema": "shapkeen.promise/1"}, "schema", "starts with"),
            ({"key": "Foghorn Shorts"}, "key", "small letters"),
            ({"version": 0}, "version", "from 1"),
            ({"version": "2"}, "version", "expected int"),
            ({"bars": 1}, "bars", "expected bool"),
            ({"rasters": [[1080, 1351]]}, "rasters[0]", "even width and height"),
            ({"rasters": [[0, 1350]]}, "rasters[0]", "1 to 32768"),
            ({"shape": [4, 0]}, "shape", "above 0"),
            ({"most_rate": [0, 0]}, "most_rate", "above 0"),
            ({"codecs": []}, "codecs", "At least one"),
            ({"codecs": [{"codec": "h264", "profile": "Low"}]}, "codecs[0]", "unknown"),
            ({"light": ["log"]}, "light", ""),
            ({"bit_rate": {"least": 9, "target": 8}}, "bit_rate", "rise"),
            ({"length": {"least_s": 60, "most_s": 3}}, "length", "longer"),
            ({"packings": ["crossed"]}, "packings[0]", "one of"),
            ({"chroma": "4:1:1"}, "chroma", "one of"),
            ({"projection": "globe"}, "projection", "one of"),
            ({"wrappers": ["rar"]}, "wrappers", "mp4"),
            ({"most_bytes": 10**16}, "most_bytes", "0 to 1e+15"),
            ({"length": {"most_s": float("inf")}}, "length.most_s", "within"),
            ({"length": {"least_s": float("nan")}}, "length.least_s", "within"),
            ({"bit_rate": {"target": -1}}, "bit_rate.target", "0 to 1e+15"),
            ({"colour": "red"}, "", "colour"),
            ({"name": ...}, "", "name"),
        ):
            with self.subTest(changes=changes):
                error = refused(**changes)
                self.assertIsNotNone(error)
                self.assertIn(place, error.where)
                self.assertIn(words, f"{error.text} {error.where}")
        self.assertIsNone(refused())

    def test_no_json_at_all(self) -> None:
        for text in ("", "[]", "{", "[" * 100_000, '{"schema": 1}'):
            with self.assertRaises(UsageError):
                specification_from_json(text)
