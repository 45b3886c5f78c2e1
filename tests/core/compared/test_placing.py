"""Likeness of films and where files belong, on scikit-image's photographs (open data)."""

from functools import lru_cache
from pathlib import Path
from unittest import TestCase

import numpy as np
from scipy.stats import spearmanr

from shapkeen.core.colour import pq
from shapkeen.core.compared.likeness import ALIKE, likeness, marks_of
from shapkeen.core.compared.placing import EXPORT, MASTER, Came, Known, Proposal, propose
from shapkeen.core.declared import read_declaration
from tests.builders.media import HDR, LOSSLESS, SDR, changed, coded, padded, photo_frames, write

SIZE, COUNT = (320, 180), 10
PHOTOS = ("coffee", "chelsea", "rocket")


@lru_cache
def planes_of(photo: str) -> list:
    return [coded(frame, matrix=1, depth=8) for frame in photo_frames(photo, SIZE, COUNT)]


@lru_cache
def master_of(photo: str) -> Path:
    return write(f"{photo}-master", planes_of(photo), LOSSLESS)


def in_pq(photo: str) -> Path:
    """Return the photograph as PQ on a display of 600 cd/m², by its published curve."""
    light = [frame**2.4 * 600 for frame in photo_frames(photo, SIZE, COUNT)]
    signals = [pq.signal_from_light(one).astype(np.float32) for one in light]
    return write(f"{photo}-hdr", [coded(one, matrix=9, depth=10) for one in signals], HDR)


def exports_of(photo: str) -> dict[str, Path]:
    planes = planes_of(photo)
    lifted = changed(planes, luma=lambda code: 16 + (code - 16) * 0.6 + 40)
    return {
        "coded": write(f"{photo}-coded", planes, SDR.with_options(crf="34")),
        "lifted": write(f"{photo}-lifted", lifted),
        "bars": write(f"{photo}-bars", padded(planes, top=24, bottom=24)),
        "part": write(f"{photo}-part", planes[3:8]),
        "pq": in_pq(photo),
    }


def came(key: int, path: Path, name: str = "") -> Came:
    size = path.stat().st_size
    marks = marks_of(path)
    declared = read_declaration(path)
    return Came(key=key, name=name or path.name, size_bytes=size, declared=declared, marks=marks)


def title_of(key: int, photo: str, *deliveries: str) -> Known:
    path = master_of(photo)
    return Known(
        key=key,
        name=photo.title(),
        master_name=path.name,
        master_bytes=path.stat().st_size,
        deliveries=deliveries,
        marks=marks_of(path),
    )


def told(found: list[Proposal]) -> list[tuple]:
    return [(one.role, one.title, one.title_name, one.delivery) for one in found]


class Likeness(TestCase):
    def test_a_film_is_known_again_whatever_was_done_to_it(self) -> None:
        for photo in PHOTOS:
            own = marks_of(master_of(photo))
            for act, export in exports_of(photo).items():
                with self.subTest(photo=photo, act=act):
                    self.assertGreaterEqual(likeness(marks_of(export), own), ALIKE)

    def test_other_films_are_not_alike(self) -> None:
        marks = {photo: marks_of(master_of(photo)) for photo in PHOTOS}
        for photo in PHOTOS:
            for other in set(PHOTOS) - {photo}:
                self.assertLess(likeness(marks[photo], marks[other]), ALIKE - 0.1)

    def test_it_is_the_rank_correlation_of_single_frames(self) -> None:
        one, other = (marks_of(master_of(photo))[0] for photo in PHOTOS[:2])
        expected = spearmanr(one, other).statistic
        self.assertAlmostEqual(likeness((one,), (other,)), max(expected, 0), places=6)

    def test_black_tells_nothing(self) -> None:
        black = changed(planes_of("coffee"), luma=lambda code: code * 0 + 16)
        self.assertEqual(marks_of(write("black", black)), ())
        self.assertEqual(likeness((), marks_of(master_of("coffee"))), 0.0)


class Placing(TestCase):
    def test_exports_find_their_title_by_pictures_and_their_delivery_by_name(self) -> None:
        files = [
            came(1, exports_of("coffee")["coded"], "harbourlight_v3_hevc.mp4"),
            came(2, exports_of("rocket")["bars"], "out/rocket quayside 02.mp4"),
        ]
        known = [title_of(7, "coffee", "Harbourlight Premiere"), title_of(8, "rocket", "Mole")]
        found = propose(files, known)
        expected = [
            (EXPORT, 7, "Coffee", "Harbourlight Premiere"),
            (EXPORT, 8, "Rocket", "Quayside"),
        ]
        self.assertEqual(told(found), expected)
        self.assertIn("likeness", found[0].reason)

    def test_a_master_is_told_from_its_exports(self) -> None:
        files = [
            came(1, exports_of("coffee")["coded"], "dial_skerry.mp4"),
            came(2, master_of("coffee"), "dial_take7.mkv"),
            came(3, master_of("rocket"), "dial_tower_master.mkv"),
            came(4, exports_of("rocket")["lifted"], "tower_beacon.mp4"),
        ]
        expected = [
            (EXPORT, None, "Dial", "Skerry"),
            (MASTER, None, "Dial", ""),
            (MASTER, None, "Dial Tower", ""),
            (EXPORT, None, "Dial Tower", "Beacon"),
        ]
        self.assertEqual(told(propose(files, [])), expected)

    def test_the_master_itself_and_a_file_twice_are_not_brought_in_again(self) -> None:
        again = came(1, master_of("coffee"))
        (found,) = propose([again], [title_of(7, "coffee")])
        self.assertEqual((found.role, found.title), ("", 7))
        new = came(2, exports_of("rocket")["coded"], "a.mp4")
        twice = propose([new, came(3, exports_of("rocket")["coded"], "copy/a.mp4")], [])
        self.assertIn("twice", twice[1].reason)

    def test_who_fits_nowhere_is_left_and_a_name_alone_is_said_to_be_one(self) -> None:
        stray = came(1, exports_of("chelsea")["coded"], "unheard of.mp4")
        named = came(2, exports_of("chelsea")["coded"], "coffee_beacon.mp4")
        known = [title_of(7, "coffee")]
        self.assertEqual(propose([stray], known)[0].role, "")
        (found,) = propose([named], known)
        self.assertEqual((found.role, found.title, found.delivery), (EXPORT, 7, "Beacon"))
        self.assertIn("by its name only", found.reason)
