"""Real exports of photographs, each damaged on purpose: the cause is found with its value, the
clean twin is silent, and no neighbouring cause is blamed.

Pictures: scikit-image's open samples. Coders: x264, x265 as the FFmpeg libraries carry them.
"""

import unittest
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np

from shapkeen.core.errors import UnreadableFileError, UsageError
from tests.builders import media
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import in_acts, shared_out
from tests.builders.media import HDR, LIGHT, MASTERED, SDR, X265, changed, padded, resized, write

EACH = [
    (photo, crf)
    for at, photo in enumerate(media.PHOTOS)
    for crf in (("14", "24") if at % 2 else ("24", "14"))
]
"""Every photograph at both, so ordered that a half has each photograph once."""
CHEAP = 6  # frames compared: enough for every measure here


def compare(master, export, **options):
    return compare_files(master, export, frames=CHEAP, **options)


def found(comparison) -> dict[str, dict]:
    return {cause.id: dict(cause.values) for cause in comparison.survival.causes}


class HealthyExports(unittest.TestCase):
    """A false alarm costs the editor a night: no cause on any photograph, coder or quality."""

    def test_sdr(self) -> None:
        for _, (photo, crf) in shared_out(EACH, 0):
            with self.subTest(photo=photo, crf=crf):
                coding = SDR.with_options(crf=crf, preset="veryfast")
                path = write(f"ok-sdr-{photo}-{crf}", media.sdr_planes(photo), coding)
                made = compare(media.sdr_master(photo), path)
                self.assertEqual(found(made), {})
                self.assertIn(made.survival.overall, ("kept", "unproven"))

    def test_hdr(self) -> None:
        for _, photo in shared_out(media.PHOTOS, 0):
            with self.subTest(photo=photo):
                path = write(f"ok-hdr-{photo}", media.hdr_planes(photo), HDR.with_options(crf="20"))
                self.assertEqual(found(compare(media.hdr_master(photo), path)), {})

    @in_acts
    def test_to_eight_bits_with_dither(self) -> None:
        chance = np.random.default_rng(1)
        planes = [
            tuple(np.clip(np.floor(p / 4 + chance.random(p.shape)), 0, 255) for p in item)
            for item in media.sdr_planes("astronaut", depth=10)
        ]
        master = write(
            "ten",
            media.sdr_planes("astronaut", depth=10),
            replace(SDR.with_options(crf="4"), pix_fmt="yuv420p10le"),
        )
        made = compare(master, write("dithered", planes, SDR))
        self.assertEqual(found(made), {})
        self.assertEqual(made.survival.overall, "kept")

    def test_from_422(self) -> None:
        master = write(
            "rich",
            media.sdr_planes("coffee", depth=10, chroma="4:2:2"),
            replace(SDR.with_options(crf="4"), pix_fmt="yuv422p10le", ending=".mov"),
        )
        made = compare(master, write("plain", media.sdr_planes("coffee"), SDR))
        self.assertEqual(found(made), {})


class LightDamage(unittest.TestCase):
    def sdr(self, name: str, coding=SDR, **change):
        return compare(
            media.sdr_master("astronaut"),
            write(name, changed(media.sdr_planes("astronaut"), **change), coding),
        )

    def test_range_compressed_and_expanded(self) -> None:
        self.assertEqual(
            list(
                found(
                    self.sdr(
                        "rc",
                        luma=lambda y: 16 + y * 219 / 255,
                        chroma=lambda c: 128 + (c - 128) * 224 / 255,
                    )
                )
            ),
            ["range-compressed"],
        )
        self.assertEqual(
            list(
                found(
                    self.sdr(
                        "re",
                        luma=lambda y: (y - 16) * 255 / 219,
                        chroma=lambda c: 128 + (c - 128) * 255 / 224,
                    )
                )
            ),
            ["range-expanded"],
        )

    @in_acts
    def test_range_expanded_and_flagged_is_harmless(self) -> None:
        made = self.sdr(
            "ref",
            replace(SDR, colour=(1, 1, 1, 2)),
            luma=lambda y: (y - 16) * 255 / 219,
            chroma=lambda c: 128 + (c - 128) * 255 / 224,
        )
        self.assertEqual(found(made), {})
        self.assertEqual(made.survival.overall, "bent")

    def test_power_laws(self) -> None:
        for exponent in (2.2 / 2.4, 2.4 / 2.2, 1.25):
            made = self.sdr(
                f"g{exponent:.2f}",
                luma=lambda y, e=exponent: 16 + 219 * np.clip((y - 16) / 219, 0, 1.1) ** e,
            )
            self.assertEqual(list(found(made)), ["gamma-shifted"])
            self.assertAlmostEqual(found(made)["gamma-shifted"]["exponent"], exponent, delta=0.01)

    @in_acts
    def test_power_law_under_heavy_grain(self) -> None:
        chance = np.random.default_rng(3)
        grain = [
            tuple(np.clip(p + np.round(chance.normal(0, 6, p.shape)), 0, 255) for p in item)
            for item in media.sdr_planes("astronaut")
        ]
        master = write("grain", grain, SDR.with_options(crf="4"))
        clean = compare(master, write("grain-ok", grain, SDR.with_options(crf="18")))
        self.assertEqual(found(clean), {})
        darker = changed(grain, luma=lambda y: 16 + 219 * np.clip((y - 16) / 219, 0, 1.1) ** 1.15)
        made = compare(master, write("grain-dark", darker, SDR))
        self.assertAlmostEqual(found(made)["gamma-shifted"]["exponent"], 1.15, delta=0.01)

    def test_depth_reduced_in_a_lossless_export(self) -> None:
        lossless = HDR.with_options(**{"x265-params": f"{X265}{MASTERED}{LIGHT}:lossless=1"})
        planes = changed(media.hdr_planes("coffee"), luma=lambda y: 4 * np.floor(y / 4), top=1023)
        made = compare(media.hdr_master("coffee"), write("d8", planes, lossless))
        self.assertEqual(found(made)["depth-reduced"]["bits"], 8)
        clean = compare(
            media.hdr_master("coffee"), write("d10", media.hdr_planes("coffee"), lossless)
        )
        self.assertEqual(found(clean), {})

    def test_light_level(self) -> None:
        for light, name in (
            ("", "light-level-missing"),
            (":max-cll=300,60", "light-level-understated"),
        ):
            coding = HDR.with_options(**{"x265-params": f"{X265}{MASTERED}{light}"})
            made = compare(
                media.hdr_master(), write(f"ll-{name}", media.hdr_planes("coffee"), coding)
            )
            self.assertEqual(list(found(made)), [name])


class TagDamage(unittest.TestCase):
    def test_missing_wrong_and_in_conflict(self) -> None:
        for colour, codec, expected in (
            (None, "libx264", "tag-missing"),
            ((9, 1, 9, 1), "libx264", "tag-wrong"),
        ):
            coding = replace(SDR, colour=colour, codec=codec)
            made = compare(
                media.sdr_master(), write(f"t-{expected}", media.sdr_planes("coffee"), coding)
            )
            self.assertEqual(list(found(made)), [expected])
        coding = replace(HDR, colour=(9, 1, 9, 1))
        made = compare(media.hdr_master(), write("conflict", media.hdr_planes("coffee"), coding))
        self.assertEqual(found(made)["tag-conflict"]["wrapper"], 1)

    def test_wrong_tag_is_proven_by_the_picture(self) -> None:
        coding = replace(SDR, colour=(1, 16, 1, 1))
        made = compare(media.sdr_master(), write("wrongpq", media.sdr_planes("coffee"), coding))
        cause = made.survival.causes[0]
        self.assertEqual((cause.id, cause.strength), ("tag-wrong", 0.98))


def weave(first: np.ndarray, second: np.ndarray) -> np.ndarray:
    """Return a frame with its even lines of one moment and its odd lines of the next."""
    made = first.copy()
    made[1::2] = second[1::2]
    return made


class ShapeDamage(unittest.TestCase):
    MASTER = Fraction(4, 3)

    def test_squeeze(self) -> None:
        planes = media.sdr_planes("coffee")
        wide = resized(planes, 852, 360)
        for name, pictures, coding, expected in (
            ("sq-ok", planes, replace(SDR, aspect=self.MASTER), {}),
            ("sq-gone", planes, SDR, {"squeeze-unflagged": 0.75}),
            ("sq-twice", wide, replace(SDR, aspect=self.MASTER), {"squeeze-doubled": 4 / 3}),
            ("sq-square", wide, replace(SDR, aspect=Fraction(1)), {}),
        ):
            made = compare(media.sdr_master("coffee", self.MASTER), write(name, pictures, coding))
            ratios = {k: v["ratio"] for k, v in found(made).items()}
            self.assertEqual(set(ratios), set(expected), name)
            for cause, ratio in expected.items():
                self.assertAlmostEqual(ratios[cause], ratio, delta=0.005)

    @in_acts
    def test_stretched(self) -> None:
        made = compare(
            media.sdr_master("rocket"), write("st", resized(media.sdr_planes("rocket"), 480, 360))
        )
        self.assertAlmostEqual(found(made)["stretched"]["ratio"], 0.75, delta=0.003)
        self.assertEqual(len(found(made)), 1)

    @in_acts
    def test_bars(self) -> None:
        for photo in ("coffee", "rocket"):
            planes = media.sdr_planes(photo)
            inside = resized(planes, 512, 288)
            for name, pictures, bars in (
                ("pillarboxed", padded(planes, left=80, right=80), (0, 0, 80, 80)),
                (
                    "windowboxed",
                    padded(inside, top=36, bottom=36, left=64, right=64),
                    (36, 36, 64, 64),
                ),
            ):
                made = compare(media.sdr_master(photo), write(f"{name}-{photo}", pictures))
                self.assertEqual(list(found(made)), [name])
                for side, count in zip(("top", "bottom", "left", "right"), bars, strict=True):
                    self.assertAlmostEqual(found(made)[name][side], count, delta=1)

    def test_letterboxed(self) -> None:
        tall = write(
            "tall",
            [
                tuple(p[:, w:-w] for p, w in zip(item, (120, 60, 60), strict=True))
                for item in media.sdr_planes("astronaut")
            ],
            replace(SDR.with_options(crf="4"), ending=".mov"),
        )  # 400×360
        planes = [
            tuple(p[:, w:-w] for p, w in zip(item, (120, 60, 60), strict=True))
            for item in media.sdr_planes("astronaut")
        ]
        made = compare(tall, write("lb", padded(planes, top=60, bottom=60)))
        self.assertEqual(list(found(made)), ["letterboxed"])
        self.assertAlmostEqual(found(made)["letterboxed"]["top"], 60, delta=1)

    def test_shifted(self) -> None:
        for photo, dx, dy in (("coffee", 16, 0), ("rocket", -24, 12)):
            drawn = []
            for item in media.sdr_planes(photo):
                moved = []
                for plane, part, black in zip(item, (1, 2, 2), (16, 128, 128), strict=True):
                    matrix = np.float32([[1, 0, dx / part], [0, 1, dy / part]])
                    size = plane.shape[::-1]
                    moved.append(cv2.warpAffine(plane, matrix, size, borderValue=black))
                drawn.append(tuple(moved))
            made = compare(media.sdr_master(photo), write(f"shift-{photo}", drawn))
            self.assertEqual(list(found(made)), ["shifted"])
            self.assertAlmostEqual(found(made)["shifted"]["dx"], dx, delta=1)
            self.assertAlmostEqual(found(made)["shifted"]["dy"], dy, delta=1)

    def test_interlaced(self) -> None:
        for _, photo in shared_out(media.PHOTOS, 1):
            planes = media.sdr_planes(photo)
            woven = [
                tuple(weave(a, b) for a, b in zip(one, other, strict=True))
                for one, other in zip(planes, [*planes[1:], planes[-1]], strict=True)
            ]
            made = compare(media.sdr_master(photo), write(f"weave-{photo}", woven))
            with self.subTest(photo):
                self.assertEqual(list(found(made)), ["interlaced"], made.survey.combed)

    @in_acts
    def test_downscaled(self) -> None:
        made = compare(
            media.sdr_master("rocket"), write("dn", resized(media.sdr_planes("rocket"), 480, 270))
        )
        self.assertEqual(list(found(made)), ["downscaled"])


class TimeDamage(unittest.TestCase):
    def test_rate_relabelled(self) -> None:
        made = compare(
            media.sdr_master(),
            write("r25", media.sdr_planes("coffee"), replace(SDR, rate=Fraction(25))),
        )
        self.assertEqual(found(made), {"rate-changed": {"from": (24, 1), "to": (25, 1)}})

    def test_index_last(self) -> None:
        made = compare(
            media.sdr_master(), write("last", media.sdr_planes("coffee"), replace(SDR, flags=()))
        )
        self.assertEqual(list(found(made)), ["index-last"])
        self.assertEqual(made.survival.overall, "bent")

    def test_cut_start_is_aligned(self) -> None:
        planes = media.sdr_planes("astronaut")
        longer = write("longer", planes + planes[::-1], SDR.with_options(crf="4"))
        made = compare(longer, write("later", planes[3:] + planes[::-1]))
        self.assertEqual(made.survey.offset, 3)
        self.assertEqual(
            found(made), {"trimmed": {"count": 3, "at": "start", "start": 3, "end": 0}}
        )
        self.assertEqual({v.trait: v.verdict for v in made.survival.verdicts}["frames"], "bent")


class Pairs(unittest.TestCase):
    def test_no_frame_in_common(self) -> None:
        with self.assertRaises(UsageError) as caught:
            compare(media.sdr_master("coffee"), media.sdr_master("astronaut"))
        self.assertEqual(caught.exception.code, "no-common-frame")

    def test_black_pictures_are_unproven_not_an_error(self) -> None:
        black = [
            tuple(np.full_like(p, v) for p, v in zip(item, (16, 128, 128), strict=True))
            for item in media.sdr_planes("coffee")
        ]
        path = write("black", black)
        made = compare(path, path)
        self.assertEqual(found(made), {})
        self.assertEqual(made.survival.overall, "unproven")

    def test_one_frame(self) -> None:
        one = media.sdr_planes("coffee")[:1]
        made = compare(write("one-m", one, SDR.with_options(crf="4")), write("one-e", one))
        self.assertEqual(len(made.survey.pairs), 1)
        self.assertEqual(found(made), {})

    def test_damaged_picture_data(self) -> None:
        def ruin(data: bytes) -> bytes:
            start = data.index(b"mdat") + 4
            return data[:start] + bytes(len(data) - start)

        source = write("whole", media.sdr_planes("coffee"))
        with self.assertRaises(UnreadableFileError):
            compare(media.sdr_master(), media.patched(source, "ruined.mp4", ruin))

    def test_progress_is_told(self) -> None:
        told: list[tuple[int, int]] = []
        compare(media.sdr_master(), media.sdr_master(), progress=lambda d, t: told.append((d, t)))
        self.assertEqual(told[-1][0], told[-1][1])
        self.assertEqual(sorted(told), told)
