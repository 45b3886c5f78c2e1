"""Every coded header of a copy, as the FFmpeg libraries' own parsers write it down.

Their `trace_headers` filter parses each parameter set, message and header anew, and refuses what
the standard does not allow: so one word wrong anywhere shows here.
"""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import av
import av.logging
from av.bitstream import BitStreamFilterContext

from tests.builders.media import HDR, SDR, Coding, hdr_planes, sdr_planes, write
from tests.core.cured.test_frame_headers import MPEG2
from tests.core.cured.test_isobmff import DISPLAY, LIGHT, PQ, VP9, Cures

AV1 = Coding(codec="libsvtav1", options=(("preset", "12"), ("svtav1-params", "keyint=4")))
SETS = {"primaries": "colour_primaries", "transfer": "transfer_characteristics"}
SETS |= {"matrix": "matrix_coefficients"}
OBUS = {"primaries": "color_primaries", "transfer": "transfer_characteristics"}
OBUS |= {"matrix": "matrix_coefficients"}


def traced(path: Path) -> Iterator[tuple[str, int]]:
    """Yield every field of every header with its value, in the order of the file."""
    before = av.logging.get_level()
    av.logging.set_level(av.logging.VERBOSE)
    try:
        with av.open(str(path)) as container, av.logging.Capture() as lines:
            stream = container.streams.video[0]
            parser = BitStreamFilterContext("trace_headers", stream)
            for packet in container.demux(stream):
                if packet.size:
                    parser.filter(packet)
    finally:
        av.logging.set_level(before)
    for level, name, line in lines:
        if name != "trace_headers":
            continue
        assert level > av.logging.WARNING, line
        words = line.split()
        if len(words) > 3 and words[-2] == "=":
            yield words[1], int(words[-1])


class Traces(Cures):
    def all_of(self, path: Path, *names: str) -> dict[str, set[int]]:
        found: dict[str, set[int]] = {name: set() for name in names}
        for name, value in traced(path):
            if name in found:
                found[name].add(value)
        return found

    def test_code_points_stand_in_every_header(self) -> None:
        sdr, hdr = sdr_planes("coffee"), hdr_planes("coffee")
        open_groups = SDR.with_options(g="4", **{"x264-params": "repeat-headers=1"})
        repeated = HDR.with_options(g="4")
        for name, planes, coding, fields in (
            ("h264", sdr, SDR.with_options(g="4"), SETS),
            ("h264 in band", sdr, open_groups, SETS),
            ("h265", hdr, repeated, SETS),
            ("av1", sdr, AV1, OBUS),
            ("mpeg2", sdr, MPEG2, SETS),
        ):
            for ending in (".mp4", ".mov", ".mkv"):
                if (name, ending) == ("av1", ".mov"):
                    continue
                path = write(f"trace-{name[:4]}", planes, replace(coding, ending=ending))
                made, goal = self.cured(path, *PQ)
                with self.subTest(name, ending=ending):
                    self.assertTrue(made.complete, made.left)
                    said = self.all_of(goal, *fields.values())
                    wanted = {"primaries": {9}, "transfer": {16}, "matrix": {9}}
                    self.assertEqual({t: said[field] for t, field in fields.items()}, wanted)

    def test_vp9_key_frames(self) -> None:
        for ending in (".mp4", ".webm"):
            path = write("trace-vp9", sdr_planes("coffee"), replace(VP9, ending=ending))
            _, goal = self.cured(path, *PQ, 'range="full"')
            said = self.all_of(goal, "color_space", "color_range")
            self.assertEqual(said, {"color_space": {5}, "color_range": {1}})

    def test_light_stands_once_at_each_random_access_point(self) -> None:
        for planes, coding in ((sdr_planes("coffee"), SDR), (hdr_planes("coffee"), HDR)):
            path = write("trace-light", planes, coding.with_options(g="4"))
            _, goal = self.cured(path, LIGHT, DISPLAY)
            said = list(traced(goal))
            peaks = [value for name, value in said if name == "max_content_light_level"]
            brightest = [v for name, v in said if name == "max_display_mastering_luminance"]
            with av.open(str(goal)) as container:
                keys = sum(p.is_keyframe for p in container.demux(video=0) if p.size)
            self.assertEqual((set(peaks), set(brightest)), ({1200}, {40_000_000}))
            self.assertIn(len(peaks), (keys, keys + 1))  # and in the configuration

    def test_shapes_and_turns_of_parameter_sets(self) -> None:
        path = write("trace-shape", sdr_planes("coffee"), SDR.with_options(g="4"))
        _, goal = self.cured(path, "pixel_aspect=[64,45]", 'range="full"', "chroma_location=2")
        said = self.all_of(
            goal, "sar_width", "sar_height", "video_full_range_flag",
            "chroma_sample_loc_type_top_field",
        )  # fmt: skip
        self.assertEqual(list(said.values()), [{64}, {45}, {1}, {2}])
