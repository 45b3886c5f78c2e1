"""Corrected copies of MP4 and MOV, against the FFmpeg libraries and byte for byte.

What the libraries merge of both witnesses, and what their decoders make of the pictures, is the
judge from outside; our own readers tell both witnesses apart.
"""

import hashlib
import struct
import tempfile
import unittest
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av

from shapkeen.core.cured import checked, cure_file, preview_copy, read_wishes
from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import UsageError
from tests.builders.media import HDR, MASTERED, SDR, X265, Coding, hdr_planes, sdr_planes, write
from tests.builders.media import LIGHT as X265_LIGHT

PRORES = Coding(
    codec="prores_ks", options=(), pix_fmt="yuv422p10le", ending=".mov", flags=()
)  # fmt: skip
VP9 = Coding(codec="libvpx-vp9", options=(("deadline", "realtime"), ("cpu-used", "8")))
DISPLAY = (
    'mastering_display={"red":[0.708,0.292],"green":[0.17,0.797],"blue":[0.131,0.046],'
    '"white":[0.3127,0.329],"max":4000,"min":0.001}'
)
LIGHT = 'content_light={"max_cll":1200,"max_fall":310}'
PQ = ("transfer=16", "primaries=9", "matrix=9")


def decoded(path: Path) -> str:
    """Return a digest of every decoded picture."""
    digest = hashlib.sha256()
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            digest.update(frame.to_ndarray().tobytes())
    return digest.hexdigest()


def packets(path: Path) -> list[tuple]:
    """Return every packet of every track with its times, and a digest of its bytes."""
    with av.open(str(path)) as container:
        return [
            (p.stream.index, p.pts, p.dts, hashlib.sha256(bytes(p)).hexdigest())
            for p in container.demux()
            if p.size
        ]


def merged(path: Path) -> dict[str, object]:
    """Return what the FFmpeg libraries take a file to be."""
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        coded = stream.codec_context
        return {
            "primaries": coded.color_primaries,
            "transfer": coded.color_trc,
            "matrix": coded.colorspace,
            "range": coded.color_range,
            "aspect": stream.sample_aspect_ratio,
        }


def light_of(path: Path) -> tuple[int, int] | None:
    """Return MaxCLL and MaxFALL as the libraries hand them on with the first picture."""
    with av.open(str(path)) as container:
        frame = next(container.decode(video=0))
        for one in frame.side_data:
            if one.type.name == "CONTENT_LIGHT_LEVEL":
                return struct.unpack("<II", bytes(one)[:8])
    return None


class Cures(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())

    def cured(self, path: Path, *words: str):
        goal = self.folder / f"copy-{len(list(self.folder.iterdir()))}{path.suffix}"
        made = cure_file(path, goal, read_wishes(words))
        self.assertEqual(preview_copy(path, read_wishes(words)), replace(made, proof=None))
        if made.size_bytes is not None:
            self.assertEqual(made.size_bytes, goal.stat().st_size)
            assert made.proof is not None
            self.assertTrue(made.proof.unchanged)
        return made, goal


class BothWitnesses(Cures):
    """H.264, H.265, ProRes: the wrapper's boxes and the coded headers follow."""

    def files(self) -> dict[str, Path]:
        sdr, hdr = sdr_planes("coffee"), hdr_planes("coffee")
        fine = sdr_planes("coffee", depth=10, chroma="4:2:2")
        silent = replace(SDR, colour=None)
        return {
            "h264 mp4": write("cure", sdr, SDR),
            "h264 mov": write("cure-mov", sdr, replace(SDR, ending=".mov")),
            "h264 silent": write("cure-silent", sdr, silent),
            "h264 late": write("cure-late", sdr, replace(SDR, flags=())),
            "h265 mp4": write("cure-hdr", hdr, HDR),
            "prores": write("cure-prores", fine, PRORES),
        }

    def test_code_points_set_read_back_and_decoded_as_before(self) -> None:
        for name, path in self.files().items():
            before = decoded(path), packets(path) if name != "prores" else None
            made, goal = self.cured(path, *PQ)
            self.assertTrue(made.complete, (name, made.left))
            said = read_declaration(goal)
            for witness in (said.wrapper, said.stream):
                told = [witness[t].value for t in ("transfer", "primaries", "matrix")]
                self.assertEqual(told, [16, 9, 9], name)
            found = merged(goal)
            self.assertEqual((found["transfer"], found["primaries"]), (16, 9), name)
            self.assertEqual(decoded(goal), before[0], name)
            if before[1] is not None:
                self.assertEqual(packets(goal), before[1], name)

    def test_the_original_is_only_read(self) -> None:
        path = self.files()["h264 mp4"]
        before = path.read_bytes()
        self.cured(path, *PQ)
        self.assertEqual(path.read_bytes(), before)

    def test_every_trait_alone_leaves_all_others(self) -> None:
        path = self.files()["h264 mp4"]
        before = read_declaration(path)
        for word in (
            "transfer=18",
            'range="full"',
            "pixel_aspect=[4,3]",
            "rotation=90",
            "mirror=true",
            'scan="progressive"',
            'stereo="left-right"',
            'projection="equirectangular"',
            DISPLAY,
            LIGHT,
        ):
            trait = word.partition("=")[0]
            made, goal = self.cured(path, word)
            self.assertTrue(made.complete, word)
            also = {"display_size"} if trait == "pixel_aspect" else set()
            self.assertEqual({c.trait for c in made.changes} - also, {trait})
            back, again = self.cured(goal, f"{trait}=null")
            self.assertTrue(back.complete or trait in ("range",), word)
            now = read_declaration(again)
            for name, said in before.wrapper.items():
                if name != trait:
                    self.assertEqual(now.wrapper[name].value, said.value, (word, name))

    def test_shapes_as_players_take_them(self) -> None:
        path = self.files()["h264 mp4"]
        for h, v in ((4, 3), (64, 45), (7, 5), (1, 1)):
            made, goal = self.cured(path, f"pixel_aspect=[{h},{v}]")
            self.assertTrue(made.complete)
            self.assertEqual(merged(goal)["aspect"], Fraction(h, v))
            self.assertEqual(read_declaration(goal).stream["pixel_aspect"].value, (h, v))

    def test_turns_as_the_libraries_show_them(self) -> None:
        path = self.files()["h264 mp4"]
        for degrees in (90, 180, 270):
            made, goal = self.cured(path, f"rotation={degrees}")
            self.assertTrue(made.complete)
            with av.open(str(goal)) as container:
                frame = next(container.decode(video=0))
                self.assertEqual(-frame.rotation % 360, degrees)
            self.assertEqual([one.witness for one in made.left], ["stream"])

    def test_index_to_the_front_keeps_every_packet(self) -> None:
        path = self.files()["h264 late"]
        self.assertFalse(read_declaration(path).file.index_first)
        made, goal = self.cured(path, "index_first=true", *PQ)
        self.assertTrue(made.complete)
        self.assertTrue(read_declaration(goal).file.index_first)
        self.assertEqual(packets(goal), packets(path))

    def test_a_fragmented_file(self) -> None:
        coding = replace(SDR, flags=(("movflags", "frag_keyframe+empty_moov"),))
        path = write("cure-fragments", sdr_planes("coffee"), coding)
        made, goal = self.cured(path, *PQ)
        self.assertTrue(made.complete)
        self.assertEqual(made.proof.pictures, 10)
        self.assertEqual(packets(goal), packets(path))
        made, goal = self.cured(path, LIGHT)  # a message more in each random-access picture
        self.assertTrue(made.complete)
        self.assertEqual(decoded(goal), decoded(path))
        self.assertEqual([p[:3] for p in packets(goal)], [p[:3] for p in packets(path)])
        self.assertEqual(light_of(goal), (1200, 310))


class Messages(Cures):
    """Messages 45, 137, 144, 147 in every random-access picture, old ones changed or gone."""

    def files(self) -> dict[str, Path]:
        coding = HDR.with_options(**{"x265-params": X265 + MASTERED + X265_LIGHT + ":keyint=5"})
        return {
            "with messages": write("cure-messages", hdr_planes("coffee"), coding),
            "h264": write("cure-plain", sdr_planes("coffee"), SDR.with_options(g="4")),
        }

    def test_light_and_display_by_both_witnesses(self) -> None:
        for name, path in self.files().items():
            before = decoded(path)
            made, goal = self.cured(path, DISPLAY, LIGHT)
            self.assertTrue(made.complete, (name, made.left))
            said = read_declaration(goal)
            for witness in (said.wrapper, said.stream):
                self.assertEqual(witness["content_light"].value["max_cll"], 1200, name)
                self.assertEqual(witness["mastering_display"].value["max"], 4000, name)
            self.assertEqual(light_of(goal), (1200, 310), name)
            self.assertEqual(decoded(goal), before, name)
            back, again = self.cured(goal, "content_light=null", "mastering_display=null")
            self.assertTrue(back.complete, (name, back.left))
            self.assertIsNone(light_of(again), name)
            self.assertEqual(decoded(again), before, name)

    def test_eyes_and_another_transfer(self) -> None:
        for name, path in self.files().items():
            for word in ("left-right", "bottom-top", "mono"):
                made, goal = self.cured(path, f'stereo="{word}"', "alternative_transfer=18")
                self.assertTrue(made.complete, (name, made.left))
                said = read_declaration(goal).stream
                self.assertEqual(said["stereo"].value, word, name)
                self.assertEqual(said["alternative_transfer"].value, 18, name)
                self.assertEqual(decoded(goal), decoded(path), name)

    def test_every_random_access_picture_holds_them(self) -> None:
        made, goal = self.cured(self.files()["h264"], LIGHT)
        self.assertTrue(made.complete)
        message = bytes([6, 144, 4, 1200 >> 8, 1200 & 255, 310 >> 8, 310 & 255, 0x80])
        held = 0
        with av.open(str(goal)) as container:
            for packet in container.demux(video=0):
                if packet.size:
                    self.assertEqual(message in bytes(packet), packet.is_keyframe)
                    held += packet.is_keyframe
        self.assertEqual(held, 3)


class OpenCodecs(Cures):
    """AV1's sequence headers and metadata units; VP9's key frames, as far as their bits go."""

    def test_av1(self) -> None:
        coding = Coding(codec="libsvtav1", options=(("preset", "10"), ("crf", "40")))
        path = write("cure-av1", sdr_planes("coffee"), coding)
        before = decoded(path)
        made, goal = self.cured(path, *PQ, 'range="full"', DISPLAY, LIGHT)
        self.assertTrue(made.complete, made.left)
        said = read_declaration(goal)
        for witness in (said.wrapper, said.stream):
            self.assertEqual([witness[t].value for t in ("transfer", "range")], [16, "full"])
            self.assertEqual(witness["content_light"].value["max_cll"], 1200)
            self.assertEqual(witness["mastering_display"].value["max"], 4000)
        found = merged(goal)
        self.assertEqual((found["transfer"], found["range"]), (16, 2))
        self.assertEqual(light_of(goal), (1200, 310))
        self.assertEqual(decoded(goal), before)
        silent = [f"{trait}=null" for trait in ("transfer", "primaries", "matrix", "content_light")]
        made, again = self.cured(goal, *silent)
        self.assertTrue(made.complete, made.left)
        self.assertNotIn("transfer", read_declaration(again).stream)
        self.assertIsNone(light_of(again))
        self.assertEqual(decoded(again), before)

    def test_vp9(self) -> None:
        path = write("cure-vp9", sdr_planes("coffee"), VP9)
        made, goal = self.cured(path, 'range="full"', "matrix=9", "transfer=16")
        self.assertTrue(made.complete, made.left)
        said = read_declaration(goal)
        self.assertEqual(said.stream["matrix"].value, 9)
        self.assertEqual(said.stream["range"].value, "full")
        self.assertEqual([(one.trait, one.witness) for one in made.left], [("transfer", "stream")])
        self.assertEqual(merged(goal)["range"], 2)
        self.assertEqual(decoded(goal), decoded(path))


class Boundaries(Cures):
    def test_nclc_has_no_place_for_a_range(self) -> None:
        path = write("cure", sdr_planes("coffee"), replace(SDR, ending=".mov"))
        made, _ = self.cured(path, 'range="full"')
        self.assertIn(("range", "wrapper"), [(one.trait, one.witness) for one in made.left])
        self.assertTrue(made.complete)

    def test_what_no_tag_can_change_is_left_and_no_copy_written(self) -> None:
        path = write("cure", sdr_planes("coffee"), SDR)
        made, goal = self.cured(path, "raster=[1920,1080]", "bit_depth=10")
        self.assertFalse(made.complete)
        self.assertIsNone(made.size_bytes)
        self.assertFalse(goal.exists())
        self.assertIn("coding", made.left[0].why)

    def test_nothing_to_change_makes_an_exact_copy(self) -> None:
        path = write("cure", sdr_planes("coffee"), SDR)
        made, goal = self.cured(path, "transfer=1")
        self.assertEqual((made.complete, made.changes), (True, ()))
        self.assertEqual(goal.read_bytes(), path.read_bytes())

    def test_one_code_point_taken_away_becomes_unspecified(self) -> None:
        path = write("cure", sdr_planes("coffee"), SDR)
        _, goal = self.cured(path, "transfer=null")
        self.assertEqual(read_declaration(goal).wrapper["transfer"].value, 2)
        _, goal = self.cured(path, "transfer=null", "primaries=null", "matrix=null")
        self.assertNotIn("transfer", read_declaration(goal).wrapper)
        self.assertNotIn("transfer", read_declaration(goal).stream)

    def test_half_a_sphere_and_back(self) -> None:
        path = write("cure", sdr_planes("coffee"), SDR)
        words = ('projection="half-equirectangular"', 'pose={"yaw":30,"pitch":0,"roll":-5}')
        _, goal = self.cured(path, *words, 'stereo="right-left"')
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertEqual(said["projection"], "half-equirectangular")
        self.assertEqual(said["projection_bounds"]["left"], 0.25)
        _, goal = self.cured(goal, 'projection="equirectangular"')
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertEqual(said["projection"], "equirectangular")
        self.assertNotIn("projection_bounds", said)
        self.assertEqual(said["pose"]["yaw"], 30)
        _, goal = self.cured(goal, "projection=null")
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertFalse({"projection", "pose"} & said.keys())
        self.assertEqual(said["stereo"], "right-left")


class Words(unittest.TestCase):
    def test_wrong_wishes_are_refused_with_their_place(self) -> None:
        for word in (
            "transfer",
            "colour=1",
            "transfer=999",
            'stereo="sideways"',
            "pixel_aspect=[0,1]",
            "index_first=false",
            "mirror=false",
            'content_light={"max_cll":70000,"max_fall":1}',
            'projection_bounds={"left":0.6,"right":0.5}',
            "transfer=NaN",
        ):
            with self.assertRaises(UsageError, msg=word) as raised:
                read_wishes([word])
            self.assertTrue(raised.exception.where, word)
        with self.assertRaises(UsageError):
            read_wishes(["transfer=1", "transfer=16"])
        self.assertEqual(checked("pixel_aspect", [4, 3]), (4, 3))
