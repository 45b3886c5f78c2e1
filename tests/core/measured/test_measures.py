"""Single measures against worked examples, textbook values and pictures made for the purpose.

Worked examples: CTA-861.3-A (light levels), Wang et al. 2004 (SSIM; check values agree with
scikit-image 0.26), range arithmetic of ITU-R BT.2100-2 table 9.
"""

import unittest
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
from skimage.metrics import structural_similarity

from shapkeen.core.measured import Bars, Reading
from shapkeen.core.measured.alignment.place.bars import LineFinder, active_rect, find_bars
from shapkeen.core.measured.alignment.place.likeness import correlation
from shapkeen.core.measured.alignment.place.registration import register
from shapkeen.core.measured.alignment.place.turning import turned
from shapkeen.core.measured.alignment.time.pairing import best_offset, plan_pairs, signature
from shapkeen.core.measured.decoded.frames import Frame
from shapkeen.core.measured.decoded.grid import Rect, sample
from shapkeen.core.measured.decoded.metrics import ssim
from shapkeen.core.measured.detail.levels import depth_sums, depth_use
from shapkeen.core.measured.tone.acts import powered, squeezed, stretched
from shapkeen.core.measured.tone.blocks import flat_blocks
from shapkeen.core.measured.tone.curve import fit_tone
from tests.builders.media import coded, photo_frames

READING = Reading(full_range=False, transfer=16, matrix=9, rate=Fraction(24), frame_count=48)


def frame(luma: np.ndarray, *, cb=None, cr=None, depth: int = 10, number: int = 0) -> Frame:
    """Return a 4:4:4 frame of these codes; grey where no chroma is given."""
    kind = np.uint8 if depth == 8 else np.uint16
    grey = np.full(luma.shape, 128 << (depth - 8))
    planes = (luma, grey if cb is None else cb, grey if cr is None else cr)
    y, b, r = (plane.astype(kind) for plane in planes)
    return Frame(number=number, depth=depth, luma=y, cb=b, cr=r)


class EvenBars(unittest.TestCase):
    def picture(self, *, top=0, bottom=0, left=0, right=0, noise=0.0) -> Frame:
        chance = np.random.default_rng(3)
        luma = chance.integers(100, 800, (120, 160)).astype(float)
        luma[:top], luma[120 - bottom :] = 64, 64
        luma[:, :left], luma[:, 160 - right :] = 64, 64
        return frame(luma + chance.normal(0, noise, luma.shape))

    def found(self, *frames: Frame) -> Bars | None:
        finder = LineFinder()
        for one in frames:
            finder.add(one)
        return find_bars(finder.result())

    def test_bars_and_their_absence(self) -> None:
        for sides in ({}, {"top": 20, "bottom": 20}, {"left": 31, "right": 8}):
            self.assertEqual(self.found(self.picture(**sides)), Bars(**sides))
            self.assertEqual(self.found(self.picture(**sides, noise=0.7)), Bars(**sides))

    def test_one_frame_with_picture_there_contradicts(self) -> None:
        dark = self.picture(top=40, bottom=40)
        self.assertEqual(self.found(dark, self.picture(top=20)), Bars(top=20))

    def test_coloured_bars_are_bars_too(self) -> None:
        coloured = self.picture(top=20, bottom=20)
        luma = coloured.luma.copy()
        luma[:20], luma[100:] = 420, 420
        self.assertEqual(self.found(frame(luma.astype(float))), Bars(top=20, bottom=20))

    def test_what_was_blown_out_is_no_bar(self) -> None:
        white = self.picture(left=30)
        luma = white.luma.copy()
        luma[:, :30] = 940
        self.assertEqual(self.found(frame(luma.astype(float))), Bars())

    def test_dim_movement_beside_black_is_picture(self) -> None:
        # a night scene: near black at the edge, and something crosses there in one of the frames
        still, crossing = (self.picture(top=30).luma.astype(float) for _ in "ab")
        crossing[4:9, 40:60] = 64 + 40
        self.assertEqual(self.found(frame(still), frame(crossing)), Bars())

    def test_a_wall_that_fades_is_no_bar(self) -> None:
        ramp = np.clip(np.arange(160) - 20, 0, None)[None, :] * 2 + 64 + np.zeros((120, 1))
        self.assertEqual(self.found(frame(ramp)), Bars())

    def test_an_even_picture_tells_nothing(self) -> None:
        self.assertIsNone(self.found(frame(np.full((60, 80), 64))))

    def test_active_part(self) -> None:
        self.assertEqual(active_rect(Bars(top=20, left=40), (160, 100)), Rect(0.25, 0.2, 0.75, 0.8))


class Likeness(unittest.TestCase):
    def test_textbook_values(self) -> None:
        # tests and values: scikit-image 0.26, Gaussian window of sigma 1.5, population variance;
        # borders differ in one row, hence the tolerance
        a = np.add.outer(13 * np.arange(64), 7 * np.arange(64)) % 256
        b = np.minimum(a + 5, 255)
        ours = ssim(a.astype(np.float32) * 1023 / 255, b.astype(np.float32) * 1023 / 255)
        self.assertAlmostEqual(ours, 0.998629, delta=2e-4)

    def test_agrees_with_scikit_image(self) -> None:
        one, other = (f[..., 1] * 1023 for f in photo_frames("coffee")[:2])
        theirs = structural_similarity(
            one,
            other,
            data_range=1023,
            gaussian_weights=True,
            sigma=1.5,
            use_sample_covariance=False,
        )
        self.assertAlmostEqual(ssim(one, other), theirs, delta=1e-3)


class Acts(unittest.TestCase):
    def test_range_arithmetic(self) -> None:
        # black and white of full range land on those of limited range, and back
        ends = np.array([0.0, 1023.0])
        np.testing.assert_allclose(squeezed(ends), [64, 940])
        np.testing.assert_allclose(stretched(squeezed(ends)), ends)
        # full_to_limited_squeeze_twice, scaled from 8 bits: 16 → 29.74, 235 → 217.82
        np.testing.assert_allclose(squeezed(np.array([64.0])) / 4, [29.74], atol=0.1)

    def test_power_keeps_black_and_white(self) -> None:
        ends = np.array([64.0, 940.0])
        np.testing.assert_allclose(powered(ends, 1.3, full_range=False), ends)


class Tone(unittest.TestCase):
    def blocks(self, change, noise: float = 0.8):
        chance = np.random.default_rng(4)
        steps = np.repeat(np.repeat(np.linspace(80, 920, 32 * 18).reshape(18, 32), 32, 0), 32, 1)
        chroma = np.repeat(np.repeat(np.linspace(300, 700, 16 * 9).reshape(9, 16), 32, 0), 32, 1)
        expected = {"luma": steps, "cb": chroma, "cr": 1023 - chroma}
        delivered = {
            name: change(name, plane) + chance.normal(0, noise, plane.shape)
            for name, plane in expected.items()
        }
        as_real = [
            {k: v.astype(np.float32) for k, v in side.items()} for side in (expected, delivered)
        ]
        return flat_blocks(*as_real).chosen()

    def fit(self, change):
        found = fit_tone([self.blocks(change)], full_range=False)
        assert found is not None
        return found

    def test_identity(self) -> None:
        found = self.fit(lambda _name, plane: plane)
        self.assertLess(found.residual("identity"), 0.5)
        self.assertAlmostEqual(found.chroma_gain, 1.0, delta=0.01)

    def test_range_acts(self) -> None:
        for act, luma, gain in (
            ("range-compressed", squeezed, 896 / 1023),
            ("range-expanded", stretched, 1023 / 896),
        ):
            found = self.fit(
                lambda name, plane, luma=luma, gain=gain: (
                    luma(plane) if name == "luma" else 512 + (plane - 512) * gain
                )
            )
            self.assertEqual(found.fits[0].act, act)
            self.assertAlmostEqual(found.chroma_gain, gain, delta=0.01)

    def test_exponents(self) -> None:
        # the well-known pairs 2.4 ↔ 2.2 and 2.4 ↔ 1.96 (trade fact, common practice, no source)
        for exponent in (2.2 / 2.4, 2.4 / 2.2, 1.96 / 2.4, 2.4 / 1.96, 1.02):
            found = self.fit(
                lambda name, plane, e=exponent: (
                    powered(plane, e, full_range=False) if name == "luma" else plane
                )
            )
            self.assertEqual(found.fits[0].act, "gamma-shifted")
            self.assertAlmostEqual(found.fits[0].exponent, exponent, delta=0.003)

    def test_a_field_of_stars_tells_its_curve(self) -> None:
        """Its flat blocks are its black alone; uneven ones show which act moved the rest."""
        acts = {
            "identity": lambda luma: luma,
            "range-compressed": squeezed,
            "range-expanded": stretched,
            "gamma-shifted": lambda luma: powered(luma, 2.2 / 2.4, full_range=False),
        }
        chance = np.random.default_rng(6)
        frames = photo_frames("hubble_deep_field", (640, 360), 6)
        for name, act in acts.items():
            gathered = []
            for signal in frames:
                y, cb, cr = coded(signal, matrix=1, depth=10)
                expected = {"luma": y, "cb": cb, "cr": cr}
                expected = {k: plane.astype(np.float32) for k, plane in expected.items()}
                moved = expected | {"luma": act(expected["luma"].astype(np.float64))}
                noisy = {
                    k: (plane + chance.normal(0, 2, plane.shape)).astype(np.float32)
                    for k, plane in moved.items()
                }
                gathered.append(flat_blocks(expected, noisy).chosen())
            found = fit_tone(gathered, full_range=False)
            assert found is not None
            self.assertGreater(found.span, 150, name)
            self.assertLess(found.residual(name), 1.0, name)
            if name == "identity":  # a power of 1 is none
                continue
            self.assertEqual(found.fits[0].act, name)
            self.assertGreater(found.residual("identity"), 6, name)

    def test_too_few_blocks_tell_nothing(self) -> None:
        chance = np.random.default_rng(5)
        noise = {
            k: chance.uniform(0, 1023, (64, 64)).astype(np.float32) for k in ("luma", "cb", "cr")
        }
        noise["cb"], noise["cr"] = noise["cb"][:32, :32], noise["cr"][:32, :32]
        self.assertIsNone(fit_tone([flat_blocks(noise, noise).chosen()], full_range=False))


class RegistrationOfPhotographs(unittest.TestCase):
    def pairs(self, draw, photo: str = "astronaut"):
        found = []
        for picture in photo_frames(photo)[:4]:
            luma = (picture @ (0.2126, 0.7152, 0.0722) * 1023).astype(np.float32)
            found.append((luma, draw(luma)))
        return found

    def place(self, draw, size=(640, 360), photo: str = "astronaut"):
        return register(
            self.pairs(draw, photo), master_active=Rect(), export_active=Rect(), export_raster=size
        )

    def test_scale_and_shift_to_hundredths(self) -> None:
        for scale_x, scale_y, dx, dy in (
            (1, 1, 3.3, -2.6),
            (1.07, 1.07, -20, -12),
            (0.75, 1, 80, 0),
        ):
            matrix = np.array([[scale_x, 0, dx], [0, scale_y, dy]], dtype=np.float64)
            found = self.place(
                lambda luma, m=matrix: cv2.warpAffine(
                    cv2.GaussianBlur(luma, (0, 0), 0.6),
                    m,
                    (640, 360),
                    flags=cv2.INTER_CUBIC,
                    borderMode=cv2.BORDER_REPLICATE,
                )
            )
            assert found is not None
            # position p + ½ of the master lies at scale × p + d + ½ of the export
            left = dx + 0.5 - 0.5 * scale_x
            self.assertAlmostEqual(found.width, 640 * scale_x, delta=0.4)
            self.assertAlmostEqual(found.left, left, delta=0.2)
            self.assertAlmostEqual(found.height, 360 * scale_y, delta=0.4)

    def test_survives_tone_changes(self) -> None:
        found = self.place(lambda luma: (luma / 1023) ** 2 * 700 + 100)
        assert found is not None
        self.assertAlmostEqual(found.width, 640, delta=0.3)

    def test_turns_and_mirrors(self) -> None:
        for turn, mirrored in ((0, True), (180, False), (180, True)):
            found = self.place(lambda luma, t=turn, m=mirrored: turned(luma, t, mirrored=m))
            assert found is not None
            self.assertEqual((found.turn, found.mirrored), (turn, mirrored))

    def test_flat_and_unrelated_pictures_give_nothing(self) -> None:
        self.assertIsNone(self.place(lambda luma: np.full_like(luma, 300)))
        other = (photo_frames("coffee")[0][..., 0] * 1023).astype(np.float32)
        self.assertIsNone(self.place(lambda _luma: other))

    def test_correlation_of_flat_planes_is_none(self) -> None:
        flat = np.zeros((20, 20), dtype=np.float32)
        self.assertEqual(correlation(flat, flat), 0.0)


class Sampling(unittest.TestCase):
    def test_part_of_a_ramp(self) -> None:
        ramp = np.tile(np.arange(64, dtype=np.float32), (32, 1))
        part = sample(ramp, Rect(0.25, 0.0, 0.5, 1.0), (32, 32))
        np.testing.assert_allclose(part[0], np.arange(16, 48), atol=1e-3)
        half = sample(ramp, Rect(), (32, 16))
        np.testing.assert_allclose(half[0], np.arange(32) * 2 + 0.5, atol=1e-3)


class Pairing(unittest.TestCase):
    def signatures(self, count: int, start: int = 0):
        chance = np.random.default_rng(6)
        pictures = chance.uniform(0, 1000, (40, 144, 256)).astype(np.float32)
        smooth = [cv2.GaussianBlur(p, (0, 0), 9) for p in pictures]
        return [signature(smooth[i], Rect()) for i in range(start, start + count)]

    def test_offsets_both_ways(self) -> None:
        self.assertEqual(best_offset(self.signatures(30), self.signatures(20, 7)), 7)
        self.assertEqual(best_offset(self.signatures(20, 7), self.signatures(30)), -7)

    def test_still_passages_begin_together(self) -> None:
        still = self.signatures(1) * 20
        self.assertEqual(best_offset(still, still), 0)

    def test_mirrored_pictures_keep_their_offset(self) -> None:
        mirrored = [np.ascontiguousarray(s[:, ::-1]) for s in self.signatures(20, 4)]
        self.assertEqual(best_offset(self.signatures(30), mirrored), 4)

    def test_plans(self) -> None:
        def plan(count_m, count_e, rate_m=24, rate_e=24, **options):
            readings = [
                replace(READING, rate=Fraction(rate), frame_count=count)
                for rate, count in ((rate_m, count_m), (rate_e, count_e))
            ]
            return plan_pairs(*readings, **{"offset": 0, "frames": 4, **options})

        self.assertEqual(plan(4, 4), [(0, 0), (1, 1), (2, 2), (3, 3)])
        self.assertEqual(
            plan(100, 50, offset=10, frames=1)[0][0], plan(100, 50, frames=1)[0][1] + 10
        )
        # relabelled: equal counts pair by number; resampled: by time
        self.assertTrue(all(m == e for m, e in plan(100, 100, 24, 25)))
        self.assertTrue(all(abs(m / 24 - e / 30) < 0.03 for m, e in plan(96, 120, 24, 30)))
        self.assertEqual(plan(10, 10, offset=20), [])


class Fineness(unittest.TestCase):
    def test_staircase_of_eight_bits(self) -> None:
        chance = np.random.default_rng(8)
        ramp = np.tile(np.linspace(100, 250, 1280), (512, 1))
        fine = np.floor(ramp + 0.5).astype(np.uint16)
        for made, low, high in (
            (fine, 0.0, 0.02),
            (fine // 4 * 4, 0.7, 1.1),
            (np.clip(fine + np.round(chance.normal(0, 2, fine.shape)), 0, 1023), 0.0, 0.1),
        ):
            found = depth_use([depth_sums(fine, made.astype(np.uint16))] * 3)
            assert found is not None
            self.assertTrue(low <= found.step_share <= high, found)
