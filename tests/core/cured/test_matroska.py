"""Corrected copies of Matroska and WebM, against the FFmpeg libraries and block by block."""

import json
import subprocess
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av

from shapkeen.core.declared import read_declaration
from tests.builders.media import HDR, SDR, Coding, hdr_planes, sdr_planes, write
from tests.core.cured.test_isobmff import (
    DISPLAY,
    LIGHT,
    PQ,
    Cures,
    decoded,
    light_of,
    merged,
    packets,
)

MKV = replace(SDR.with_options(g="4"), ending=".mkv", flags=())
VP9 = Coding(
    codec="libvpx-vp9",
    options=(("deadline", "realtime"), ("cpu-used", "8"), ("g", "4")),
    ending=".webm",
    flags=(),
)
AV1 = Coding(codec="libsvtav1", options=(("preset", "10"), ("crf", "40")), ending=".mkv", flags=())


def files() -> dict[str, Path]:
    sdr = sdr_planes("coffee")
    live = replace(MKV, flags=(("live", "1"),))
    summed = replace(MKV, flags=(("write_crc32", "1"), ("cluster_time_limit", "100")))
    small = replace(MKV, flags=(("cluster_time_limit", "100"), ("cues_to_front", "1")))
    return {
        "h264": write("mkv-plain", sdr, MKV),
        "silent": write("mkv-silent", sdr, replace(MKV, colour=None)),
        "unknown sizes": write("mkv-live", sdr, live),
        "check sums": write("mkv-summed", sdr, summed),
        "cues first, many clusters": write("mkv-cues", sdr, small),
        "h265": write("mkv-hdr", hdr_planes("coffee"), replace(HDR, ending=".mkv", flags=())),
        "vp9 webm": write("mkv-vp9", sdr, VP9),
        "av1": write("mkv-av1", sdr, AV1),
    }


def keyed(path: Path) -> list[float]:
    """Return where a player lands that seeks to each picture's time, by cues."""
    found = []
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        for at in (0, 150, 300):
            container.seek(int(at / 1000 / stream.time_base), stream=stream)
            found.append(float(next(container.decode(stream)).time or 0))
    return found


class Matroska(Cures):
    def test_code_points_and_light_of_all_kinds(self) -> None:
        for name, path in files().items():
            before = decoded(path), keyed(path)
            made, goal = self.cured(path, *PQ, 'range="full"', DISPLAY, LIGHT)
            self.assertTrue(made.complete, (name, made.left))
            said = read_declaration(goal).wrapper
            self.assertEqual([said[t].value for t in ("transfer", "range")], [16, "full"], name)
            self.assertEqual(said["content_light"].value["max_fall"], 310, name)
            found = merged(goal)
            self.assertEqual((found["transfer"], found["range"]), (16, 2), name)
            self.assertEqual(light_of(goal), (1200, 310), name)
            self.assertEqual((decoded(goal), keyed(goal)), before, name)
            times = [[packet[:3] for packet in packets(one)] for one in (path, goal)]
            self.assertEqual(times[0], times[1], name)
            taken = [f"{trait}=null" for trait in ("transfer", "primaries", "content_light")]
            back, again = self.cured(goal, *taken)
            self.assertTrue(back.complete, (name, back.left))
            self.assertNotIn("transfer", read_declaration(again).wrapper)
            self.assertEqual(decoded(again), before[0], name)

    def test_shapes_exactly(self) -> None:
        path = files()["h264"]
        for h, v in ((4, 3), (64, 45), (7, 5), (1, 1), (1001, 999)):
            made, goal = self.cured(path, f"pixel_aspect=[{h},{v}]")
            self.assertTrue(made.complete, (h, v))
            self.assertEqual(read_declaration(goal).wrapper["pixel_aspect"].value, (h, v))
        with av.open(str(goal)) as container:
            told = container.streams.video[0].sample_aspect_ratio
        self.assertAlmostEqual(float(told), float(Fraction(1001, 999)), places=3)

    def test_sphere_eyes_fields(self) -> None:
        path = files()["h264"]
        words = (
            'projection="half-equirectangular"',
            'pose={"yaw":-12.5,"pitch":3,"roll":0}',
            'stereo="top-bottom"',
            'scan="progressive"',
        )
        made, goal = self.cured(path, *words)
        self.assertTrue(made.complete, made.left)
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertEqual(said["projection"], "half-equirectangular")
        self.assertEqual(said["pose"]["yaw"], -12.5)
        with av.open(str(goal)) as container:
            self.assertEqual(container.streams.video[0].metadata["stereo_mode"], "top_bottom")
        made, goal = self.cured(goal, 'projection="equirectangular"')
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertNotIn("projection_bounds", said)
        made, goal = self.cured(goal, "projection=null")
        said = {name: one.value for name, one in read_declaration(goal).wrapper.items()}
        self.assertFalse({"projection", "pose"} & said.keys())
        self.assertEqual(said["stereo"], "top-bottom")

    def test_turns_are_a_message_for_the_wrapper_has_no_place(self) -> None:
        for name in ("h264", "h265"):
            for word, mirror in (("rotation=90", None), ("rotation=270", True)):
                words = [word, "mirror=true"] if mirror else [word]
                made, goal = self.cured(files()[name], *words)
                self.assertTrue(made.complete, (name, made.left))
                said = read_declaration(goal).stream
                self.assertEqual(said["rotation"].value, int(word.partition("=")[2]), name)
                self.assertEqual("mirror" in said, bool(mirror), name)
                back, again = self.cured(goal, "rotation=null", "mirror=null")
                self.assertTrue(back.complete, back.left)
                self.assertEqual(decoded(again), decoded(files()[name]))

    def test_what_has_no_place_is_left(self) -> None:
        made, goal = self.cured(files()["av1"], "rotation=90", "index_first=true")
        self.assertEqual((made.complete, goal.exists()), (False, False))
        self.assertEqual({one.trait for one in made.left}, {"rotation", "index_first"})


class ByMkvmerge(Cures):
    """Files that mkvmerge wrote: void room, seek heads, cues of relative places, previous sizes."""

    def test_its_files_are_cured_and_its_own_reader_finds_no_fault(self) -> None:
        for name, path in files().items():
            merged_file = self.folder / f"merged-{name.replace(' ', '-').replace(',', '')}.mkv"
            subprocess.run(
                ["mkvmerge", "-q", "--cluster-length", "3", "-o", merged_file, path],
                check=True,
                capture_output=True,
            )
            before = decoded(merged_file), keyed(merged_file)
            made, goal = self.cured(merged_file, *PQ, DISPLAY, LIGHT, "pixel_aspect=[7,5]")
            self.assertTrue(made.complete, (name, made.left))
            self.assertEqual((decoded(goal), keyed(goal)), before, name)
            told = subprocess.run(
                ["mkvmerge", "-J", goal],
                check=True,
                capture_output=True,
            )
            found = json.loads(told.stdout)
            self.assertEqual((found["warnings"], found["errors"]), ([], []), name)
            properties = found["tracks"][0]["properties"]
            self.assertEqual(properties["color_transfer_characteristics"], 16, name)
            self.assertEqual(properties["max_content_light"], 1200, name)
            listed = subprocess.run(["mkvinfo", "-a", goal], check=True, capture_output=True)
            self.assertNotIn(b"(Warning", listed.stdout)
