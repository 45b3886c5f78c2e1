"""A copy is whole and verified under its name, or not there: patches, places, kills, full disks."""

import errno
import io
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from shapkeen.core.cured.copying import Patch, PatchedFile, Patches, write_copy, write_new
from shapkeen.core.errors import InternalError, UsageError

KILLED = """
import sys
from pathlib import Path
from shapkeen.core.cured.copying import Patch, Patches, write_copy
source, goal = Path(sys.argv[1]), Path(sys.argv[2])
print("begun", flush=True)
write_copy(source, goal, Patches([Patch(10, 3, b"xyz12")]), lambda path: None)
"""


class Places(unittest.TestCase):
    GIVEN = bytes(range(100))

    def made(self, patches: Patches) -> bytes:
        parts = patches.pieces(len(self.GIVEN))
        return b"".join(
            p if isinstance(p, bytes) else self.GIVEN[p.start : p.start + p.size] for p in parts
        )

    def test_random_patches_move_bytes_as_splicing_does(self) -> None:
        chance = np.random.default_rng(9)
        for _ in range(300):
            cuts = np.sort(chance.choice(100, 6, replace=False)).tolist()
            patches = [
                Patch(a, int(chance.integers(0, b - a)), bytes(int(chance.integers(0, 5))))
                for a, b in zip(cuts[::2], cuts[1::2], strict=True)
            ]
            told = Patches(patches)
            made = self.made(told)
            self.assertEqual(len(made), 100 + told.growth)
            gone = {at for p in patches for at in range(p.start, p.end)}
            kept = np.array([at for at in range(100) if at not in gone])
            places = told.moved_all(kept)
            self.assertEqual(bytes(made[at] for at in places), bytes(kept.tolist()))
            self.assertEqual([told.moved(int(at)) for at in kept], places.tolist())
            self.read_in_place(told, made, chance)

    def read_in_place(self, told: Patches, made: bytes, chance: np.random.Generator) -> None:
        """A copy that is not written reads as the written one, from anywhere."""
        copy = PatchedFile(io.BytesIO(self.GIVEN), 100, told)
        self.assertEqual((copy.size, copy.read()), (len(made), made))
        at, count = int(chance.integers(0, len(made))), int(chance.integers(0, 60))
        copy.seek(at)
        self.assertEqual(
            (copy.read(count), copy.tell()), (made[at : at + count], min(at + count, len(made)))
        )

    def test_a_small_file_is_new_or_refused(self) -> None:
        goal = Path(tempfile.mkdtemp()) / "back.cube"
        write_new(b"first", goal)
        with self.assertRaises(UsageError):
            write_new(b"second", goal)
        self.assertEqual((goal.read_bytes(), list(goal.parent.iterdir())), (b"first", [goal]))

    def test_what_is_exchanged_begins_where_it_stood_and_inserts_move_it(self) -> None:
        told = Patches([Patch(10, 0, b"abc"), Patch(10, 4, b"long enough")])
        self.assertEqual(told.moved(10), 13)
        self.assertEqual(told.moved(14), 14 + 3 + 7)
        self.assertEqual(self.made(told)[10:24], b"abclong enough")

    def test_overlaps_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            Patches([Patch(3, 5, b""), Patch(7, 1, b"")])


class Writing(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.source = self.folder / "given.mp4"
        self.source.write_bytes(bytes(1000))
        self.goal = self.folder / "made.mp4"

    def names(self) -> list[str]:
        return sorted(path.name for path in self.folder.iterdir())

    def test_a_copy_is_the_original_but_for_its_patches(self) -> None:
        told = []
        answer = write_copy(
            self.source,
            self.goal,
            Patches([Patch(10, 3, b"xyz12")]),
            lambda path: path.read_bytes(),
            told=lambda done, total: told.append((done, total)),
        )
        self.assertEqual(answer, bytes(10) + b"xyz12" + bytes(987))
        self.assertEqual(self.goal.read_bytes(), answer)
        self.assertEqual(told[-1], (1002, 1002))
        self.assertEqual(self.names(), ["given.mp4", "made.mp4"])
        self.assertEqual(self.goal.stat().st_mode & 0o600, 0o600)

    def test_a_taken_name_is_never_written_over_a_dangling_link_too(self) -> None:
        self.goal.symlink_to(self.folder / "nowhere")
        with self.assertRaises(UsageError) as raised:
            write_copy(self.source, self.goal, Patches([]), lambda path: None)
        self.assertEqual(raised.exception.code, "copy-exists")
        self.assertTrue(self.goal.is_symlink())

    def test_what_does_not_verify_leaves_nothing(self) -> None:
        def refuse(_path: Path) -> None:
            raise InternalError("no", code="not-unchanged")

        with self.assertRaises(InternalError):
            write_copy(self.source, self.goal, Patches([]), refuse)
        self.assertEqual(self.names(), ["given.mp4"])

    def test_a_full_disk_says_so_and_leaves_nothing(self) -> None:
        room = mock.Mock(f_bavail=1, f_frsize=512)
        with mock.patch("os.statvfs", return_value=room), self.assertRaises(InternalError) as told:
            write_copy(self.source, self.goal, Patches([]), lambda path: None)
        self.assertIn("1000 bytes", told.exception.text)
        full = OSError(errno.ENOSPC, "No space left on device")
        with (
            mock.patch("os.copy_file_range", side_effect=full),
            self.assertRaises(InternalError) as told,
        ):
            write_copy(self.source, self.goal, Patches([]), lambda path: None)
        self.assertIn("No space left", told.exception.text)
        self.assertEqual(self.names(), ["given.mp4"])

    def test_a_file_system_that_cannot_copy_by_itself_is_copied_through(self) -> None:
        other = OSError(errno.EXDEV, "Invalid cross-device link")
        with mock.patch("os.copy_file_range", side_effect=other):
            write_copy(self.source, self.goal, Patches([Patch(0, 1, b"!")]), lambda path: None)
        self.assertEqual(self.goal.read_bytes(), b"!" + bytes(999))

    def test_a_name_taken_meanwhile_is_kept(self) -> None:
        with self.assertRaises(UsageError):
            write_copy(
                self.source, self.goal, Patches([]), lambda _path: self.goal.write_bytes(b"theirs")
            )
        self.assertEqual(self.goal.read_bytes(), b"theirs")

    def test_kills_leave_no_copy_or_a_whole_one_and_hinder_nobody(self) -> None:
        size = 64 << 20
        with self.source.open("wb") as file:
            file.write(os.urandom(1 << 20) * (size >> 20))
        whole = size + 2
        chance = np.random.default_rng(3)
        for delay in chance.uniform(0.0, 0.12, 8):
            self.goal.unlink(missing_ok=True)
            process = subprocess.Popen(
                [sys.executable, "-c", KILLED, str(self.source), str(self.goal)],
                stdout=subprocess.PIPE,
            )
            assert process.stdout is not None
            process.stdout.readline()
            time.sleep(delay)
            process.send_signal(signal.SIGKILL)
            process.wait()
            process.stdout.close()
            if self.goal.exists():
                self.assertEqual(self.goal.stat().st_size, whole)
        self.goal.unlink(missing_ok=True)
        write_copy(self.source, self.goal, Patches([Patch(10, 3, b"xyz12")]), lambda path: None)
        self.assertEqual(self.names(), ["given.mp4", "made.mp4"])
