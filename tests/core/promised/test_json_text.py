"""JSON that people write: what could not be kept, shown or corrected is refused at once."""

import unittest

from shapkeen.core.errors import UsageError
from shapkeen.core.promised import promise_from_json
from shapkeen.core.promised.json_text import read_json

HEAD = '{"schema": "shapkeen.promise/1", "traits": '


class JsonText(unittest.TestCase):
    def test_what_is_refused(self) -> None:
        for text, word in (
            ("NaN", "within"),
            ("-Infinity", "within"),
            ("1e999", "within"),
            ("1" + "0" * 400, "within"),
            ('"\\ud800"', "surrogate"),
            ('{"\\ud800": 1}', "surrogate"),
            ("[" * 40 + "]" * 40, "nested"),
            ("[" * 100_000, "no JSON"),
            ("{", "no JSON"),
        ):
            with self.subTest(text[:20]), self.assertRaises(UsageError) as caught:
                read_json(text)
            self.assertIn(word, caught.exception.text)
            caught.exception.where.encode()  # it is shown on pages

    def test_in_a_promise_the_place_is_told(self) -> None:
        wanted = HEAD + '{"content_light": {"value": {"max_cll": NaN, "max_fall": 1}}}}'
        with self.assertRaises(UsageError) as caught:
            promise_from_json(wanted, origin="this test")
        self.assertEqual(caught.exception.where, "traits/content_light/value/max_cll")
        wanted = HEAD + '{"content_light": {"value": {"max_cll": 1e999, "max_fall": 1}}}}'
        with self.assertRaises(UsageError) as caught:
            promise_from_json(wanted, origin="this test")
        self.assertEqual(caught.exception.where, "traits/content_light/value/max_cll")

    def test_what_is_read(self) -> None:
        self.assertEqual(read_json('{"a": [1, 2.5, "é", null, true]}')["a"][2], "é")
