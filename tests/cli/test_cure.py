"""`shapkeen cure`: exit statuses and objects of docs/contract.md, and that a cured copy is kept."""

import contextlib
import io
import json
import tempfile
import unittest
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from shapkeen.cli.main import main
from tests.builders.media import HDR, SDR, hdr_planes, sdr_planes, write


def run(*words: object) -> tuple[int, dict]:
    out = io.StringIO()
    with contextlib.redirect_stdout(out):
        status = main([*map(str, words), "--json"])
    return status, json.loads(out.getvalue())


class Command(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.copy = self.folder / "copy.mp4"

    def test_what_is_set_is_told_from_and_to(self) -> None:
        export = write("cure-set", sdr_planes("coffee"), SDR)
        status, made = run("cure", export, "--set", "transfer=16", "--out", self.copy)
        self.assertEqual(status, 0)
        self.assertEqual(made["schema"], "shapkeen.cure/1")
        self.assertEqual(made["copy"], str(self.copy))
        self.assertEqual(made["bytes"], self.copy.stat().st_size)
        told = {(c["trait"], c["witness"]): (c["from"], c["to"]) for c in made["changes"]}
        expected = {("transfer", "wrapper"): (1, 16), ("transfer", "stream"): (1, 16)}
        self.assertEqual(told, expected)
        self.assertEqual(made["coded"], {"pictures": 10, "unchanged": True})

    def test_what_cannot_be_said_exits_3(self) -> None:
        export = write("cure-set", sdr_planes("coffee"), SDR)
        status, made = run("cure", export, "--set", "bit_depth=10", "--out", self.copy)
        self.assertEqual((status, made["copy"], self.copy.exists()), (3, None, False))
        stream = write("cure-set", sdr_planes("coffee"), replace(SDR, ending=".ts", flags=()))
        status, made = run("cure", stream, "--set", "transfer=16", "--out", self.copy)
        self.assertEqual((status, self.copy.exists()), (3, False))
        self.assertTrue(all(one["why"] for one in made["left"]))

    def test_wrong_calls_exit_64_and_write_nothing(self) -> None:
        export = write("cure-set", sdr_planes("coffee"), SDR)
        for words in (
            ["--set", "transfer"],
            ["--set", "transfer=16", "--set", "transfer=1"],
            [],
            ["--promise", "x.json"],
        ):
            status, _ = run("cure", export, *words, "--out", self.copy)
            self.assertEqual((status, self.copy.exists()), (64, False), words)
        self.copy.write_bytes(b"mine")
        status, _ = run("cure", export, "--set", "transfer=16", "--out", self.copy)
        self.assertEqual((status, self.copy.read_bytes()), (64, b"mine"))
        status, _ = run("cure", self.folder / "no.mp4", "--set", "transfer=1", "--out", "x.mp4")
        self.assertEqual(status, 65)
        status, _ = run(
            "cure", export, "--set", "transfer=16", "--out", self.folder / "no" / "copy.mp4"
        )
        self.assertEqual(status, 70)


class WithAMaster(unittest.TestCase):
    """What compare answers with a copy's remedy is put right by one: then all is kept."""

    def cured(self, master: Path, export: Path, cause: str) -> None:
        _, found = run("compare", master, export, "--frames", 4)
        self.assertIn(cause, [one["id"] for one in found["causes"]])
        copy = Path(tempfile.mkdtemp()) / f"copy{export.suffix}"
        status, made = run("cure", export, "--master", master, "--out", copy)
        self.assertEqual(status, 0, made)
        status, found = run("compare", master, copy, "--frames", 4)
        left = {v["trait"]: v["verdict"] for v in found["verdicts"] if v["verdict"] != "kept"}
        self.assertEqual((found["causes"], left), ([], {}), cause)

    def test_wrong_missing_and_contradicting_tags(self) -> None:
        planes = hdr_planes("coffee")
        master = write("cure-master", planes, replace(HDR, ending=".mov"))
        plain = HDR.with_options(**{"x265-params": "log-level=error"})
        told = "log-level=error:colorprim=bt709:transfer=bt709:colormatrix=bt709:range=limited"
        self.cured(
            master, write("cure-missing", planes, replace(plain, colour=None)), "tag-missing"
        )
        wrong = replace(HDR.with_options(**{"x265-params": told}), colour=(1, 1, 1, 1))
        self.cured(master, write("cure-wrong", planes, wrong), "tag-wrong")
        self.cured(
            master, write("cure-odd", planes, replace(HDR, colour=(1, 1, 1, 1))), "tag-conflict"
        )

    def test_a_squeeze_and_an_index(self) -> None:
        planes = sdr_planes("coffee")
        squeezed = replace(SDR, aspect=Fraction(4, 3))
        master = write("cure-squeezed", planes, replace(squeezed, ending=".mov"))
        self.cured(master, write("cure-flat", planes, SDR), "squeeze-unflagged")
        late = write("cure-late", planes, replace(squeezed, flags=()))
        self.cured(master, late, "index-last")
