"""The command: exit statuses, objects and error objects of docs/contract.md."""

import contextlib
import io
import json
import os
import signal
import subprocess
import sys
import time
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import shapkeen
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

    def test_several_exports_in_one_call(self) -> None:
        master = media.sdr_master("coffee")
        kept = write("cli-several", media.sdr_planes("coffee"))
        bent = write("cli-several-late", media.sdr_planes("coffee"), replace(SDR, flags=()))
        missing = master.with_name("nowhere.mp4")
        status, out, _ = run("compare", master, kept, bent, missing, "--frames", 2, "--json")
        told = json.loads(out)
        self.assertEqual((status, told["schema"]), (65, "shapkeen.survivals/1"))
        self.assertEqual(
            [row["file"] for row in told["exports"]], [str(kept), str(bent), str(missing)]
        )
        self.assertEqual(told["exports"][0]["survival"]["overall"], "kept")
        self.assertEqual(told["exports"][1]["survival"]["overall"], "bent")
        self.assertEqual(told["exports"][2]["error"]["code"], "no-file")
        status, out, _ = run("compare", master, kept, bent, "--frames", 2)
        self.assertEqual(status, 1)
        self.assertIn(f"{bent}\n", out)
        self.assertIn("cause: index-last", out)

    def test_an_error_says_which_of_the_two_files_it_is_about(self) -> None:
        master, empty = media.sdr_master(), media.temporary("cli-none.mp4", b"")
        for call, name in (((master, empty), "export"), ((empty, master), "master")):
            status, out, _ = run("compare", *call, "--json")
            self.assertEqual((status, json.loads(out)["file"]), (65, f"{name} cli-none.mp4"))
            self.assertIn(f"shapkeen: {name} cli-none.mp4: ", run("compare", *call)[2])

    def test_for_people(self) -> None:
        path = write("cli-words", media.sdr_planes("coffee"), replace(SDR, colour=None))
        status, out, _ = run("compare", media.sdr_master(), path, "--frames", 4)
        self.assertEqual(status, 2)
        self.assertIn("cause: tag-missing", out)
        self.assertIn("cure: ", out)


def until_open(pid: int, path: Path) -> None:
    """Wait until a process has a file open."""
    ends = time.monotonic() + 300
    while time.monotonic() < ends:
        with contextlib.suppress(OSError):
            if any(one.resolve() == path.resolve() for one in Path(f"/proc/{pid}/fd").iterdir()):
                return
        time.sleep(0.05)
    raise AssertionError(path)


def all_told(terminal: int) -> str:
    """What was written into a terminal whose other end is closed.

    One reading gives what came in one piece; the system cuts it where it likes.
    """
    told = b""
    with os.fdopen(terminal, "rb", buffering=0) as end, contextlib.suppress(OSError):
        while piece := end.read(1 << 16):
            told += piece
    return told.decode()


class Terminal(unittest.TestCase):
    """What only a real process shows: signals, terminals, full disks."""

    def start(self, *arguments: object, **more) -> "subprocess.Popen[str]":
        call = [sys.executable, "-m", "shapkeen.cli.main", *map(str, arguments)]
        return subprocess.Popen(call, text=True, **more)

    def test_version(self) -> None:
        process = self.start("--version", stdout=subprocess.PIPE)
        self.assertEqual(process.communicate()[0], f"shapkeen {shapkeen.__version__}\n")

    def test_progress_is_shown_where_someone_sees_it_and_then_taken_away(self) -> None:
        master = media.sdr_master("coffee")
        export = write("cli-told", media.sdr_planes("coffee"))
        ours, theirs = os.openpty()
        with (
            mock.patch("shapkeen.cli.progress.EVERY_S", 0.0),
            os.fdopen(theirs, "w") as terminal,
            contextlib.redirect_stderr(terminal),
            contextlib.redirect_stdout(io.StringIO()),
        ):
            main(["compare", str(master), str(export)])
        told = all_told(ours)
        self.assertRegex(told, r"\rcli-told.mp4: \d+%, about [\d.]+ s left")
        self.assertTrue(told.endswith(" \r"))

    def test_ctrl_c_ends_in_one_line_and_leaves_nothing(self) -> None:
        frames = [item for item in media.sdr_planes("coffee") for _ in range(30)]
        long = write("cli-long", media.resized(frames, 1280, 720))
        # in the background of a script, SIGINT is ignored from the start
        ignored = {"preexec_fn": lambda: signal.signal(signal.SIGINT, signal.SIG_IGN)}
        for more in ({}, ignored):
            process = self.start(
                "compare", long, long, stderr=subprocess.PIPE, stdout=subprocess.PIPE, **more
            )
            until_open(process.pid, Path(long))
            time.sleep(1)
            process.send_signal(signal.SIGINT)
            out, told = process.communicate(timeout=120)
            with self.subTest(more):
                self.assertEqual((process.returncode, out), (130, ""), told)
                self.assertEqual(told.strip().splitlines()[-1], "shapkeen: stopped.")
                self.assertNotIn("Traceback", told)
        left = subprocess.run(["pgrep", "-f", f"{long}"], capture_output=True, check=False)
        self.assertEqual(left.stdout, b"")

    def test_an_answer_that_cannot_be_written_is_no_verdict(self) -> None:
        with Path("/dev/full").open("w") as full:
            process = self.start(
                "read", media.sdr_master(), "--json", stdout=full, stderr=subprocess.PIPE
            )
            told = process.communicate()[1]
        self.assertEqual(process.returncode, 70)
        self.assertIn("could not be written: No space left", told)
        self.assertNotIn("Traceback", told)

    def test_a_promise_that_never_ends_is_refused(self) -> None:
        master = media.sdr_master()
        status, out, _ = run("compare", master, master, "--promise", "/dev/zero", "--json")
        self.assertEqual((status, json.loads(out)["code"]), (64, "bad-promise"))

    def test_names_cannot_speak_to_the_terminal(self) -> None:
        odd = media.temporary("red\x1b[31m\u009b.mp4", b"")
        status, _, told = run("compare", media.sdr_master(), odd)
        self.assertEqual(status, 65)
        self.assertNotIn("\x1b", told)
        self.assertNotIn("\u009b", told)
        self.assertIn("red\\x1b[31m", told)
