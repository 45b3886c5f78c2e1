"""Versions made from photographs: kept by their promise, and what the FFmpeg libraries make too.

Sound: tones brought to a loudness; the meter itself is held against EBU's own cases in
tests/core/measured/test_sound.py.
"""

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from unittest import mock

import av
import numpy as np

from shapkeen.core.colour.coding import Coding, codes_from_signal, signal_from_codes
from shapkeen.core.colour.cube_file import cube_text
from shapkeen.core.colour.lookup import LookUpTable, lattice
from shapkeen.core.colour.packed_table import packed, unpacked
from shapkeen.core.compared import compare_files
from shapkeen.core.cured.versions import (
    Made,
    check_recipe,
    make_version,
    making,
    name_of,
    read_recipe_file,
    recipe_from_json,
    recipe_to_json,
    spans,
)
from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import InternalError, UsageError
from shapkeen.core.measured.alignment.expected import converted
from shapkeen.core.measured.sound.loudness import measure_loudness
from tests.builders import media
from tests.builders.comparing import in_acts, shared_out
from tests.builders.media import SDR, photo_frames, write

RATE = 48_000
TAGS = ("raster", "pixel_aspect", "transfer", "primaries", "matrix", "range", "frame_rate")


def recipe(name: str = "version", **more: object):
    data = {
        "schema": "shapkeen.recipe/1",
        "name": name,
        "coding": {"codec": "h264"},
        "wrapper": "mp4",
    }
    return recipe_from_json(json.dumps({**data, **more}))


@lru_cache
def long_master() -> Path:
    """Return 96 frames of a photograph, so that a version has two spans."""
    planes = [media.coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (320, 180), 96)]
    return write("versions-long", planes, SDR.with_options(crf="6"))


def tone(level_db: float, seconds: float, hertz: float = 1000.0) -> np.ndarray:
    at = np.arange(round(seconds * RATE)) / RATE
    return (10 ** (level_db / 20) * np.sin(2 * np.pi * hertz * at)).astype(np.float32)


@lru_cache
def sounding(*levels: tuple[float, float], rate: int = 4) -> Path:
    """Return a file with stereo tones of (dBFS, seconds) beside a few frames a second."""
    path = media.place(f"versions-sounding-{abs(hash((levels, rate)))}.mov")
    wave = np.concatenate([tone(*level) for level in levels])
    frame = av.VideoFrame.from_ndarray(np.full((96, 64), 90, np.uint8), format="yuv420p")
    with av.open(str(path), "w") as out:
        picture = out.add_stream("libx264", Fraction(rate), {"crf": "20"})
        picture.width, picture.height, picture.pix_fmt = 64, 64, "yuv420p"
        context = picture.codec_context
        context.color_primaries, context.color_trc, context.colorspace = 1, 1, 1
        context.color_range = 1
        sound = out.add_stream("pcm_s24le", rate=RATE)
        sound.codec_context.layout = "stereo"
        for number in range(int(rate * len(wave) / RATE)):
            frame.pts = number
            out.mux(picture.encode(frame))
        out.mux(picture.encode())
        for at in range(0, len(wave), RATE):
            part = np.stack([wave[at : at + RATE]] * 2)
            given = av.AudioFrame.from_ndarray(part, format="fltp", layout="stereo")
            given.rate, given.pts, given.time_base = RATE, at, Fraction(1, RATE)
            out.mux(sound.encode(given))
        out.mux(sound.encode())
    return path


def samples_of(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
        made = [p.to_ndarray() for f in container.decode(audio=0) for p in resampler.resample(f)]
    return np.concatenate(made, axis=1)


def top_boxes(path: Path) -> list[str]:
    """Return the types of a file's outermost boxes. ISO/IEC 14496-12 4.2: size, then type."""
    data, at, found = path.read_bytes(), 0, []
    while at + 8 <= len(data):
        size = int.from_bytes(data[at : at + 4], "big")
        found.append(data[at + 4 : at + 8].decode("latin-1"))
        at += size or len(data)
    return found


class Making(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def make(self, master: Path, **more: object) -> Made:
        made = recipe(**more)
        return make_version(
            master, made, self.folder / name_of(check_recipe(master, made)), workers=1
        )


class Pictures(Making):
    def kept(self, master: Path, **more: object) -> Path:
        made = self.make(master, **more)
        found = compare_files(master, made.path, overrides=made.asked, frames=4, workers=1).survival
        harmed = [(v.trait, v.verdict, v.why) for v in found.verdicts if v.verdict != "kept"]
        self.assertEqual((harmed, [cause.id for cause in found.causes]), ([], []))
        self.assertEqual(list(self.folder.glob(".making-*")), [])
        return made.path

    def test_every_codec_and_wrapper_is_kept(self) -> None:
        cases = (
            ("av1", "", "webm"),
            ("h264", "High 10", "matroska"),
            ("vc3", "HQ", "mxf"),
            ("vp9", "", "webm"),
            ("prores", "422 HQ", "mov"),
            ("ffv1", "", "matroska"),
        )
        for _, (codec, profile, wrapper) in shared_out(cases, 0):
            with self.subTest(codec):
                coding = {"codec": codec, "profile": profile, "preset": "veryfast"}
                path = self.kept(media.sdr_master(), name=codec, coding=coding, wrapper=wrapper)
                declared = read_declaration(path)
                self.assertEqual((declared.file.wrapper, declared.video.codec), (wrapper, codec))

    def test_fragments_each_have_an_index_of_their_own(self) -> None:
        coding = {"codec": "h264", "preset": "ultrafast", "keyframes_s": 0.2}
        path = self.kept(media.sdr_master(), coding=coding, fragments=True)
        boxes = [box for box in top_boxes(path) if box in ("moov", "moof", "mdat")]
        self.assertEqual(boxes, ["moov", *("moof", "mdat") * 2])  # 10 frames, a key frame in 5
        with self.assertRaises(UsageError) as caught:
            recipe(wrapper="matroska", fragments=True)
        self.assertEqual(caught.exception.where, "fragments")

    def test_hdr_says_in_both_witnesses_what_the_master_says(self) -> None:
        coding = {"codec": "h265", "preset": "ultrafast"}
        path = self.kept(media.hdr_master(), coding=coding)
        declared = read_declaration(path)
        for trait in ("transfer", "primaries", "matrix", "mastering_display", "content_light"):
            with self.subTest(trait):
                wrapper, stream = declared.wrapper[trait], declared.stream[trait]
                self.assertEqual(wrapper.value, stream.value)
        self.assertTrue(declared.file.index_first)
        self.assertEqual(declared.video.codec_tag, "hvc1")

    def test_hdr_made_sdr_and_hlg_by_promise(self) -> None:
        sdr = {
            t: {"value": 1, "from": f}
            for t, f in (("transfer", 16), ("primaries", 9), ("matrix", 9))
        }
        self.kept(media.hdr_master(), name="sdr", promise=sdr)
        hlg = {"transfer": {"value": 18, "from": 16}}
        coding = {"codec": "h265", "preset": "ultrafast"}
        self.kept(media.hdr_master(), name="hlg", promise=hlg, coding=coding)

    def test_shapes_by_promise(self) -> None:
        anamorphic, plain = media.sdr_master(aspect=Fraction(4, 3)), media.sdr_master()
        square = {
            "raster": {"value": [854, 360]},
            "pixel_aspect": {"value": [1, 1], "from": [4, 3]},
        }
        bars = {"crop": [0, 0, 640, 360], "bars": {"top": 60, "bottom": 60, "left": 0, "right": 0}}
        cases = (
            (anamorphic, "square", square),
            (anamorphic, "flagged", {}),
            (plain, "bars", {"raster": {"value": [640, 480]}, "framing": {"value": bars}}),
            (plain, "cut", {"raster": {"value": [360, 360]}}),
        )
        for _, (master, name, promise) in shared_out(cases, 0, 2):
            with self.subTest(name):
                self.kept(master, name=name, promise=promise)

    def test_burnt_in_timecode_and_text_are_meant_to_be_there(self) -> None:
        burnt = {"timecode": True, "text": "Für die Abnahme"}
        path = self.kept(media.sdr_master(), burn_in=burnt)
        found = compare_files(media.sdr_master(), path, frames=4, workers=1).survival
        self.assertEqual([cause.id for cause in found.causes], ["overlay-added"])

    def test_between_marks_in_spans_and_at_a_rate(self) -> None:
        coding = {"codec": "h264", "bit_rate": 400_000, "passes": 2, "preset": "veryfast"}
        path = self.kept(long_master(), coding=coding, **{"in": 10, "out": 80})
        declared = read_declaration(path)
        self.assertEqual(declared.video.frame_count, 70)
        self.assertAlmostEqual((declared.video.bit_rate or 0) / 400_000, 1, delta=0.2)

    def test_a_version_whose_marks_were_missed_is_trimmed(self) -> None:
        made = self.make(long_master(), **{"in": 10, "out": 80})
        asked = recipe(**{"in": 4, "out": 80}).asks(96)
        found = compare_files(
            long_master(), made.path, overrides=asked, frames=4, workers=1
        ).survival
        causes = {cause.id: cause.values for cause in found.causes}
        self.assertEqual(causes["trimmed"]["start"], 6)

    def test_like_what_the_ffmpeg_libraries_make_of_it(self) -> None:
        """Geometry by their filters, coded by the same encoder: the same tags, SSIM."""
        none = {"top": 0, "bottom": 0, "left": 0, "right": 0}
        cut = {"crop": [80, 0, 480, 360], "bars": none}
        boxed = {"crop": [0, 0, 640, 360], "bars": {**none, "top": 60, "bottom": 60}}
        cases = (
            # (960, 720): cut and enlarged; with bars; flagged as squeezed
            ((960, 720), {"framing": cut}, ("crop=480:360:80:0", "scale=960:720:flags=lanczos")),
            ((640, 480), {"framing": boxed}, ("pad=640:480:0:60:black",)),
            ((480, 360), {"pixel_aspect": (4, 3)}, ("scale=480:360:flags=lanczos", "setsar=4/3")),
        )
        for _, (size, asked, filters) in shared_out(cases, 1):
            with self.subTest(filters):
                promise = {name: {"value": value} for name, value in asked.items()}
                path = self.kept(
                    media.sdr_master(),
                    name=f"ours {size[0]}",
                    promise={"raster": {"value": size}, **promise},
                    coding={"codec": "h264", "crf": 12},
                )
                theirs = self.filtered(media.sdr_master(), filters, size)
                ours, other = (list(self.lumas(p)) for p in (path, theirs))
                self.assertEqual(len(ours), len(other))
                for one, two in zip(ours, other, strict=True):
                    self.assertGreater(self.ssim(one, two), 0.97)
                told = [read_declaration(p) for p in (path, theirs)]
                for trait in TAGS:
                    values = [d.stream.get(trait, d.wrapper.get(trait)) for d in told]
                    # theirs are silent where samples are square, which means the same
                    self.assertEqual(*(one.value if one else (1, 1) for one in values), trait)

    def filtered(self, master: Path, filters: tuple[str, ...], size: tuple[int, int]) -> Path:
        """Return what the libraries' filters make of a master, coded at CRF 12."""
        goal = self.folder / f"theirs {size[0]}.mp4"
        graph = av.filter.Graph()
        with av.open(str(master)) as given, av.open(str(goal), "w") as out:
            source = last = graph.add_buffer(template=given.streams.video[0])
            for one in (*filters, "buffersink"):
                node = graph.add(*one.split("=", 1))
                last.link_to(node)
                last = node
            graph.configure()
            stream = out.add_stream("libx264", Fraction(24), {"crf": "12", "preset": "medium"})
            stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
            context = stream.codec_context
            context.color_primaries, context.color_trc, context.colorspace = 1, 1, 1
            context.color_range = 1
            aspects = [one.partition("=")[2] for one in filters if one.startswith("setsar")]
            if aspects:  # frames carry it, but do not tell it here
                context.sample_aspect_ratio = Fraction(aspects[0])
            for number, frame in enumerate(given.decode(video=0)):
                source.push(frame)
                made = last.pull()
                made.pts, made.time_base = number, Fraction(1, 24)
                out.mux(stream.encode(made))
            out.mux(stream.encode())
        return goal

    def lumas(self, path: Path):
        with av.open(str(path)) as container:
            for frame in container.decode(video=0):
                yield frame.to_ndarray(format="gray").astype(np.float64)

    def ssim(self, one: np.ndarray, other: np.ndarray) -> float:
        from skimage.metrics import structural_similarity

        return float(structural_similarity(one, other, data_range=255))


class Interrupted(Making):
    def test_a_kill_in_the_middle_goes_on_from_what_is_finished(self) -> None:
        goal = self.folder / "long.mp4"
        text = json.dumps({"coding": {"codec": "h264", "preset": "veryslow"}})
        script = (
            "import json, sys\nfrom pathlib import Path\n"
            "from tests.core.cured.versions.test_making import recipe\n"
            "from shapkeen.core.cured.versions import make_version\n"
            "made = recipe('long', **json.loads(sys.argv[3]))\n"
            "make_version(Path(sys.argv[1]), made, Path(sys.argv[2]), workers=1)\n"
        )
        arguments = [sys.executable, "-c", script, str(long_master()), str(goal), text]
        process = subprocess.Popen(arguments, stderr=subprocess.DEVNULL)
        while process.poll() is None and not list(self.folder.glob(".making-*/span-*.span")):
            time.sleep(0.01)
        os.kill(process.pid, signal.SIGKILL)
        process.wait()
        self.assertFalse(goal.exists())
        finished = list(self.folder.glob(".making-*/span-*.span"))
        self.assertTrue(finished)
        coded = []
        with mock.patch.object(making, "code_span", side_effect=self.watch(coded)):
            made = make_version(long_master(), recipe("long", **json.loads(text)), goal, workers=1)
        self.assertEqual(len(coded), 2 - len(finished))
        self.assertEqual((made.frames, read_declaration(goal).video.frame_count), (96, 96))
        self.assertEqual([path.name for path in self.folder.iterdir()], ["long.mp4"])

    def watch(self, coded: list):
        def code(master, order, span, goal, **more):
            coded.append(span)
            return spans.code_span(master, order, span, goal, **more)

        return code

    def test_a_full_disk_says_what_it_needs_and_keeps_what_is_finished(self) -> None:
        def full(*_: object, **__: object) -> None:
            raise OSError(28, "No space left on device")

        goal = self.folder / "full.mp4"
        with (
            mock.patch.object(making, "join_spans", full),
            self.assertRaises(InternalError) as caught,
        ):
            make_version(long_master(), recipe("full"), goal, workers=1)
        self.assertRegex(str(caught.exception), r"Some \d+ MB are needed .* MB are free")
        self.assertEqual(len(list(self.folder.glob(".making-*/span-*.span"))), 2)
        make_version(long_master(), recipe("full"), goal, workers=1)
        self.assertTrue(goal.exists())

    def test_stopping_keeps_what_is_finished(self) -> None:
        def told(done: int, _all: int) -> None:
            if done:
                raise KeyboardInterrupt

        goal = self.folder / "stopped.mp4"
        with self.assertRaises(KeyboardInterrupt):
            make_version(long_master(), recipe("stopped"), goal, workers=1, progress=told)
        self.assertEqual(len(list(self.folder.glob(".making-*/span-*.span"))), 1)

    def test_what_an_earlier_recipe_left_unfinished_goes(self) -> None:
        def stop(_done: int, _all: int) -> None:
            raise KeyboardInterrupt

        goal = self.folder / "changed.mp4"
        with self.assertRaises(KeyboardInterrupt):
            make_version(long_master(), recipe("changed"), goal, workers=1, progress=stop)
        quick = {"codec": "h264", "preset": "ultrafast"}
        make_version(long_master(), recipe("changed", coding=quick), goal, workers=1)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["changed.mp4"])

    def test_nothing_is_written_over(self) -> None:
        goal = self.folder / "there.mp4"
        goal.write_bytes(b"mine")
        with self.assertRaises(UsageError):
            make_version(long_master(), recipe(), goal)
        self.assertEqual(goal.read_bytes(), b"mine")


class Tables(Making):
    """A look-up table put in on purpose: what it makes of the master is what is promised."""

    def look(self) -> LookUpTable:
        """Return a look that leaves no act which could explain it: warm, and lifted in between."""
        colours = lattice(17)
        warm = colours ** np.array([0.86, 1.0, 1.18])
        mixed = warm @ np.array([[0.94, 0.04, 0.02], [0.05, 0.92, 0.03], [0.02, 0.06, 0.92]]).T
        return LookUpTable(np.clip(mixed, 0, 1).reshape(17, 17, 17, 3))

    def check(self, master: Path, table: LookUpTable, **promise: object) -> None:
        light = {"table": packed(table), "table_name": "warm.cube"}
        made = self.make(master, light=light, promise=promise, coding=CODING)
        self.assertEqual(made.asked.traits["tone"].value["table"], "warm.cube")
        found = compare_files(master, made.path, overrides=made.asked, frames=4, workers=1).survival
        harmed = [(v.trait, v.verdict, v.why) for v in found.verdicts if v.verdict != "kept"]
        self.assertEqual((harmed, [cause.id for cause in found.causes]), ([], []))
        plain = compare_files(master, made.path, frames=4, workers=1).survival
        self.assertIn(
            "lost", [v.verdict for v in plain.verdicts if v.trait in ("tone", "transfer")]
        )

    def test_a_look_within_the_masters_own_light(self) -> None:
        self.check(media.sdr_master(), self.look())

    @in_acts
    def test_a_table_from_hdr_to_sdr(self) -> None:
        hdr, sdr = (
            Coding(transfer=t, primaries=p, matrix=p, full_range=False)
            for t, p in ((16, 9), (1, 1))
        )
        signal = codes_from_signal(lattice(33), replace(hdr, matrix=9))
        shown = signal_from_codes(converted(signal, hdr, sdr), sdr) ** 0.9
        table = LookUpTable(np.clip(shown, 0, 1).reshape(33, 33, 33, 3))
        self.check(
            media.hdr_master(),
            table,
            **{t: {"value": 1, "from": f} for t, f in zip(COLOURS, (16, 9, 9), strict=True)},
        )

    def test_a_cube_file_beside_the_recipe_is_taken_in(self) -> None:
        (self.folder / "look.cube").write_text(cube_text(self.look(), title="warm"))
        data = {"schema": "shapkeen.recipe/1", "name": "warm", "coding": CODING}
        path = self.folder / "warm.json"
        path.write_text(json.dumps({**data, "light": {"table": "look.cube"}}))
        read = read_recipe_file(path)
        self.assertEqual(read.light.table_name, "look.cube")
        np.testing.assert_allclose(unpacked(read.light.table).values, self.look().values, atol=1e-5)
        self.assertEqual(recipe_from_json(recipe_to_json(read)), read)
        for name, words in (
            ("none.cube", "none.cube"),
            ("../look.cube", "name alone"),
            ("3d:17:AAAA", "a table as Shapkeen packs it"),
        ):
            path.write_text(json.dumps({**data, "light": {"table": name}}))
            with self.subTest(name), self.assertRaisesRegex(UsageError, words):
                read_recipe_file(path)


CODING = {"codec": "h264", "preset": "veryfast", "crf": 14}
COLOURS = ("transfer", "primaries", "matrix")


class Sounds(Making):
    def test_copied_sound_is_the_masters_sample_by_sample(self) -> None:
        master = sounding((-20, 4))
        made = self.make(master, wrapper="mov")
        np.testing.assert_array_equal(samples_of(made.path), samples_of(master))

    def test_sound_that_its_wrapper_does_not_take_is_refused_before_anything_is_made(self) -> None:
        with self.assertRaises(UsageError) as caught:
            self.make(sounding((-20, 2)), coding={"codec": "vp9"}, wrapper="webm")
        self.assertEqual(caught.exception.where, "sound.codec")
        self.assertEqual(list(self.folder.iterdir()), [])
        with self.assertRaises(UsageError) as caught:  # 64×64: less than the codec's profile takes
            self.make(sounding((-20, 2)), coding={"codec": "vc3"}, wrapper="mov", sound="none")
        self.assertEqual(caught.exception.where, "promise/raster")
        with self.assertRaises(UsageError) as caught:  # 4 frames/s
            self.make(sounding((-20, 2)), coding={"codec": "prores"}, wrapper="mxf", sound="pcm")
        self.assertEqual(caught.exception.where, "wrapper")
        for codec, wrapper, sound in (
            ("vp9", "webm", "opus"),
            ("h264", "mp4", "copy"),
            ("h264", "mp4", "opus"),
            ("h264", "matroska", "copy"),
            ("prores", "mxf", "pcm"),
        ):
            coding = {"codec": codec, "preset": "ultrafast"}
            name = f"{sound} in {wrapper}"
            with self.subTest(name):
                made = self.make(
                    sounding((-20, 2), rate=24),
                    name=name,
                    coding=coding,
                    wrapper=wrapper,
                    sound=sound,
                )
                self.assertGreater(np.abs(samples_of(made.path)).max(), 0.08)

    def test_coded_sound_lies_where_the_marks_are(self) -> None:
        master = sounding((-20, 2), (-60, 2), (-20, 2))
        made = self.make(master, wrapper="mov", sound="pcm", **{"in": 8, "out": 16})
        found = samples_of(made.path)
        self.assertEqual(found.shape[1], 2 * RATE)
        self.assertLess(np.abs(found).max(), 0.002)

    def test_loudness_is_brought_to_its_target(self) -> None:
        master = sounding((-20, 6))
        for codec in ("aac", "pcm"):
            made = self.make(
                master, name=codec, wrapper="mov", sound={"codec": codec, "loudness_lufs": -27}
            )
            found = measure_loudness(made.path, (Fraction(0), Fraction(6)))
            with self.subTest(codec):
                self.assertAlmostEqual(found.integrated_lufs, -27, delta=0.2)
                self.assertEqual(made.notes, ())

    def test_peaks_that_would_be_cut_hold_it_down_and_it_is_told(self) -> None:
        master = sounding((-3, 1), (-12, 7))
        made = self.make(master, wrapper="mov", sound={"codec": "pcm", "loudness_lufs": -5})
        found = measure_loudness(made.path, (Fraction(0), Fraction(8)))
        self.assertAlmostEqual(found.true_peak_dbtp, -1, delta=0.2)
        self.assertIn("peaks down", made.notes[0])

    def test_silence_has_no_loudness_to_bring_up(self) -> None:
        made = self.make(
            sounding((-200, 4)), wrapper="mov", sound={"codec": "pcm", "loudness_lufs": -20}
        )
        self.assertIn("silent", made.notes[0])
