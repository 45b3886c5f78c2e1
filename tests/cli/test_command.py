"""The command: exit statuses, objects and error objects of docs/contract.md."""

import contextlib
import io
import json
import subprocess
import sys
import unittest
from dataclasses import replace
from pathlib import Path

from shapkeen.cli.main import main
from tests.builders import media
from tests.builders.media import SDR, write


def run(*arguments: object) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main([str(argument) for argument in arguments])
    return status, out.getvalue(), err.getvalue()


class Read(unittest.TestCase):
    def test_json(self) -> None:
        status, out, _ = run("read", media.sdr_master(), "--json")
        self.assertEqual(status, 0)
        self.assertEqual(json.loads(out)["video"]["codec"], "h264")

    def test_for_people(self) -> None:
        status, out, _ = run("read", media.hdr_master())
        self.assertEqual(status, 0)
        self.assertIn("Main 10", out)
        self.assertRegex(out, r"Transfer function +PQ +PQ")
        self.assertRegex(out, r"Light level +silent +1000 / 200")

    def test_unreadable_files(self) -> None:
        empty = media.temporary("cli-empty.mp4", b"")
        text = media.temporary("cli-text.mp4", b"no picture in here, only words " * 9)
        whole = write("cli-whole", media.sdr_planes("coffee")[:3])
        cut = media.patched(whole, "cli-cut.mp4", lambda data: data[:-200])
        for path, code in (
            (empty, "empty-file"),
            (text, "not-a-picture-file"),
            (cut, "truncated"),
            (Path("/nowhere.mp4"), "no-file"),
        ):
            status, out, _ = run("read", path, "--json")
            self.assertEqual(status, 65)
            error = json.loads(out)
            self.assertEqual((error["schema"], error["code"]), ("shapkeen.error/1", code))
            self.assertTrue(error["text"])
            status, out, err = run("read", path)
            self.assertEqual((status, out), (65, ""))
            self.assertIn("shapkeen: ", err)

    def test_wrong_calls(self) -> None:
        for call in (
            ("read",),
            ("reed", "x"),
            ("compare", "a"),
            (),
            ("compare", "a", "b", "--frames", "x"),
        ):
            status, out, _ = run(*call, "--json")
            self.assertEqual(status, 64, call)
            self.assertEqual(json.loads(out)["code"], "bad-call")

    def test_starts_without_heavy_libraries(self) -> None:
        code = (
            "import sys; from shapkeen.cli.main import main; "
            "main(['read', sys.argv[1], '--json']); "
            "bad = {'numpy', 'av', 'cv2', 'django'} & set(sys.modules); sys.exit(len(bad))"
        )
        made = subprocess.run(
            [sys.executable, "-c", code, str(media.sdr_master())], capture_output=True, check=False
        )
        self.assertEqual(made.returncode, 0)


class Compare(unittest.TestCase):
    def test_exit_statuses(self) -> None:
        planes = media.sdr_planes("astronaut")
        for name, coding, status in (
            ("kept", SDR, 0),
            ("bent", replace(SDR, flags=()), 1),
            ("lost", replace(SDR, colour=None), 2),
        ):
            path = write(f"cli-{name}", planes, coding)
            found, out, _ = run(
                "compare", media.sdr_master("astronaut"), path, "--frames", 5, "--json"
            )
            self.assertEqual((found, json.loads(out)["overall"]), (status, name))
            self.assertEqual(json.loads(out)["frames"]["compared"], 5)

    def test_unproven_is_three(self) -> None:
        black = [
            tuple(p * 0 + v for p, v in zip(item, (16, 128, 128), strict=True))
            for item in media.sdr_planes("coffee")[:3]
        ]
        path = write("cli-black", black)
        self.assertEqual(run("compare", path, path, "--json")[0], 3)

    def test_promise_file(self) -> None:
        path = write("cli-25", media.sdr_planes("coffee"), replace(SDR, rate=25))
        wanted = {"schema": "shapkeen.promise/1", "traits": {"frame_rate": {"value": [25, 1]}}}
        promise = media.temporary("promise.json", json.dumps(wanted).encode())
        status, out, _ = run("compare", media.sdr_master(), path, "--promise", promise, "--json")
        verdicts = {v["trait"]: v for v in json.loads(out)["verdicts"]}
        self.assertEqual(verdicts["frame_rate"]["verdict"], "kept")
        self.assertIn(status, (0, 3))
        bad = media.temporary(
            "bad.json", b'{"schema": "shapkeen.promise/1", "traits": {"hue": {}}}'
        )
        status, out, _ = run("compare", media.sdr_master(), path, "--promise", bad, "--json")
        self.assertEqual((status, json.loads(out)["where"]), (64, "traits/hue"))

    def test_unrelated_files(self) -> None:
        status, out, _ = run(
            "compare", media.sdr_master("coffee"), media.sdr_master("rocket"), "--json"
        )
        self.assertEqual((status, json.loads(out)["code"]), (64, "no-common-frame"))

    def test_for_people(self) -> None:
        path = write("cli-words", media.sdr_planes("coffee"), replace(SDR, colour=None))
        status, out, _ = run("compare", media.sdr_master(), path, "--frames", 4)
        self.assertEqual(status, 2)
        self.assertIn("cause: tag-missing", out)
        self.assertIn("cure: ", out)
