"""The house itself: what must hold for every file."""

import ast
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


class Words(unittest.TestCase):
    """docs/glossary.md: one word for one meaning; what had to go does not come back."""

    GONE = frozenset(
        re.findall(
            r"\w+",
            "laid lay lays laying laid_out arranged arranging arrangement meet meets met scout "
            "together watched watcher twins unlike in_turn round_views carrier carriers returned "
            "caution cautions if_nothing sameness stacked beside",
        )
    )
    """Identifiers and names of files in the code, after glossary.md has better ones."""

    def names(self, path: Path) -> set[str]:
        tree = ast.parse(path.read_text())
        found = {path.stem}
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef | ast.ClassDef):
                found.add(node.name)
            elif isinstance(node, ast.arg):
                found.add(node.arg)
            elif isinstance(node, ast.Name) and isinstance(node.ctx, ast.Store):
                found.add(node.id)
        return found

    def test_words_that_had_to_go_are_gone(self) -> None:
        for path in tracked(".py"):
            if path.is_relative_to(TOP / "shapkeen") and "migrations" not in path.parts:
                with self.subTest(path.relative_to(TOP)):
                    words = {name.strip("_").lower() for name in self.names(path)}
                    self.assertEqual(words & self.GONE, set())

    def test_master_and_export_are_called_so(self) -> None:
        # `one` and `other` are for two alike; what is the master's and the export's says so.
        for path in tracked(".py"):
            if path.is_relative_to(TOP / "shapkeen/core/measured"):
                for node in ast.walk(ast.parse(path.read_text())):
                    if isinstance(node, ast.FunctionDef):
                        names = [argument.arg for argument in node.args.args]
                        with self.subTest(path.name, function=node.name):
                            self.assertFalse({"one", "master"} <= set(names))
                            self.assertFalse({"other", "export"} <= set(names))

    def test_every_reference_to_a_document_resolves(self) -> None:
        for path in tracked(".py", ".md", ".html"):
            text = path.read_text()
            for name in re.findall(r"\bdocs/[\w./-]+\.(?:md|png)", text):
                self.assertTrue((TOP / name).exists(), (path.name, name))
            for number in re.findall(r"\bdecision (\d{4})", text):
                found = list((TOP / "docs/decisions").glob(f"{number}-*.md"))
                self.assertEqual(len(found), 1, (path.name, number))
            if path.suffix == ".py":
                self.assertNotRegex(text, r"(?<![\w/])(contract|checks|look)\.md", path.name)


class Modules(unittest.TestCase):
    def test_every_module_says_what_it_is(self) -> None:
        for path in tracked(".py"):
            text = path.read_text().removeprefix("#!/usr/bin/env python\n")
            if text and "migrations" not in path.parts:
                self.assertTrue(text.startswith(('"""', "'''")), path)

    def test_scripts_stay_short_and_are_typed(self) -> None:
        for path in (TOP / "shapkeen" / "web" / "static" / "js").rglob("*.js"):
            with self.subTest(path=path.name):
                lines = path.read_text().splitlines()
                self.assertLess(len(lines), 200)
                self.assertEqual(lines[0], "// @ts-check")

    def test_modules_stay_short(self) -> None:
        for path in tracked(".py"):
            if "tests" not in path.parts:
                self.assertLess(len(path.read_text().splitlines()), 400, path.name)
