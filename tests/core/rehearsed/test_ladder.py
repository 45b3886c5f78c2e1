"""The ladder: which renditions, from which moments, really coded, and how they suffer."""

import shutil
import subprocess
import tempfile
import unittest
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from skimage import data

from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import plan_reading
from shapkeen.core.measured import Source
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.metrics import quick_likeness
from shapkeen.core.promised import Promise, Promised
from shapkeen.core.rehearsed.ladder import plan_ladder
from shapkeen.core.rehearsed.ladder.coding import Settings, code, frames_of
from shapkeen.core.rehearsed.ladder.excerpts import Sight, choose_excerpts, moments_of, numbers_of
from shapkeen.core.rehearsed.ladder.figures import banding, detail_left
from shapkeen.core.rehearsed.ladder.making import file_name, passages_of
from shapkeen.core.rehearsed.ladder.through_service import BT709, turned
from shapkeen.core.rehearsed.ladder.through_service import changed as changed_planes
from shapkeen.core.rehearsed.received import recognise
from shapkeen.core.rehearsed.rehearsal import arrive, rehearse, sent_of
from shapkeen.core.rehearsed.stand_in import PictureChanges, StandIn, stand_in_named
from tests.builders import media
from tests.builders.evidence import declaration

FFMPEG = shutil.which("ffmpeg")
SDR = {"transfer": 1, "primaries": 1, "matrix": 1, "bit_depth": 8}


def planned(service: str, raster: tuple[int, int], **said) -> list[tuple[str, tuple[int, int]]]:
    declared = declaration(both={"raster": raster, **said})
    stand_in = stand_in_named(service)
    plans = plan_ladder(declared, stand_in, recognise(declared, stand_in))
    return [(plan.name, plan.raster) for plan in plans]


class Plans(unittest.TestCase):
    def test_rasters_by_arithmetic(self) -> None:
        club, shorts = "tidewater-club", "foghorn-shorts"
        for service, raster, said, wanted in (
            (
                club,
                (1920, 1080),
                SDR,
                [("360 SDR", (640, 360)), ("720 SDR", (1280, 720)), ("1080 SDR", (1920, 1080))],
            ),
            # 2.39:1 is fitted into 16:9: 1280 × 536, and is on the steps that its width fills.
            (club, (1920, 804), SDR, [("360 SDR", (640, 268)), ("720 SDR", (1280, 536))]),
            (club, (720, 1280), SDR, [("360 SDR", (360, 640)), ("720 SDR", (720, 1280))]),
            # 1440 × 1080 of 4:3 samples is shown 1920 wide; square samples are made of it.
            (club, (1440, 1080), SDR | {"pixel_aspect": (4, 3)}, [("360 SDR", (640, 360))]),
            # 4:5 of 1920 × 1080: 864 wide; no step of 1080 columns can be filled without enlarging.
            (shorts, (1920, 1080), SDR, [("480 SDR", (480, 600)), ("720 SDR", (720, 900))]),
            (shorts, (1080, 1350), SDR, [("480 SDR", (480, 600)), ("720 SDR", (720, 900))]),
            # Smaller than every step: its own size, and its own name.
            (club, (426, 240), SDR, [("240 SDR", (426, 240))]),
        ):
            with self.subTest(service, raster=raster):
                self.assertEqual(planned(service, raster, **said)[: len(wanted)], wanted)

    def test_a_better_codec_is_for_pictures_of_more_lines(self) -> None:
        names = [name for name, _ in planned("breakwater-stream", (1920, 1080), **SDR)]
        self.assertEqual(names, ["360 SDR", "720 SDR", "1080 SDR"])
        declared = declaration(both={"raster": (3840, 2160), **SDR})
        stand_in = stand_in_named("breakwater-stream")
        plans = plan_ladder(declared, stand_in, recognise(declared, stand_in))
        alike = [plan for plan in plans if plan.name == "1080 SDR"]
        self.assertEqual({plan.rung.codec for plan in alike}, {"h264", "vp9"})
        self.assertEqual(len({file_name(plan) for plan in plans}), len(plans))

    def test_hdr_comes_last_and_only_where_it_is_recognised(self) -> None:
        plans = planned("tidewater-club", (1920, 1080))
        self.assertEqual([name for name, _ in plans][-2:], ["720 HDR", "1080 HDR"])
        odd = planned("tidewater-club", (1920, 1080), transfer=1)
        self.assertFalse(any("HDR" in name for name, _ in odd))

    def test_stages_are_counted_from_the_upload(self) -> None:
        declared = declaration(both=SDR)
        stand_in = stand_in_named("tidewater-club")
        plans = plan_ladder(declared, stand_in, recognise(declared, stand_in))
        # 2 s long: 120 + ½ · 2 at once, 900 + 2 · 2 in full.
        self.assertEqual([plan.arrives_s for plan in plans], [121.0, 904.0, 904.0])

    def test_a_frame_rate_limit_leaves_frames_out(self) -> None:
        declared = declaration(both=SDR | {"frame_rate": (60, 1)})
        stand_in = stand_in_named("foghorn-shorts")
        plans = plan_ladder(declared, stand_in, recognise(declared, stand_in))
        self.assertEqual({(plan.rate, plan.step) for plan in plans}, {(Fraction(30), 2)})


class Moments(unittest.TestCase):
    def test_each_kind_is_the_moment_that_it_names(self) -> None:
        calm = {"movement": 1.0, "detail": 2.0, "bright": 150.0, "mean": 90.0, "spread": 40.0}
        sights = [Sight(frame=i, **calm) for i in range(6)]
        sights[1] = replace(sights[1], movement=9.0, detail=8.0)
        sights[2] = replace(sights[2], bright=235.0)
        sights[3] = replace(sights[3], mean=20.0)
        sights[4] = replace(sights[4], mean=16.0, spread=0.2)  # black shows nothing
        found = moments_of(sights)
        self.assertEqual((found["hardest"], found["brightest"], found["darkest"]), (1, 2, 3))
        self.assertIn(found["typical"], (0, 5))

    def test_a_short_film_is_one_excerpt_and_numbers_rise(self) -> None:
        path = media.sdr_master()
        source = Source(path, plan_reading(read_declaration(path)))
        (one,) = choose_excerpts(source, media.FRAMES)
        self.assertEqual((one.first, one.end), (0, media.FRAMES))
        self.assertEqual(numbers_of([one], 3), [0, 3, 6, 9])
        with self.assertRaises(ValueError):
            numbers_of([one, one])


class Figures(unittest.TestCase):
    def test_detail_ends_where_a_blur_of_known_width_halves_it(self) -> None:
        # A Gaussian of sigma s passes exp(-2 π² s² f²): half at f = √(ln 2 ÷ 2) ÷ (π s) cycles.
        plane = data.brick().astype(np.float32) * 4
        for sigma in (1.0, 1.5, 2.5):
            with self.subTest(sigma):
                found = detail_left([(plane, cv2.GaussianBlur(plane, (0, 0), sigma))])
                half = np.sqrt(np.log(2) / 2) / (np.pi * sigma)
                self.assertAlmostEqual(found.left, 2 * half, delta=0.05)
        found = detail_left([(plane, plane)])
        self.assertEqual((found.left, found.kept), (found.most, 1.0))
        noisy = plane + np.random.default_rng(3).normal(0, 30, plane.shape).astype(np.float32)
        self.assertGreater(detail_left([(plane, noisy)]).kept, 0.9)
        self.assertIsNone(detail_left([(np.full((128, 128), 500.0, np.float32),) * 2]))

    def test_steps_are_found_in_gradients_and_nowhere_else(self) -> None:
        ramp = np.linspace(100, 400, 1600, dtype=np.float32)[None].repeat(400, axis=0)
        grain = np.random.default_rng(1).normal(0, 2, ramp.shape).astype(np.float32)
        self.assertEqual(banding(ramp + grain, ramp + grain), 0.0)
        eight = np.round((ramp + grain) / 4) * 4  # grain hides the steps of 8 bits
        self.assertLess(banding(ramp + grain, eight), 0.02)
        coarse = np.round(ramp / 16) * 16
        self.assertGreater(banding(ramp + grain, coarse), 0.6)
        texture = data.brick().astype(np.float32) * 4
        self.assertIsNone(banding(texture, texture))


def with_folder(case: unittest.TestCase) -> Path:
    folder = tempfile.TemporaryDirectory()
    case.addCleanup(folder.cleanup)
    return Path(folder.name)


def lossless(path: Path, kind: str, size: tuple[int, int]) -> None:
    """Write a moving photograph without loss, of any format of samples and any size."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("ffv1", 24)
        stream.width, stream.height = size
        stream.pix_fmt = kind
        for picture in media.photo_frames("coffee", size, 6):
            codes = np.round(picture * 255).astype(np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(codes, format="rgb24")))
        out.mux(stream.encode(None))


def changed(service: str, **more) -> StandIn:
    return replace(stand_in_named(service), **more)


class Made(unittest.TestCase):
    def test_renditions_come_out_as_planned_and_are_made_once(self) -> None:
        folder, path = with_folder(self), media.hdr_master()
        club = stand_in_named("tidewater-club")
        first = rehearse(path, club, folder)
        self.assertTrue(first.arrival.is_right)
        for one in first.renditions:
            with self.subTest(one.plan.name):
                said = read_declaration(one.source.path)
                self.assertEqual(said.stream["raster"].value, one.plan.raster)
                wanted = (16, 9, 10) if one.plan.branch == "hdr" else (1, 1, 8)
                traits = ("transfer", "primaries", "bit_depth")
                self.assertEqual(tuple(said.stream[t].value for t in traits), wanted)
                self.assertEqual(said.video.frame_count, len(one.numbers))
                self.assertGreater(one.figures.ssim, 0.9)
                self.assertLess(one.figures.delta_e, 4)
        stamps = {path: path.stat().st_mtime_ns for path in folder.iterdir()}
        again = rehearse(path, club, folder)
        self.assertEqual({path: path.stat().st_mtime_ns for path in folder.iterdir()}, stamps)
        self.assertEqual(
            [one.figures for one in again.renditions], [one.figures for one in first.renditions]
        )

    def test_hdr_that_is_taken_for_sdr_comes_out_milky(self) -> None:
        # trade fact (common practice, no source): PQ codes shown as SDR look flat and grey
        folder, path = with_folder(self), media.hdr_master()
        deaf = changed("foghorn-shorts", takes=stand_in_named("tidewater-club").takes)
        found = rehearse(path, deaf, folder)
        self.assertEqual(found.arrival.recognition.wrong[0].trait, "transfer")
        self.assertGreater(found.renditions[0].figures.delta_e, 5)

    def test_an_offline_player_shows_the_file_itself(self) -> None:
        folder, path = with_folder(self), media.sdr_master()
        sign = stand_in_named("mole-signage")
        sign = replace(sign, takes=stand_in_named("tidewater-club").takes)
        (one,) = rehearse(path, sign, folder).renditions
        self.assertEqual((one.source.path, one.plan.raster), (path, media.SIZE))
        self.assertGreater(one.figures.ssim, 0.999)

    def test_a_refused_file_has_no_renditions(self) -> None:
        found = rehearse(media.sdr_master(), stand_in_named("beacon-broadcast"), with_folder(self))
        self.assertEqual((found.renditions, found.excerpts), ((), ()))

    def test_what_a_service_does_to_a_picture(self) -> None:
        random = np.random.default_rng(2)
        edge = np.repeat(np.array([60, 180], np.uint8), 40)[None].repeat(60, axis=0)
        noisy = np.clip(edge + random.normal(0, 2, edge.shape), 16, 235).astype(np.uint8)
        half = np.full((30, 40), 128, np.uint8)
        even = changed_planes((noisy, half, half), 8, PictureChanges(denoise=8.0))[0]
        self.assertLess(even[:, :30].std(), noisy[:, :30].std() / 1.5)
        self.assertGreater(int(even[30, 45]) - int(even[30, 35]), 100)  # edges stay
        sharp = changed_planes((edge, half, half), 8, PictureChanges(sharpen=1.0))[0]
        self.assertGreater(int(sharp.max()), 190)  # an unsharp mask overshoots at edges
        self.assertIs(changed_planes((edge, half, half), 8, PictureChanges())[0], edge)

    def test_odd_sizes_and_samplings_go_through(self) -> None:
        folder = with_folder(self)
        club = stand_in_named("tidewater-club")
        anything = replace(club.takes, codecs=("ffv1",), least_raster=None)
        for kind, size in (
            ("yuv444p", (321, 181)),
            ("yuv422p10le", (322, 181)),
            ("gray", (320, 180)),
        ):
            with self.subTest(kind):
                path, out = folder / f"{kind}.mkv", folder / kind
                out.mkdir()
                lossless(path, kind, size)
                (one,) = rehearse(path, replace(club, takes=anything), out).renditions
                for made, own in zip(one.plan.raster, size, strict=True):
                    self.assertEqual((made % 2, abs(made - own) <= 1), (0, True))
                self.assertGreater(one.figures.ssim, 0.9)

    def test_a_turn_that_is_believed_is_made(self) -> None:
        frame = Frame(
            number=0,
            depth=8,
            luma=np.arange(8, dtype=np.uint8).reshape(2, 4),
            cb=np.arange(4, dtype=np.uint8).reshape(2, 2),
            cr=np.arange(4, dtype=np.uint8).reshape(2, 2),
        )
        right = turned(frame, 90)
        self.assertEqual(right.luma.tolist(), [[4, 0], [5, 1], [6, 2], [7, 3]])
        self.assertEqual(right.cb.shape, (4, 2))  # 4:2:2 becomes 4:4:4
        self.assertEqual(turned(turned(right, 90), 180).luma.tolist(), frame.luma.tolist())

    def test_what_is_promised_and_not_said_is_what_it_should_look_like(self) -> None:
        path = media.sdr_master()
        promise = Promise(traits={"transfer": Promised(value=16, origin="test")})
        arrival = arrive(read_declaration(path), stand_in_named("tidewater-club"), promise)
        self.assertFalse(arrival.is_right)
        sent = sent_of(path, arrival, promise)
        self.assertEqual((sent.meant.transfer, sent.taken.transfer), (16, 1))


class ToneMaps(unittest.TestCase):
    def codes(self, sdr: dict, nits: list[float]) -> np.ndarray:
        """Return what grey of these lights becomes, as signals 0..1."""
        from shapkeen.core.colour import pq

        signal = np.repeat(pq.signal_from_light(nits), 64)[None].repeat(64, axis=0)
        luma = np.round(64 + signal * 876).astype(np.uint16)
        half = np.full((32, luma.shape[1] // 2), 512, np.uint16)
        frame = Frame(number=0, depth=10, luma=luma, cb=half, cr=half)
        declared = declaration(both={"raster": (luma.shape[1], 64)})
        base = stand_in_named("tidewater-club")
        stand_in = replace(
            base, sdr=replace(base.sdr, **sdr), picture=replace(base.picture, denoise=0)
        )
        arrival = arrive(declared, stand_in)
        (plan, *_) = plan_ladder(declared, stand_in, arrival.recognition)
        plan = replace(plan, raster=frame.raster, part=replace(plan.part))
        through, _ = passages_of(sent_of(Path("grey.mp4"), arrival, None), plan)
        made = through.planes(frame)[0]
        return (made[32, 32::64].astype(float) - 16) / 219

    def test_bt2446_method_a(self) -> None:
        # ITU-R BT.2446-1 section 4 (formulas from memory), 1000 to 100 cd/m², on grey.
        nits = [10.0, 100.0, 203.0, 600.0, 1000.0]
        hdr, sdr = (1 + 32 * (peak / 10_000) ** (1 / 2.4) for peak in (1000.0, 100.0))
        y = np.log(1 + (hdr - 1) * (np.array(nits) / 1000) ** (1 / 2.4)) / np.log(hdr)
        middle = -1.1510 * y**2 + 2.7811 * y - 0.6302
        curved = np.where(y <= 0.7399, 1.0770 * y, np.where(y < 0.9909, middle, 0.5 * y + 0.5))
        wanted = (sdr**curved - 1) / (sdr - 1)
        found = self.codes({"tone_map": "BT.2446", "white_nits": 100.0}, nits)
        np.testing.assert_allclose(found, wanted, atol=0.012)

    def test_bt2390_leaves_what_lies_below_its_knee(self) -> None:
        # ITU-R BT.2390-8 5.4.1: below the knee light stays; the source's peak becomes the goal's.
        found = self.codes({"tone_map": "BT.2390"}, [5.0, 20.0, 1000.0])
        np.testing.assert_allclose(found[:2] ** 2.4 * 203, [5.0, 20.0], rtol=0.05)
        self.assertAlmostEqual(found[2], 1.0, delta=0.005)

    def test_a_table_of_the_service_goes_before_any_curve(self) -> None:
        rows = "\n".join(f"{v} {v} {v}" for v in np.linspace(1, 0, 17))
        found = self.codes({"table": f"LUT_1D_SIZE 17\n{rows}\n"}, [0.0, 10_000.0])
        np.testing.assert_allclose(found, [1.0, 0.0], atol=0.01)


@unittest.skipIf(FFMPEG is None, "Debian's ffmpeg is not installed")
class OutsideEncoder(unittest.TestCase):
    """The same settings through the FFmpeg command line: an encoder that was started by others."""

    def test_renditions_are_as_good_as_the_command_lines(self) -> None:
        folder, path = with_folder(self), media.sdr_master("coffee")
        sent = sent_of(path, arrive(read_declaration(path), stand_in_named("tidewater-club")), None)
        for codec, library in (("h264", "libx264"), ("vp9", "libvpx-vp9")):
            with self.subTest(codec):
                settings = Settings(
                    codec=codec,
                    bit_rate=600_000,
                    raster=media.SIZE,
                    rate=Fraction(24),
                    depth=8,
                    coding=BT709,
                )
                ours, theirs = folder / f"{codec}.mp4", folder / f"{codec}-theirs.mp4"
                frames = list(range(media.FRAMES))
                code(((f.luma, f.cb, f.cr) for f in frames_of(sent.source, frames)), settings, ours)
                words = [w for k, v in settings.options.items() for w in (f"-{k}:v", v)]
                subprocess.run(
                    [FFMPEG, "-v", "error", "-i", path, "-c:v", library, *words, "-an", theirs],
                    check=True,
                )
                likeness = [self.likeness(sent.source, file) for file in (ours, theirs)]
                self.assertAlmostEqual(*likeness, delta=0.002)

    def likeness(self, master: Source, file: Path) -> float:
        made = Source(file, plan_reading(read_declaration(file)))
        numbers = list(range(media.FRAMES))
        pairs = zip(frames_of(master, numbers), frames_of(made, numbers), strict=True)
        return float(
            np.mean(
                [
                    quick_likeness(*(4 * f.luma.astype(np.float32) for f in pair))[0]
                    for pair in pairs
                ]
            )
        )
