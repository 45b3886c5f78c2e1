"""The house itself: what must hold for every file."""

import re
import subprocess
import unittest
from pathlib import Path

TOP = Path(__file__).parent.parent


def tracked(*endings: str) -> list[Path]:
    listed = subprocess.run(
        ["git", "ls-files"], cwd=TOP, capture_output=True, text=True, check=True
    )
    paths = [TOP / line for line in listed.stdout.splitlines()]
    return [path for path in paths if path.suffix in endings and path.is_file()]


class Locks(unittest.TestCase):
    def test_no_address_or_path_stands_in_a_lock(self) -> None:
        for path in TOP.glob("requirements*.txt"):
            text = path.read_text()
            for word in ("://", "--index", "--find-links", "--trusted"):
                self.assertNotIn(word, text, path.name)
            pinned = [line for line in text.splitlines() if line and line[0] not in " #"]
            self.assertTrue(all("==" in line for line in pinned), path.name)
            self.assertEqual(text.count("--hash=sha256:") >= len(pinned), True)


class Pages(unittest.TestCase):
    def test_nothing_inline_that_the_policy_forbids(self) -> None:
        for path in tracked(".html"):
            text = path.read_text()
            for pattern in (
                r"\sstyle=",
                r"<style",
                r"\son\w+=",
                r"hx-on",
                r"<script(?![^>]*\bsrc=)",
                r"x-html",
            ):
                self.assertIsNone(re.search(pattern, text), (path.name, pattern))

    def test_no_outside_address_stands_in_a_page(self) -> None:
        for path in tracked(".html", ".css", ".js"):
            if "vendor" not in path.parts:
                self.assertNotRegex(path.read_text(), r"(https?:)?//[a-z0-9-]+\.[a-z]", path.name)

    def test_parts_say_who_includes_them(self) -> None:
        for path in tracked(".html"):
            if path.name.startswith("_"):
                self.assertTrue(path.read_text().startswith("{#"), path.name)

    def test_shipped_files_have_their_licences(self) -> None:
        vendor = TOP / "shapkeen/web/static/vendor"
        for folder in vendor.iterdir():
            names = {item.name for item in folder.iterdir()}
            self.assertTrue(names & {"LICENSE", "package.json"}, folder.name)


class Modules(unittest.TestCase):
    def test_every_module_says_what_it_is(self) -> None:
        for path in tracked(".py"):
            text = path.read_text().removeprefix("#!/usr/bin/env python\n")
            if text and "migrations" not in path.parts:
                self.assertTrue(text.startswith(('"""', "'''")), path)

    def test_modules_stay_short(self) -> None:
        for path in tracked(".py"):
            if "tests" not in path.parts:
                self.assertLess(len(path.read_text().splitlines()), 400, path.name)
