"""Reading chosen frames: exact numbers, few decodes, and an end to every search."""

import unittest
from dataclasses import replace
from fractions import Fraction

import numpy as np

from shapkeen.core.errors import UnreadableFileError
from shapkeen.core.measured.decoded.frames import FrameReader
from tests.builders import media
from tests.builders.media import HDR, SDR, write

COUNT = 300


def numbered(count: int = COUNT):
    """Return planes whose luma says their number: block i of 9 is white where bit i is set."""
    for number in range(count):
        luma = np.full((64, 144), 40, dtype=np.uint16)
        for bit in range(9):
            if number >> bit & 1:
                luma[:, bit * 16 : bit * 16 + 16] = 200
        yield luma, np.full((32, 72), 128, np.uint16), np.full((32, 72), 128, np.uint16)


def number_of(luma: np.ndarray, white: int = 120) -> int:
    return sum(1 << bit for bit in range(9) if luma[32, bit * 16 + 8] > white)


class ChosenFrames(unittest.TestCase):
    def read(self, path, numbers, rate=24):
        with FrameReader(path, Fraction(rate)) as reader:
            return [(f.number, number_of(f.luma)) for f in reader.read(numbers)], reader.decoded

    def test_exact_frames_over_groups_of_pictures(self) -> None:
        wanted = [0, 1, 7, 120, 121, 250, 299]
        for name, options in (
            ("closed", {"g": "24"}),
            ("open", {"x264-params": "open-gop=1:keyint=24"}),
        ):
            path = write(
                f"numbered-{name}", numbered(), SDR.with_options(preset="veryfast", **options)
            )
            found, decoded = self.read(path, wanted)
            self.assertEqual(found, [(n, n) for n in wanted], name)
            self.assertLess(decoded, COUNT)

    def test_frames_behind_the_end_are_left_out(self) -> None:
        path = write("numbered-end", numbered(20), SDR)
        found, _ = self.read(path, [18, 25, 5000])
        self.assertEqual(found[0], (18, 18))
        self.assertLessEqual(len(found), 2)

    def test_other_rates(self) -> None:
        path = write("numbered-rate", numbered(60), replace(SDR, rate=Fraction(30000, 1001)))
        found, _ = self.read(path, [0, 29, 59], Fraction(30000, 1001))
        self.assertEqual(found, [(0, 0), (29, 29), (59, 59)])

    def test_planes_of_every_kind(self) -> None:
        planes = media.sdr_planes("coffee", depth=10, chroma="4:2:2")[:1]
        for pix, ten in (("yuv422p10le", True), ("yuv420p", False)):
            pictures = planes if ten else media.sdr_planes("coffee")[:1]
            path = write(f"kind-{pix}", pictures, replace(SDR.with_options(crf="1"), pix_fmt=pix))
            with FrameReader(path, Fraction(24)) as reader:
                frame = next(reader.read([0]))
            self.assertEqual(frame.depth, 10 if ten else 8)
            self.assertEqual(frame.raster, media.SIZE)
            self.assertLess(float(np.abs(frame.luma.astype(int) - pictures[0][0]).mean()), 2.5)
        # One frame alone comes out of this x265 with wild decoding times at times.
        path = write("kind-265", media.hdr_planes("coffee")[:3], HDR)
        with FrameReader(path, Fraction(24)) as reader:
            self.assertEqual(next(reader.read([0])).cb.shape, (180, 320))

    def test_what_cannot_be_decoded_is_told(self) -> None:
        with self.assertRaises(UnreadableFileError):
            FrameReader(media.temporary("no.mp4", b"nothing"), Fraction(24))
