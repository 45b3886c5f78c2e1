"""A whole file: clear errors for what is no picture file, and for files that change."""

import unittest
from pathlib import Path
from unittest import mock

from shapkeen.core.declared import file, read_declaration
from shapkeen.core.errors import UnreadableFileError
from tests.builders import media
from tests.builders.boxes import movie


class Errors(unittest.TestCase):
    def check(self, path: Path, code: str) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            read_declaration(path)
        self.assertEqual(caught.exception.code, code)
        self.assertEqual(caught.exception.exit_status, 65)

    def test_what_is_no_picture_file(self) -> None:
        self.check(media.temporary("empty.mp4", b""), "empty-file")
        self.check(
            media.temporary("note.txt", b"shot list for tonight\n" * 9), "not-a-picture-file"
        )
        self.check(media.temporary("tiny.mp4", b"abc"), "not-a-picture-file")
        self.check(Path("/nowhere/at/all.mp4"), "no-file")
        self.check(media.temporary("x", b"").parent, "no-file")

    def test_file_that_grows_while_it_is_read(self) -> None:
        path = media.temporary("growing.mp4", movie())
        real = file.read_wrapper

        def grow(window):
            with path.open("ab") as out:
                out.write(bytes(100))
            return real(window)

        with mock.patch.object(file, "read_wrapper", grow):
            self.check(path, "file-changing")

    def test_both_witnesses_stay_apart(self) -> None:
        found = read_declaration(media.temporary("plain.mp4", movie()))
        self.assertEqual(found.stream["raster"].value, (1920, 1080))
        self.assertNotIn("transfer", found.wrapper)
        self.assertNotIn("transfer", found.stream)
        self.assertEqual(found.video.level, "4")
