"""`shapkeen table`: exit statuses and the object of docs/contract.md."""

import tempfile
import unittest
from pathlib import Path

from shapkeen.core.colour.cube_file import read_cube
from tests.builders.media import SDR, changed, sdr_master, sdr_planes, write
from tests.cli.test_cure import run


class Command(unittest.TestCase):
    def setUp(self) -> None:
        self.goal = Path(tempfile.mkdtemp()) / "back.cube"
        self.master = sdr_master("coffee")

    def test_a_table_is_written_and_told(self) -> None:
        darker = changed(sdr_planes("coffee"), luma=lambda y: 16 + ((y - 16) / 219) ** 1.2 * 219)
        export = write("table-cli", darker, SDR)
        status, made = run("table", self.master, export, "--out", self.goal, "--size", 17)
        self.assertEqual(status, 0)
        self.assertEqual((made["schema"], made["for"]), ("shapkeen.table/1", "source"))
        self.assertEqual(made["undoes"], ["gamma-shifted"])
        self.assertEqual(made["before"]["unit"], "CIEDE2000")
        self.assertLess(made["after"]["mean"], made["before"]["mean"] / 3)
        self.assertEqual(set(made["beyond"]), {"share", "why"})
        table = read_cube(self.goal.read_text())
        self.assertEqual((table.kind, table.size), (made["kind"], made["size"]))
        status, error = run("table", self.master, export, "--out", self.goal)
        self.assertEqual((status, error["code"]), (64, "copy-exists"))

    def test_without_a_drift_nothing_is_written(self) -> None:
        export = write("table-cli", sdr_planes("coffee"), SDR)
        status, made = run("table", self.master, export, "--for", "export", "--out", self.goal)
        self.assertEqual((status, made["kind"], self.goal.exists()), (3, None, False))
        self.assertIn("no drift", made["why"])

    def test_wrong_calls(self) -> None:
        for words in (["--size", "12"], ["--for", "both"]):
            status, _ = run("table", self.master, self.master, *words, "--out", self.goal)
            self.assertEqual(status, 64)
        status, _ = run("table", "nowhere.mov", self.master, "--out", self.goal)
        self.assertEqual(status, 65)
