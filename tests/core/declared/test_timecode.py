"""Timecodes of files, against the FFmpeg libraries, which write and read them by other code."""

import tempfile
from fractions import Fraction
from pathlib import Path
from unittest import TestCase

import av

from shapkeen.core.declared import read_declaration
from shapkeen.core.geometry.timecode import StartTimecode
from shapkeen.core.reported.declaration import declaration_object
from shapkeen.core.reported.declared import declaration_from_object

NTSC = Fraction(30000, 1001)


class Timecodes(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def made(self, ending: str, start: str | None, rate: Fraction) -> Path:
        path = self.folder / f"file{ending}"
        codec = "mpeg2video" if ending == ".mxf" else "mpeg4"
        with av.open(str(path), "w") as out:
            stream = out.add_stream(codec, rate)
            stream.width, stream.height, stream.pix_fmt = 320, 240, "yuv420p"
            if start:
                out.metadata["timecode"] = start
                stream.metadata["timecode"] = start
            for number in range(4):
                frame = av.VideoFrame(320, 240, "yuv420p")
                frame.pts = number
                out.mux(stream.encode(frame))
            out.mux(stream.encode())
        return path

    def theirs(self, path: Path) -> str | None:
        with av.open(str(path)) as found:
            told = [found.metadata, *(stream.metadata for stream in found.streams)]
        return next((one["timecode"] for one in told if "timecode" in one), None)

    def test_what_a_file_starts_with_is_what_the_libraries_say(self) -> None:
        cases = [
            (".mov", "01:00:00:00", Fraction(25)),
            (".mov", "10:59:59:23", Fraction(24)),
            (".mp4", "00:58:30:12", Fraction(25)),
            (".mov", "01:00:00;00", NTSC),
            (".mov", "00:09:59;29", NTSC),
            (".mov", "00:01:00;02", NTSC),
            (".mov", "23:59:59;29", NTSC),
            (".mov", "00:01:00:00", NTSC),
            (".mxf", "01:02:03:04", Fraction(25)),
            (".mxf", "01:00:00;00", NTSC),
        ]
        for ending, start, rate in cases:
            path = self.made(ending, start, rate)
            self.assertEqual(self.theirs(path), start)
            found = read_declaration(path).file.timecode
            self.assertEqual(found.at(0), start, ending)

    def test_a_file_without_one_states_none(self) -> None:
        for ending in (".mov", ".mp4"):
            path = self.made(ending, None, Fraction(25))
            self.assertIsNone(read_declaration(path).file.timecode)

    def test_numbers_are_dropped_as_the_standard_drops_them(self) -> None:
        # SMPTE ST 12-1: in drop-frame counting, 00 and 01 of each minute but each tenth go; a day
        # of 30000/1001 frames then ends after 24 hours by the clock, 86.4 ms off (handbook).
        start = StartTimecode(0, 30, drop_frame=True)
        for frame, told in (
            (1799, "00:00:59;29"),
            (1800, "00:01:00;02"),
            (17981, "00:09:59;29"),
            (17982, "00:10:00;00"),
            (107892, "01:00:00;00"),
            (2589407, "23:59:59;29"),
            (2589408, "00:00:00;00"),
        ):
            self.assertEqual(start.at(frame), told)
        fast = StartTimecode(0, 60, drop_frame=True)
        self.assertEqual((fast.at(3599), fast.at(3600)), ("00:00:59;59", "00:01:00;04"))
        self.assertEqual(StartTimecode(0, 120).at(119), "00:00:00:119")

    def test_it_stays_with_what_is_kept_of_a_declaration(self) -> None:
        declared = read_declaration(self.made(".mov", "01:00:00:00", Fraction(25)))
        told = declaration_object(declared)
        self.assertEqual(told["file"]["timecode"]["start"], "01:00:00:00")
        self.assertEqual(declaration_from_object(told).file.timecode, declared.file.timecode)
