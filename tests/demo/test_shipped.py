"""The demo's footage as it ships: whole, small, and all that the library wants."""

import tempfile
import unittest
from pathlib import Path

from shapkeen.core.declared import read_declaration
from shapkeen.demo.features import FEATURES, files_of
from shapkeen.demo.shipped import PACKED, SHIPPED, digest_of, place_footage, shipped_digests

MOST_BYTES = 30_000_000


class Shipped(unittest.TestCase):
    def test_every_file_is_the_one_that_was_made(self) -> None:
        digests = shipped_digests()
        self.assertEqual({name: digest_of(SHIPPED / name) for name in digests}, digests)
        self.assertLess(sum((SHIPPED / name).stat().st_size for name in digests), MOST_BYTES)

    def test_all_that_the_library_wants_is_there_and_can_be_read(self) -> None:
        names = {name.removesuffix(PACKED) for name in shipped_digests()}
        self.assertEqual(names, set(files_of(FEATURES)))
        with tempfile.TemporaryDirectory() as folder:
            place_footage(Path(folder))
            place_footage(Path(folder))  # a second time it has nothing to do
            self.assertEqual({path.name for path in Path(folder).iterdir()}, names)
            for name in names:
                self.assertTrue(read_declaration(Path(folder) / name).video.codec, name)
