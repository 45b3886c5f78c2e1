"""`shapkeen report` and `shapkeen verify`: files, objects and statuses."""

import json
import tempfile
from dataclasses import replace
from pathlib import Path
from unittest import TestCase

from shapkeen.core.archived import Item, write_bag
from tests.builders import media
from tests.builders.media import SDR, write
from tests.cli.test_cure import run


class Report(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        planes = media.sdr_planes("astronaut")
        self.export = write("web-untagged", planes, replace(SDR, colour=None))

    def report(self, name: str) -> tuple[int, object]:
        out = self.folder / name
        master = media.sdr_master("astronaut")
        return run("report", master, self.export, "--frames", "4", "--out", out)

    def test_a_report_is_written_whole_with_compares_status(self) -> None:
        status, _ = self.report("it.json")
        told = json.loads((self.folder / "it.json").read_text())
        self.assertEqual((status, told["overall"]), (2, "lost"))
        self.assertEqual(len(told["files"][0]["sha256"]), 64)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["it.json"])

    def test_another_ending_is_refused_before_anything_is_measured(self) -> None:
        status, error = self.report("it.docx")
        self.assertEqual((status, error["code"]), (64, "unknown-form"))

    def test_verify_tells_whole_from_harmed(self) -> None:
        bag = self.folder / "bag"
        write_bag(bag, [Item("a.txt", b"once")])
        status, told = run("verify", bag)
        self.assertEqual((status, told["whole"], told["files"]), (0, True, 1))
        (bag / "data" / "a.txt").write_bytes(b"ance")
        status, told = run("verify", bag)
        self.assertEqual((status, told["problems"][0]["code"]), (2, "differs"))
        status, error = run("verify", self.folder)
        self.assertEqual((status, error["code"]), (64, "no-bag"))
