"""Drawings and words explain themselves, in the words of the glossary."""

import re
from pathlib import Path
from unittest import TestCase

from shapkeen.core.promised.traits import TRAITS
from shapkeen.core.reported.drawings import DRAWERS, DRAWN_BY
from shapkeen.core.reported.explained import EXPLAINED
from shapkeen.web.library.glossary import WORDS
from tests.web.base import WebCase

ROOT = Path(__file__).parents[2]
ROW = re.compile(r"^\| ([^|]+) \| ([^|]+) \|", re.MULTILINE)


class Told(TestCase):
    def test_a_word_means_on_pages_what_it_means_in_the_glossary(self) -> None:
        rows = ROW.findall((ROOT / "docs" / "glossary.md").read_text())
        meanings = {name.split(",")[0].strip(): meaning for name, meaning in rows}
        for word, meaning in WORDS.items():
            with self.subTest(word=word):
                self.assertIn(meaning, meanings[word].replace("*", ""))

    def test_every_drawing_says_how_it_is_read(self) -> None:
        self.assertLessEqual(set(DRAWERS), set(EXPLAINED))
        self.assertLessEqual(set(DRAWN_BY), {trait.name for trait in TRAITS})
        self.assertEqual(set(DRAWN_BY.values()), set(DRAWERS))
        templates = (ROOT / "shapkeen" / "web" / "templates").rglob("*.html")
        used = {name for path in templates for name in re.findall(r'how "(\w+)"', path.read_text())}
        self.assertEqual(used | set(DRAWERS), set(EXPLAINED))


class Shown(WebCase):
    def test_the_bench_explains_its_words_and_drawings(self) -> None:
        attempt = self.attempt("untagged.mp4")
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, WORDS["lost"])
        self.assertContains(page, "How to read it")
        slip = self.client.get(f"/attempt/{attempt.pk}/trait/tone/")
        self.assertContains(slip, EXPLAINED["tone"])
