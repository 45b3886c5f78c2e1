"""Layout flags that the demo writes: read back by the reader, the picture untouched."""

import shutil
import unittest
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

from shapkeen.core.declared import read_declaration
from shapkeen.demo.flags import flag_layout
from tests.builders.media import SDR, coded, photo_frames, write


def decoded(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        return np.stack([frame.to_ndarray(format="gray") for frame in container.decode(video=0)])


class Flags(unittest.TestCase):
    def test_are_read_back_and_leave_every_picture_where_it_is(self) -> None:
        planes = [coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (320, 160), 6)]
        for flags in ({}, {"movflags": "+faststart"}):
            plain = write("demo-flags", planes, replace(SDR, flags=tuple(flags.items())))
            made = Path(shutil.copy(plain, plain.with_name("demo-flagged.mp4")))
            flag_layout(made, stereo="left-right", projection="equirectangular")
            said = read_declaration(made).wrapper
            with self.subTest(flags):
                self.assertEqual(said.get("stereo").value, "left-right")
                self.assertEqual(said.get("projection").value, "equirectangular")
                np.testing.assert_array_equal(decoded(made), decoded(plain))

    def test_nothing_to_say_changes_nothing(self) -> None:
        path = write(
            "demo-unflagged", [coded(f, matrix=1, depth=8) for f in photo_frames("coffee")]
        )
        before = path.read_bytes()
        flag_layout(path)
        self.assertEqual(path.read_bytes(), before)
