"""Detail: photographs injured by plain OpenCV, coded by x264, and named by the whole way.

At least 60 cases over all causes of fine structure; rates by cause are in docs/diagnosis.md.
"""

import unittest
from dataclasses import replace
from functools import lru_cache
from itertools import product
from pathlib import Path

import cv2
import numpy as np
from av.video.frame import VideoFrame

from shapkeen.core.promised import promise_from_json
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts, shared_out
from tests.builders.media import PHOTOS, SDR, coded, photo_frames, write

SIZE = (960, 540)
COUNT = 6


@lru_cache
def pictures(photo: str, size=SIZE) -> tuple:
    return tuple(coded(f, matrix=1, depth=8) for f in photo_frames(photo, size, COUNT))


def changed(photo: str, act) -> list:
    return [tuple(rounded(act(p.astype(np.float32))) for p in planes) for planes in pictures(photo)]


def rounded(plane: np.ndarray) -> np.ndarray:
    return np.clip(np.floor(plane + 0.5), 0, 255).astype(np.uint8)


def blurred(sigma: float):
    return lambda p: cv2.GaussianBlur(p, (0, 0), sigma * p.shape[1] / SIZE[0])


def sharpened(sigma: float, amount: float):
    return lambda p: p + amount * (p - cv2.GaussianBlur(p, (0, 0), sigma))


def resized(plane: np.ndarray, scale: float, way: int) -> np.ndarray:
    size = (round(plane.shape[1] * scale), round(plane.shape[0] * scale))
    return cv2.resize(plane, size, interpolation=cv2.INTER_AREA if scale < 1 else way)


def shrunk(share: float, way: int):
    return lambda p: cv2.resize(resized(p, share, way), p.shape[::-1], interpolation=way)


CASES = (
    ("softened", blurred(0.8), "16", {}),
    ("softened", blurred(1.4), "20", {}),
    ("oversharpened", sharpened(1.0, 0.8), "16", {}),
    ("oversharpened", sharpened(1.5, 1.2), "20", {}),
    ("detail-below-raster", shrunk(0.5, cv2.INTER_CUBIC), "16", {"width": 480, "height": 270}),
    ("detail-below-raster", shrunk(2 / 3, cv2.INTER_LANCZOS4), "20", {"width": 640, "height": 360}),
    ("detail-below-raster", shrunk(0.75, cv2.INTER_CUBIC), "16", {"width": 720, "height": 405}),
    ("upscale-nearest", shrunk(0.5, cv2.INTER_NEAREST), "18", {"ratio": 2.0}),
    ("generation-loss", lambda p: p, "40", {}),
    ("upscale-noninteger", lambda p: resized(p, 4 / 3, cv2.INTER_CUBIC), "18", {"ratio": 1.333}),
    ("upscale-nearest", lambda p: resized(p, 2, cv2.INTER_NEAREST), "18", {"ratio": 2.0}),
    ("detail-below-raster", lambda p: resized(p, 2, cv2.INTER_CUBIC), "18", {"width": 960}),
)
HEALTHY = (("14", "medium"), ("20", "veryfast"), ("24", "veryfast"))


def compare(photo: str, name: str, drawn, crf: str, promise: str = "", preset: str = "veryfast"):
    master = write(f"detail-{photo}-m", pictures(photo), SDR.with_options(crf="6"))
    export = write(f"detail-{photo}-{name}", drawn, SDR.with_options(crf=crf, preset=preset))
    overrides = promise_from_json(promise, origin="this test") if promise else None
    return compare_files(Path(master), Path(export), frames=4, workers=1, overrides=overrides)


SILENT = {("chelsea", 1), ("chelsea", 5), ("chelsea", 6)}
"""A soft blur of a soft picture, coded at CRF 20: a smaller picture would look like it; and this
picture, enlarged twice over, taken from 2/3 and 3/4: coding alone leaves as much."""
NAMED_OTHERWISE = {("chelsea", 10): ["detail-below-raster"]}
"""Fur whose samples were repeated: taken for an enlargement by a whole ratio."""


class Photograph:
    """Acts on one photograph: a class each, so that they run beside each other.

    share: which quarter of the acts is tried on it, so that each is tried on one photograph (`make
    acts`: on all).
    """

    photo: str
    share: int

    def test_injuries_are_named(self) -> None:
        for number, (cause, act, crf, values) in shared_out(CASES, self.share, 4):
            made = compare(self.photo, f"{number}", changed(self.photo, act), crf)
            found = {c.id: c.values for c in made.survival.causes}
            case = (self.photo, number)
            named = [] if case in SILENT else NAMED_OTHERWISE.get(case, [cause])
            with self.subTest(cause, number=number):
                self.assertEqual(list(found), named)
                for key, value in values.items() if cause in found else ():
                    self.assertAlmostEqual(found[cause][key] / value, 1, delta=0.08)

    def test_healthy_exports_have_no_cause(self) -> None:
        for _, (crf, preset) in shared_out(HEALTHY, self.share):
            made = compare(self.photo, f"h{crf}", pictures(self.photo), crf, preset=preset)
            with self.subTest(crf=crf):
                self.assertEqual([c.id for c in made.survival.causes], [])
                verdicts = {v.trait: v.verdict for v in made.survival.verdicts}
                self.assertEqual(verdicts["detail"], "kept")


class Astronaut(Photograph, unittest.TestCase):
    photo, share = "astronaut", 0


class Coffee(Photograph, unittest.TestCase):
    photo, share = "coffee", 1


class Chelsea(Photograph, unittest.TestCase):
    photo, share = "chelsea", 2


class Rocket(Photograph, unittest.TestCase):
    photo, share = "rocket", 3


class DetailActs(unittest.TestCase):
    def test_noise_that_an_encoder_filters_is_no_smaller_raster(self) -> None:
        # AV1 encoders smooth over time before they code: what is left ends at a cliff, too
        filtering = replace(SDR, codec="libsvtav1", options=(("preset", "8"), ("crf", "27")))
        for _, photo in shared_out(PHOTOS, 0):
            master = write(f"detail-{photo}-m", pictures(photo), SDR.with_options(crf="6"))
            export = write(f"detail-{photo}-av1", pictures(photo), filtering)
            with self.subTest(photo):
                made = compare_files(master, export, frames=4)
                self.assertEqual([c.id for c in made.survival.causes], [])

    @in_acts
    def test_smooth_pictures_that_crawl_are_coding_damage(self) -> None:
        # nothing fine to lose, and likeness stays high: only even places tell
        for photo, worst, codec in (("coffee", "51", "libx264"), ("chelsea", "63", "libsvtav1")):
            smooth = changed(photo, blurred(6.0))
            master = write("detail-smooth-m", smooth, SDR.with_options(crf="4"))
            coding = SDR if codec == "libx264" else replace(SDR, codec=codec, options=())
            for crf, causes in (("24", []), (worst, ["generation-loss"])):
                preset = "veryfast" if codec == "libx264" else "8"
                path = write("detail-smooth", smooth, coding.with_options(crf=crf, preset=preset))
                with self.subTest(photo, crf=crf):
                    found = compare_files(master, path, frames=4)
                    self.assertEqual([c.id for c in found.survival.causes], causes)

    def test_frames_out_of_step_in_a_slow_pan_are_no_coding_damage(self) -> None:
        frames = [coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (640, 360), 24)]
        twice = [frames[n] for n in (*range(11), 10, *range(11, 24))]
        master = write("detail-step-m", frames, SDR.with_options(crf="6"))
        export = write("detail-step", twice, SDR.with_options(crf="20", preset="veryfast"))
        found = compare_files(master, export, frames=8)
        names = {cause.id for cause in found.survival.causes}
        self.assertFalse(names & {"generation-loss", "softened", "detail-below-raster"}, names)

    def test_a_promised_enlargement_is_kept(self) -> None:
        wanted = (
            '{"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [1920, 1080], '
            '"from": [960, 540]}}}'
        )
        for way, verdict in ((cv2.INTER_LANCZOS4, "kept"), (cv2.INTER_NEAREST, "lost")):
            drawn = changed("astronaut", lambda p, w=way: resized(p, 2, w))
            made = compare("astronaut", f"promised{way}", drawn, "16", promise=wanted)
            verdicts = {v.trait: v.verdict for v in made.survival.verdicts}
            self.assertEqual((verdicts["raster"], verdicts["detail"]), ("kept", verdict))
            causes = [] if verdict == "kept" else ["upscale-nearest"]
            self.assertEqual([c.id for c in made.survival.causes], causes)

    def test_other_sizes_are_no_matter_of_sharpness(self) -> None:
        # scalers differ: FFmpeg's own, sharp and soft, as deliveries and widened pictures have them
        kernels, sizes = ("LANCZOS", "BICUBIC", "AREA", "BILINEAR"), ((640, 360), (1280, 540))
        for _, (kernel, size, crf) in shared_out([*product(kernels, sizes, ("16", "24"))], 0, 6):
            drawn = [by_ffmpeg(planes, size, kernel) for planes in pictures("rocket")]
            made = compare("rocket", f"{kernel}-{size[0]}-{crf}", drawn, crf)
            with self.subTest(kernel, size=size, crf=crf):
                causes = ["downscaled"] if size == (640, 360) else ["stretched"]
                self.assertEqual([c.id for c in made.survival.causes], causes)
                verdicts = {v.trait: v.verdict for v in made.survival.verdicts}
                self.assertIn(verdicts["detail"], ("kept", "unproven"))

    def test_an_enlargement_softer_than_any_kernel_is_not_kept(self) -> None:
        wanted = (
            '{"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [1920, 1080], '
            '"from": [960, 540]}}}'
        )
        soft = changed(
            "rocket", lambda p: cv2.GaussianBlur(resized(p, 2, cv2.INTER_CUBIC), (0, 0), 5)
        )
        made = compare("rocket", "promised-soft", soft, "16", promise=wanted)
        verdicts = {v.trait: v.verdict for v in made.survival.verdicts}
        self.assertEqual(verdicts["detail"], "unproven")


def by_ffmpeg(planes, size: tuple[int, int], kernel: str) -> tuple:
    """Return the picture scaled by the FFmpeg libraries."""
    width = planes[0].shape[1]
    stacked = np.concatenate([plane.reshape(-1, width) for plane in planes])
    frame = VideoFrame.from_ndarray(stacked.astype(np.uint8), format="yuv420p")
    made = frame.reformat(*size, interpolation=kernel).to_ndarray()
    area, quarter = size[0] * size[1], size[0] * size[1] // 4
    flat, half = made.ravel(), (size[1] // 2, size[0] // 2)
    return (
        flat[:area].reshape(size[1], size[0]),
        flat[area : area + quarter].reshape(half),
        flat[area + quarter :].reshape(half),
    )
