"""MPEG-2 and VC-3: headers with a field for it follow, against the FFmpeg libraries' decoders."""

import unittest
from dataclasses import replace
from pathlib import Path

import av

from shapkeen.core.cured.headers.mpeg2 import said_in_sequence
from shapkeen.core.declared import read_declaration
from tests.builders.headers import mpeg2_sequence
from tests.builders.media import Coding, sdr_planes, write
from tests.core.cured.test_isobmff import PQ, Cures, decoded

MPEG2 = Coding(codec="mpeg2video", options=(("g", "4"), ("bit_rate", "6000000")), flags=())
VC3 = Coding(
    codec="dnxhd", options=(("profile", "dnxhr_hqx"),), pix_fmt="yuv422p10le", ending=".mov",
    flags=(),
)  # fmt: skip


def seen(path: Path) -> list[tuple[int, int, int]]:
    """Return transfer, primaries and matrix of every picture, as its decoder takes them."""
    with av.open(str(path)) as container:
        return [
            (int(f.color_trc), int(f.color_primaries), int(f.colorspace))
            for f in container.decode(video=0)
        ]


class Mpeg2(Cures):
    def test_every_sequence_header_and_the_configuration_follow(self) -> None:
        for ending in (".mp4", ".mov", ".mkv"):
            path = write("cure-mpeg2", sdr_planes("coffee"), replace(MPEG2, ending=ending))
            made, goal = self.cured(path, *PQ)
            self.assertTrue(made.complete, (ending, made.left))
            said = read_declaration(goal).stream
            self.assertEqual(
                [said[t].value for t in ("transfer", "primaries", "matrix")], [16, 9, 9]
            )
            self.assertEqual(set(seen(goal)), {(16, 9, 9)}, ending)
            self.assertEqual(decoded(goal), decoded(path))

    def test_a_shape_that_the_sequence_has_a_code_for(self) -> None:
        path = write("cure-mpeg2", sdr_planes("coffee"), MPEG2)
        made, goal = self.cured(path, "pixel_aspect=[3,4]")  # 640 × 360 shown as 4:3
        self.assertTrue(made.complete, made.left)
        self.assertEqual(read_declaration(goal).stream["pixel_aspect"].value, (3, 4))
        self.assertEqual(decoded(goal), decoded(path))
        made, _ = self.cured(path, "pixel_aspect=[4,3]")
        self.assertFalse(made.complete)
        self.assertIn("no field for this value", next(x.why for x in made.left))


class SequenceHeaders(unittest.TestCase):
    """Source of the fields: ITU-T H.262 6.2.2."""

    def test_hand_made_headers(self) -> None:
        wishes = {"transfer": 16, "matrix": None, "pixel_aspect": (16, 15)}
        before = mpeg2_sequence(size=(720, 576), colour=(5, 1, 5), display=(720, 576))
        after = mpeg2_sequence(size=(720, 576), aspect=2, colour=(5, 16, 2), display=(720, 576))
        self.assertEqual(said_in_sequence(before, wishes), after)
        cut = mpeg2_sequence(size=(720, 576), aspect=3, colour=(5, 1, 5), display=(540, 576))
        square = mpeg2_sequence(size=(720, 576), colour=(5, 1, 5), display=(540, 576))
        self.assertEqual(said_in_sequence(cut, {"pixel_aspect": (1, 1)}), square)

    def test_without_a_field_nothing_changes_and_cuts_do_no_harm(self) -> None:
        plain = mpeg2_sequence(size=(720, 576))
        self.assertEqual(said_in_sequence(plain, {"transfer": 16}), plain)
        whole = mpeg2_sequence(size=(4096, 2160), colour=(1, 1, 1))
        wishes = {"transfer": 16, "pixel_aspect": (1, 1)}
        for end in range(len(whole)):
            self.assertEqual(len(said_in_sequence(whole[:end], wishes)), end)


class Vc3(Cures):
    def test_the_colour_volume_of_every_frame(self) -> None:
        path = write("cure-vc3", sdr_planes("coffee", depth=10, chroma="4:2:2"), VC3)
        for code, said in ((9, 9), (10, 10), (1, 1), (6, 2)):
            made, goal = self.cured(path, f"matrix={code}")
            self.assertEqual(read_declaration(goal).stream["matrix"].value, said)
            self.assertEqual(decoded(goal), decoded(path))
            self.assertEqual(made.complete, True)
