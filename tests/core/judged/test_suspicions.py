"""What an export alone is suspected of: by its headers, and by pictures that other code injured.

Photographs: scikit-image's open samples; acts: plain NumPy and OpenCV. All kinds with their rates:
`make suspicions`.
"""

import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from shapkeen.core.compared.alone import look_at_file
from shapkeen.core.judged.suspicions import suspicions
from shapkeen.core.measured import Damage
from tests.builders import media
from tests.builders.boxes import flagged
from tests.builders.evidence import LIGHT, WHOLE, declaration
from tests.builders.eyes import eyes_frames, packed
from tests.builders.media import HDR, SDR, padded, write
from tests.builders.spheres import sphere_planes
from tests.core.judged.test_damage import weave


def raised(path: Path) -> set[str]:
    return {one.cause for one in look_at_file(path).suspicions}


def told(whole=None, **declared) -> set[str]:
    return {one.cause for one in suspicions(None, whole, declaration(**declared))}


class Headers(unittest.TestCase):
    def test_healthy_ones_raise_nothing(self) -> None:
        self.assertEqual(told(WHOLE), set())

    def test_what_headers_show(self) -> None:
        self.assertEqual(told(index_first=False), {"index-last"})
        self.assertEqual(told(both={"transfer": None}), {"tag-missing"})
        self.assertEqual(told(stream={"matrix": 1}), {"tag-conflict"})
        self.assertEqual(told(both={"content_light": None}), {"light-level-missing"})

    def test_what_every_frame_shows(self) -> None:
        bright = replace(WHOLE, light=replace(LIGHT, p999=4000.0))
        self.assertEqual(told(bright), {"light-level-wrong"})
        broken = replace(WHOLE, damage=Damage(count=2, first=7, stretches=((0, 11),)))
        self.assertEqual(told(broken), {"stream-damaged"})


class Pictures(unittest.TestCase):
    def planes(self, photo: str = "coffee") -> list:
        return media.sdr_planes(photo)

    def test_healthy_ones_raise_nothing(self) -> None:
        for photo in ("coffee", "astronaut"):
            for crf in ("16", "24"):
                path = write("alone-ok", self.planes(photo), SDR.with_options(crf=crf))
                with self.subTest(photo=photo, crf=crf):
                    self.assertEqual(raised(path), set())

    def test_bars_fields_and_repeats(self) -> None:
        planes = self.planes()
        woven = [
            tuple(weave(a, b) for a, b in zip(one, two, strict=True))
            for one, two in zip(planes, [*planes[1:], planes[-1]], strict=True)
        ]
        held = [*planes[:6], planes[5], *planes[6:]]
        for cause, made in (
            ("letterboxed", padded(planes, top=44, bottom=44)),
            ("interlaced", woven),
            ("frames-repeated", held),
        ):
            with self.subTest(cause):
                self.assertEqual(raised(write("alone", made, SDR)), {cause})

    def test_range_and_size(self) -> None:
        def stretched(plane: np.ndarray, about: int, by: float) -> np.ndarray:
            moved = about + (plane.astype(np.float64) - about) * by
            return np.clip(np.round(moved), 0, 255).astype(np.uint16)

        wide = [
            (stretched(y - 16, 0, 255 / 219), *(stretched(c, 128, 255 / 224) for c in rest))
            for y, *rest in ((y.astype(np.int32), *rest) for y, *rest in self.planes())
        ]
        self.assertEqual(raised(write("alone", wide, SDR)), {"range-expanded"})
        halved = media.changed(self.planes(), luma=twice, chroma=lambda c: c)
        self.assertEqual(raised(write("alone", halved, SDR)), {"upscale-nearest"})

    def test_missing_bits(self) -> None:
        ten = [tuple((p >> 2) << 2 for p in item) for item in media.sdr_planes("coffee", depth=10)]
        cut = replace(media.LOSSLESS, pix_fmt="yuv420p10le", colour=(1, 1, 1, 1))
        self.assertIn("depth-reduced", raised(write("alone", ten, cut)))

    def test_spheres_and_eyes(self) -> None:
        sphere, eyes = sphere_planes(), packed(eyes_frames("coffee"))
        self.assertEqual(raised(write("alone", sphere, SDR)), {"sphere-unflagged"})
        self.assertEqual(raised(write("alone", eyes, SDR)), {"stereo-unflagged"})
        whole = {"projection": "equirectangular"}
        self.assertEqual(raised(flagged(write("alone", sphere, SDR), **whole)), set())
        beside = {"stereo": "right-left"}  # which is the left one, no picture alone can tell
        self.assertEqual(raised(flagged(write("alone", eyes, SDR), **beside)), set())
        stacked = {"stereo": "top-bottom"}
        found = raised(flagged(write("alone", eyes, SDR), **stacked))
        self.assertEqual(found, {"stereo-misflagged"})

    def test_light_under_the_wrong_tags(self) -> None:
        tagged = replace(SDR, colour=HDR.colour)
        self.assertIn("tag-wrong", raised(write("alone", self.planes("astronaut"), tagged)))


def twice(plane: np.ndarray) -> np.ndarray:
    """Return a plane at half the size, its samples repeated."""
    small = cv2.resize(plane.astype(np.float32), None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    return np.repeat(np.repeat(small, 2, axis=0), 2, axis=1)
