"""Bags against RFC 8493, against the `bagit` library, and against `sha256sum`."""

import hashlib
import shutil
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase, mock

import bagit

from shapkeen.core.archived import Item, check_bag, form, write, write_bag
from shapkeen.core.errors import UsageError


class StoppedError(Exception):
    """What a test stops a writer with."""


class Bags(TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.sources = []
        for number in range(4):
            path = self.folder / f"reel {number} ä.mov"
            path.write_bytes(bytes([number]) * (100_000 + number))
            self.sources.append(path)
        self.items = [Item(f"Title/{path.name}", path) for path in self.sources]
        self.items.append(Item("library.json", b"{}"))
        self.goal = self.folder / "bag"

    def write(self, **more: object):
        return write_bag(self.goal, self.items, info=[("External-Description", "a test")], **more)

    def codes(self, bag: Path | None = None) -> list[str]:
        return sorted({one.code for one in check_bag(bag or self.goal).problems})

    def test_the_other_library_and_the_shell_find_it_whole(self) -> None:
        self.write()
        bag = bagit.Bag(str(self.goal))
        self.assertTrue(bag.validate())
        self.assertEqual(bag.info["External-Description"], "a test")
        self.assertEqual(bag.version, "1.0")
        shell = ["sha256sum", "-c", "--quiet", "manifest-sha256.txt"]
        self.assertEqual(subprocess.run(shell, cwd=self.goal, check=False).returncode, 0)
        found = check_bag(self.goal)
        self.assertTrue(found.is_whole)
        self.assertEqual((found.files, found.description), (5, "a test"))
        self.assertFalse(list(self.goal.rglob("*.part")))

    def test_tag_files_are_as_the_rfc_has_them(self) -> None:
        # RFC 8493, 2.1.1, 2.1.3 and 2.2.2, letter by letter.
        self.write()
        declared = (self.goal / "bagit.txt").read_bytes()
        self.assertEqual(declared, b"BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n")
        line = (self.goal / "manifest-sha256.txt").read_text().splitlines()[-1]
        self.assertEqual(line.split("  ")[1], "data/library.json")
        self.assertEqual(line.split()[0], hashlib.sha256(b"{}").hexdigest())
        sizes = sum(path.stat().st_size for path in self.sources) + 2
        self.assertIn(f"Payload-Oxum: {sizes}.5\n", (self.goal / "bag-info.txt").read_text())

    def test_a_bag_of_the_other_library_is_read(self) -> None:
        other = self.folder / "other"
        other.mkdir()
        shutil.copy(self.sources[0], other / "a b.mov")
        bagit.make_bag(str(other), {"External-Description": "theirs"}, checksums=["sha512", "md5"])
        self.assertTrue(check_bag(other).is_whole)
        (other / "data" / "a b.mov").write_bytes(b"shorter")
        self.assertEqual(self.codes(other), ["differs", "size"])

    def test_every_harm_is_named(self) -> None:
        self.write()
        payload = self.goal / "data" / "Title"
        harms = {
            "differs": lambda bag: _flip(bag / "data/library.json"),
            "missing": lambda bag: (bag / "data/library.json").unlink(),
            "beside": lambda bag: (bag / "data/more.txt").write_text("x"),
            "unsafe": lambda bag: (bag / "data/link").symlink_to("/etc/hostname"),
            "form": lambda bag: (bag / "bagit.txt").write_text("BagIt-Version: 9\n"),
        }
        for code, harm in harms.items():
            bag = self.folder / code
            shutil.copytree(self.goal, bag)
            harm(bag)
            self.assertIn(code, self.codes(bag), code)
            self.assertTrue(code == "unsafe" or not _theirs(bag), code)  # a link is ours alone
        self.assertTrue(payload.is_dir())

    def test_a_manifest_leads_nowhere_else(self) -> None:
        # RFC 8493, 5.1.3 and 5.3: paths that leave the bag are never read.
        self.write()
        with (self.goal / "manifest-sha256.txt").open("a") as file:
            file.write(f"{'0' * 64}  ../../etc/passwd\n{'0' * 64}  /etc/passwd\n")
        self.assertIn("unsafe", self.codes())
        for path in ("../up", "/root", "~home", "a/../../b", "a\\b", ""):
            self.assertFalse(form.is_safe(path), path)

    def test_what_is_no_bag_is_told(self) -> None:
        with self.assertRaisesRegex(UsageError, "no archive"):
            check_bag(self.folder)

    def test_paths_that_tools_read_otherwise_are_refused(self) -> None:
        for path in ("a%41", "a\nb", "Title/../x"):
            self.items = [Item(path, b"")]
            with self.assertRaises(UsageError):
                self.write()
        self.items = [Item("A.mov", b""), Item("a.mov", b"")]  # one file on some disks
        with self.assertRaises(UsageError):
            self.write()

    def test_it_goes_on_behind_the_last_whole_file(self) -> None:
        copied = []

        def stops(item: Item, *rest: object):
            if len(copied) == 2:
                raise StoppedError
            copied.append(item.path)
            return original(item, *rest)

        original = write._copy
        with mock.patch.object(write, "_copy", stops), self.assertRaises(StoppedError):
            self.write()
        self.assertFalse(self.goal.exists())
        with mock.patch.object(write, "_copy", wraps=original) as again:
            left = self.write()
        self.assertEqual((left.files, again.call_count), (2, 3))
        self.assertTrue(bagit.Bag(str(self.goal)).validate())
        self.assertFalse((self.goal / write.JOURNAL).exists())

    def test_a_source_that_moved_meanwhile_is_copied_again(self) -> None:
        def stops(folder: Path, *_: object) -> None:
            raise StoppedError

        with mock.patch.object(write, "_tag", stops), self.assertRaises(StoppedError):
            self.write()
        self.sources[1].write_bytes(b"another take")
        self.items.pop(0)  # and one is wanted no longer
        left = self.write()
        self.assertEqual(left.files, 3)
        held = self.goal / "data" / "Title" / self.sources[1].name
        self.assertEqual(held.read_bytes(), b"another take")
        self.assertTrue(bagit.Bag(str(self.goal)).validate())

    def test_no_room_and_taken_names_are_told_before_anything_is_written(self) -> None:
        with mock.patch.object(write.shutil, "disk_usage") as usage:
            usage.return_value.free = 1000
            with self.assertRaisesRegex(UsageError, "GB more"):
                self.write()
        self.goal.mkdir()
        with self.assertRaisesRegex(UsageError, "is there already"):
            self.write()


def _theirs(bag: Path) -> bool:
    """Return whether the other library finds a bag whole."""
    try:
        return bagit.Bag(str(bag)).is_valid()
    except bagit.BagError:
        return False


def _flip(path: Path) -> None:
    data = bytearray(path.read_bytes())
    data[0] ^= 1
    path.write_bytes(data)
