"""Copies of files that are not as FFmpeg writes them alone: sound beside, 64-bit places, sets in
band, parts that nobody knows, chapters and attachments, damage.

All else must be the same bytes; what cannot be kept whole is refused with a word.
"""

import hashlib
import struct
import subprocess
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

from shapkeen.core.cured import cure_file, isobmff, matroska, read_wishes
from shapkeen.core.declared import read_declaration
from shapkeen.core.declared.window import Window
from shapkeen.core.errors import CoreError, UnreadableFileError
from tests.builders.media import SDR, sdr_planes, write
from tests.core.cured.test_isobmff import LIGHT, PQ, decoded, merged, packets

WORDS = (*PQ, LIGHT, "pixel_aspect=[4,3]")


def with_sound(path: Path, ending: str) -> Path:
    """Return the picture with two tracks of sound: AAC and plain samples (MOV), or Opus."""
    goal = Path(tempfile.mkdtemp()) / f"sound{ending}"
    codec = {"mp4": "aac", "mov": "pcm_s16le", "mkv": "aac"}[ending[1:]]
    with av.open(str(path)) as source, av.open(str(goal), "w") as made:
        picture = source.streams.video[0]
        out = made.add_stream_from_template(picture)
        sound = made.add_stream(codec, rate=48_000)
        for packet in source.demux(picture):
            if packet.size:
                packet.stream = out
                made.mux(packet)
        tone = (np.sin(np.arange(24_000) / 17) * 9000).astype(np.int16)
        for at in range(0, len(tone), 1000):
            frame = av.AudioFrame.from_ndarray(tone[None, at : at + 1000], "s16", "mono")
            frame.rate, frame.pts = 48_000, at
            for packet in sound.encode(frame):
                made.mux(packet)
        for packet in sound.encode(None):
            made.mux(packet)
    return goal


class Odd(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.plain = write("odd-plain", sdr_planes("coffee"), SDR.with_options(g="4"))

    def cured(self, path: Path, *words: str) -> Path:
        goal = self.folder / f"copy-{len(list(self.folder.iterdir()))}{path.suffix}"
        made = cure_file(path, goal, read_wishes(words or WORDS))
        self.assertTrue(made.complete, made.left)
        assert made.proof is not None
        self.assertTrue(made.proof.unchanged)
        self.assertEqual(decoded(goal), decoded(path))
        self.assertEqual(merged(goal)["transfer"], 16)
        return goal

    def test_sound_stays_packet_for_packet(self) -> None:
        for ending in (".mp4", ".mov", ".mkv"):
            path = with_sound(self.plain, ending)
            goal = self.cured(path)
            sides = [[one for one in packets(p) if one[0] != 0] for p in (path, goal)]
            self.assertGreater(len(sides[0]), 3, ending)
            self.assertEqual(sides[0], sides[1], ending)

    def test_places_of_64_bits(self) -> None:
        data = self.plain.read_bytes()
        at = data.index(b"stco")
        size, count = struct.unpack(">I", data[at - 4 : at])[0], 0
        count = struct.unpack(">I", data[at + 8 : at + 12])[0]
        places = struct.unpack(f">{count}I", data[at + 12 : at + 12 + 4 * count])
        grown = 4 * count
        wide = b"co64" + data[at + 4 : at + 12] + struct.pack(
            f">{count}Q", *(place + grown for place in places)
        )  # fmt: skip
        made = bytearray(data[: at - 4] + struct.pack(">I", size + grown) + wide)
        made += data[at + 12 + 4 * count :]
        for box in (b"moov", b"trak", b"mdia", b"minf", b"stbl"):
            here = made.index(box)
            made[here - 4 : here] = struct.pack(
                ">I", struct.unpack(">I", made[here - 4 : here])[0] + grown
            )
        path = self.folder / "wide.mp4"
        path.write_bytes(made)
        self.assertEqual(decoded(path), decoded(self.plain))
        goal = self.cured(path)
        self.assertIn(b"co64", goal.read_bytes())

    def test_parts_that_nobody_knows_stay_as_they_are(self) -> None:
        data = self.plain.read_bytes()
        secret = struct.pack(">I", 24) + b"wxyz" + b"sixteen secrets!"
        path = self.folder / "unknown.mp4"
        path.write_bytes(data + secret)
        goal = self.cured(path)
        self.assertTrue(goal.read_bytes().endswith(secret))

    def test_sets_in_band(self) -> None:
        given = self.folder / "band.h264"
        path = self.folder / "band.mp4"
        with av.open(str(self.plain)) as source, av.open(str(given), "w", format="h264") as made:
            stream = source.streams.video[0]
            out = made.add_stream_from_template(stream)
            for packet in source.demux(stream):
                if packet.size:
                    packet.stream = out
                    made.mux(packet)
        data = given.read_bytes()
        with av.open(str(self.plain)) as source, av.open(str(path), "w") as made:
            stream = source.streams.video[0]
            out = made.add_stream_from_template(stream)
            sets = self.sets_of(data)
            for packet in source.demux(stream):
                if not packet.size:
                    continue
                body = (sets if packet.is_keyframe else b"") + bytes(packet)
                again = av.Packet(body)
                again.stream, again.time_base = out, stream.time_base
                again.pts, again.dts, again.duration = packet.pts, packet.dts, packet.duration
                again.is_keyframe = packet.is_keyframe
                made.mux(again)
        goal = self.cured(path)
        # Every repetition of the set follows: none of the old ones is left.
        self.assertEqual(goal.read_bytes().count(sets), 0)

    @staticmethod
    def sets_of(data: bytes) -> bytes:
        """Return parameter sets behind their lengths, of a stream behind start codes."""
        parts = data.replace(b"\0\0\0\1", b"\0\0\1").split(b"\0\0\1")
        sets = [part for part in parts if part and part[0] & 31 in (7, 8)][:2]
        return b"".join(len(part).to_bytes(4, "big") + part for part in sets)

    def test_chapters_and_attachments_of_matroska(self) -> None:
        chapters = self.folder / "chapters.txt"
        chapters.write_text("CHAPTER01=00:00:00.000\nCHAPTER01NAME=The first orrery\n")
        path = self.folder / "whole.mkv"
        subprocess.run(
            ["mkvmerge", "-q", "--chapters", chapters, "--attach-file", chapters, "-o", path,
             with_sound(self.plain, ".mkv")],
            check=True, capture_output=True,
        )  # fmt: skip
        goal = self.cured(path)
        told = [
            subprocess.run(["mkvextract", one, "chapters"], check=True, capture_output=True).stdout
            for one in (path, goal)
        ]
        self.assertEqual(told[0], told[1])
        self.assertIn(b"The first orrery", told[0])
        digest = hashlib.sha256(chapters.read_bytes()).hexdigest()
        out = self.folder / "out.txt"
        subprocess.run(
            ["mkvextract", goal, "attachments", f"1:{out}"], check=True, capture_output=True
        )
        self.assertEqual(hashlib.sha256(out.read_bytes()).hexdigest(), digest)


class Refused(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.plain = write("odd-plain", sdr_planes("coffee"), SDR.with_options(g="4"))

    def refused(self, data: bytes, ending: str = ".mp4") -> str:
        path, goal = self.folder / f"odd{ending}", self.folder / f"copy{ending}"
        path.write_bytes(data)
        with self.assertRaises(UnreadableFileError) as raised:
            cure_file(path, goal, read_wishes(WORDS))
        self.assertFalse(goal.exists())
        return raised.exception.code

    def test_encrypted_pictures(self) -> None:
        data = self.plain.read_bytes().replace(b"avc1", b"encv", 3)
        self.assertIn(self.refused(data), ("encrypted", "unsupported-codec"))

    def test_pictures_in_other_files(self) -> None:
        data = bytearray(self.plain.read_bytes())
        at = data.index(b"url ")
        data[at + 7] = 0  # no longer self-contained
        self.assertEqual(self.refused(bytes(data)), "cannot-keep")

    def test_cut_off(self) -> None:
        self.assertEqual(self.refused(self.plain.read_bytes()[:-400]), "truncated")

    def test_damage_is_never_met_with_a_foreign_error(self) -> None:
        mkv = write("odd-mkv", sdr_planes("coffee"), replace(SDR, ending=".mkv", flags=()))
        chance = np.random.default_rng(11)
        for source in (self.plain, mkv):
            given = source.read_bytes()
            for _ in range(60):
                data = bytearray(given)
                for at in chance.integers(0, 2500, 3):
                    data[at] = int(chance.integers(0, 256))
                path = self.folder / f"damaged{source.suffix}"
                goal = self.folder / f"made{source.suffix}"
                path.write_bytes(data)
                goal.unlink(missing_ok=True)
                try:
                    cure_file(path, goal, read_wishes(WORDS))
                except CoreError:
                    self.assertFalse(goal.exists())
                    continue
                if goal.exists():
                    read_declaration(goal)


class Proving(unittest.TestCase):
    """The proof itself: a byte of picture, sound, times or picture parameter sets gives it away."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        plain = write("odd-plain", sdr_planes("coffee"), SDR.with_options(g="4"))
        self.mp4, self.mkv = with_sound(plain, ".mp4"), with_sound(plain, ".mkv")

    def proved(self, path: Path, at: int) -> bool:
        """Return what is proved of a copy in which one byte is another."""
        data = bytearray(path.read_bytes())
        data[at] ^= 1
        copy = self.folder / f"tampered{path.suffix}"
        copy.write_bytes(data)
        prove = (isobmff if path.suffix == ".mp4" else matroska).prove
        with path.open("rb") as one, copy.open("rb") as other:
            sides = (Window(file, 0, len(data)) for file in (one, other))
            return prove(*sides, "h264").unchanged

    def test_one_byte_gives_it_away(self) -> None:
        for path in (self.mp4, self.mkv):
            data = path.read_bytes()
            with av.open(str(path)) as container:
                held = {}
                for packet in container.demux():
                    if packet.size > 40:
                        held.setdefault(packet.stream.type, bytes(packet))
            sets = data.index(b"avcC") + 4 if path is self.mp4 else data.index(b"\x63\xa2") + 2
            picture_set = data.index(b"\x68", sets + 8)  # a unit of type 8, reference 3
            for what, at in {
                "picture": data.index(held["video"]) + len(held["video"]) - 9,
                "sound": data.index(held["audio"]) + 20,
                "picture parameter set": picture_set + 1,
            }.items():
                self.assertFalse(self.proved(path, at), (path.suffix, what))
        self.assertFalse(self.proved(self.mp4, self.mp4.read_bytes().index(b"stts") + 15))

    def test_a_whole_copy_is_proved(self) -> None:
        at = self.mp4.read_bytes().index(b"colr") + 10  # what a cure may change
        self.assertTrue(self.proved(self.mp4, at))
