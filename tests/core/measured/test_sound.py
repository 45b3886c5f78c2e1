"""Sound measured: loudness by EBU's own test signals, and the master's sound found again.

EBU Tech 3341-2016, table 1 (loudness, true peak) and EBU Tech 3342-2016, table 1 (range): tones as
they are specified there, from memory; made here, not EBU's files.
"""

import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from scipy.signal import correlate

from shapkeen.core.measured import SoundFindings
from shapkeen.core.measured.sound.correlation import (
    correlated,
    correlated_inside,
    fast_length,
)
from shapkeen.core.measured.sound.finding import PictureClock
from shapkeen.core.measured.sound.loudness import Meter
from shapkeen.core.measured.sound.pair import find_sound
from tests.builders.comparing import in_acts, shared_out
from tests.builders.sounding import RATE, speech, with_sound

STILL = PictureClock(1.0, ((0.0, 0.0),))


def tone(level_dbfs: float, seconds: float, hertz: float = 1000.0, phase: float = 0.0):
    at = np.arange(round(seconds * RATE)) / RATE
    return 10 ** (level_dbfs / 20) * np.sin(2 * np.pi * hertz * at + np.radians(phase))


def metered(*channels: np.ndarray, layout: str = "stereo"):
    meter = Meter(RATE, layout)
    wave = np.stack(channels).astype(np.float32)
    for at in range(0, wave.shape[1], RATE):
        meter.add(wave[:, at : at + RATE])
    return meter.result()


class TestSignals(unittest.TestCase):
    def test_loudness_of_tones(self) -> None:
        cases = (
            # EBU Tech 3341, cases 1 to 5
            (((-23, 20),), -23.0),
            (((-33, 20),), -33.0),
            (((-36, 10), (-23, 60), (-36, 10)), -23.0),
            (((-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)), -23.0),
            (((-26, 20), (-20, 20.1), (-26, 20)), -23.0),
        )
        for levels, expected in cases:
            with self.subTest(levels):
                wave = np.concatenate([tone(*level) for level in levels])
                found = metered(wave, wave)
                self.assertAlmostEqual(found.integrated_lufs, expected, delta=0.1)

    def test_loudness_of_five_channels(self) -> None:
        # EBU Tech 3341, case 6: left, right -28, centre -24, surrounds -30 dBFS
        front, centre, back = (tone(level, 20) for level in (-28, -24, -30))
        found = metered(front, front, centre, back, back, layout="5.0")
        self.assertAlmostEqual(found.integrated_lufs, -23.0, delta=0.1)

    def test_range_of_tones(self) -> None:
        cases = (
            # EBU Tech 3342, cases 1 to 4: within 1 LU
            ((-20, -30), 10),
            ((-20, -15), 5),
            ((-40, -20), 20),
            ((-50, -35, -20, -35, -50), 15),
        )
        for levels, expected in cases:
            with self.subTest(levels):
                wave = np.concatenate([tone(level, 20) for level in levels])
                self.assertAlmostEqual(metered(wave, wave).range_lu, expected, delta=1.0)

    def test_true_peak_between_samples(self) -> None:
        cases = (
            # EBU Tech 3341, cases 15 to 19: +0.2, -0.4 dB
            (0.5, 4, 0.0, -6.0),
            (0.5, 4, 45.0, -6.0),
            (0.5, 6, 60.0, -6.0),
            (0.5, 8, 67.5, -6.0),
            (1.41, 4, 45.0, 3.0),
        )
        for level, part, phase, expected in cases:
            with self.subTest(part=part, phase=phase):
                wave = tone(20 * np.log10(level), 1, RATE / part, phase)
                ease = np.minimum(1, np.arange(wave.size) / 4800)
                wave = wave * ease * ease[::-1]
                peak = metered(wave, wave).true_peak_dbtp
                self.assertLessEqual(peak, expected + 0.2)
                self.assertGreaterEqual(peak, expected - 0.4)


class Correlation(unittest.TestCase):
    def test_as_scipys(self) -> None:
        chance = np.random.default_rng(5)
        for field, pattern in ((500, 500), (700, 33), (33, 700), (257, 256), (2, 1)):
            one, other = chance.normal(size=field), chance.normal(size=pattern)
            np.testing.assert_allclose(
                correlated(one, other), correlate(one, other, method="direct"), atol=1e-9
            )
            if field >= pattern:
                np.testing.assert_allclose(
                    correlated_inside(one, other),
                    correlate(one, other, mode="valid", method="direct"),
                    atol=1e-9,
                )

    def test_lengths_are_quick_and_enough(self) -> None:
        self.assertEqual(
            [fast_length(n) for n in (0, 1, 2, 3, 1024, 1025)], [1, 1, 2, 4, 1024, 2048]
        )


class Found(unittest.TestCase):
    """The master's sound in exports that differ in one known way."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.wave = speech(8)
        cls.master = with_sound("sound-master", cls.wave, codec="pcm", wrapper="mov")

    def find(self, export: Path, clock: PictureClock = STILL) -> SoundFindings:
        found = find_sound(self.master, export, clock)
        assert found is not None
        return found

    def late(self, found: SoundFindings) -> list[float]:
        return [one.late_s for one in found.moments if one.likeness > 0.8]

    def test_codecs_and_wrappers_leave_it_in_its_place(self) -> None:
        cases = (
            ("aac", "mp4", RATE),
            ("opus", "mkv", RATE),
            ("aac", "flv", RATE),
            ("aac", "ts", RATE),
            ("mp3", "mkv", 44100),
        )
        for _, (codec, wrapper, rate) in shared_out(cases, 2, 2):
            with self.subTest(f"{codec} in {wrapper}"):
                name = f"sound-{codec}-{wrapper}"
                export = with_sound(name, self.wave, codec=codec, wrapper=wrapper, rate=rate)
                found = self.find(export)
                self.assertEqual(len(self.late(found)), len(found.moments))
                # MP3's and FLV's own delay is told to nobody: up to 50 ms (common practice)
                limit = 0.05 if wrapper == "flv" or codec == "mp3" else 0.003
                self.assertLess(max(map(abs, self.late(found))), limit)
                np.testing.assert_allclose(found.mix.gains, np.eye(2), atol=0.06)
                self.assertEqual(found.gaps, ())

    def test_a_shift_is_what_a_correlation_of_the_waves_finds(self) -> None:
        for moved in (-0.25, 0.0123, 0.4):
            count = round(abs(moved) * RATE)
            pad = np.zeros((2, count), np.float32)
            wave = np.concatenate([pad, self.wave], axis=1) if moved > 0 else self.wave[:, count:]
            export = with_sound(f"sound-moved-{moved}", wave, codec="pcm", wrapper="mov")
            table = correlate(wave[0], self.wave[0], method="fft")
            waves = (int(np.argmax(table)) - self.wave.shape[1] + 1) / RATE
            with self.subTest(moved):
                self.assertAlmostEqual(waves, moved, delta=1e-4)
                self.assertLess(max(abs(x - moved) for x in self.late(self.find(export))), 0.003)

    @in_acts
    def test_channels_exchanged_turned_and_mixed(self) -> None:
        left, right = self.wave
        cases = {
            "exchanged": ((right, left), ((0, 1), (1, 0))),
            "turned": ((left, -right), ((1, 0), (0, -1))),
            "twice": ((left, left), ((1, 0), (1, 0))),
            "mixed": (((left + right) / 2,) * 2, ((0.5, 0.5), (0.5, 0.5))),
        }
        for name, (wave, gains) in cases.items():
            with self.subTest(name):
                found = self.find(with_sound(f"sound-{name}", np.stack(wave)))
                np.testing.assert_allclose(found.mix.gains, gains, atol=0.03)
                self.assertLess(max(found.mix.unexplained), 0.05)

    def test_alike_channels_are_not_told_apart(self) -> None:
        both = np.repeat(self.wave[:1], 2, axis=0)
        master = with_sound("sound-alike", both, codec="pcm", wrapper="mov")
        found = find_sound(master, with_sound("sound-alike-out", both), STILL)
        self.assertTrue(found.mix.alike)

    def test_peaks_that_were_cut_off(self) -> None:
        for gain, db in ((3.0, 3.5), (4.0, 6.0)):
            with self.subTest(gain):
                # the loudest sample is 0.5: times the gain, over full scale by so many decibels
                export = with_sound(f"sound-cut-{gain}", np.clip(self.wave * gain, -1, 1))
                self.assertAlmostEqual(self.find(export).mix.held_down_db, db, delta=0.7)

    def test_a_hole_and_an_early_end(self) -> None:
        hole = self.wave.copy()
        hole[:, 2 * RATE : 3 * RATE] = 0
        for name, wave, gap in (
            ("hole", hole, (2.0, 3.0)),
            ("end", self.wave[:, : 5 * RATE], (5.0, 8.0)),
        ):
            with self.subTest(name):
                ((begin, end),) = self.find(with_sound(f"sound-{name}", wave)).gaps
                self.assertAlmostEqual(begin, gap[0], delta=0.1)
                self.assertAlmostEqual(end, gap[1], delta=0.1)

    def test_a_clip_is_found_where_it_lies_in_a_longer_master(self) -> None:
        wave = speech(200, channels=1, seed=3)
        master = with_sound("sound-long", wave, codec="pcm", wrapper="mov", layout="mono")
        for begin in (0, 120, 197):
            clip = wave[:, begin * RATE : (begin + 3) * RATE]
            clock = PictureClock(1.0, ((float(begin), 0.0),))
            found = find_sound(
                master, with_sound(f"sound-clip-{begin}", clip, layout="mono"), clock
            )
            sure = [one for one in found.moments if one.likeness > 0.8]
            with self.subTest(begin):
                self.assertGreaterEqual(len(sure), 3)
                self.assertLess(max(abs(m.late_s - m.picture_s) for m in sure), 0.005)
                self.assertTrue(all(begin <= m.master_s <= begin + 3 for m in sure))

    def test_sound_sped_up_with_its_picture(self) -> None:
        faster = 25 / 24
        at = np.arange(int(self.wave.shape[1] / faster)) * faster
        own = np.arange(self.wave.shape[1])
        fast = np.stack([np.interp(at, own, line) for line in self.wave])
        found = self.find(with_sound("sound-fast", fast), PictureClock(faster, ((0.0, 0.0),)))
        self.assertAlmostEqual(found.speed, faster)
        self.assertLess(max(abs(m.late_s - m.picture_s) for m in found.moments), 0.005)

    def test_sound_left_as_it_was_under_a_faster_picture(self) -> None:
        faster = 25 / 24
        export = with_sound("sound-left", self.wave)
        found = self.find(export, PictureClock(faster, ((0.0, 0.0),)))
        self.assertEqual(found.speed, 1.0)
        for one in found.moments:  # behind by 40 ms with every second
            expected = one.master_s * (1 - 1 / faster)
            self.assertAlmostEqual(one.late_s - one.picture_s, expected, delta=0.005)

    def test_steady_tones_and_silence_tell_no_moment(self) -> None:
        steady = np.stack([tone(-20, 8), tone(-20, 8)]).astype(np.float32)
        for name, wave in (("steady", steady), ("silent", np.zeros((2, 8 * RATE), np.float32))):
            with self.subTest(name):
                master = with_sound(f"sound-{name}", wave, codec="pcm", wrapper="mov")
                found = find_sound(master, with_sound(f"sound-{name}-out", wave), STILL)
                self.assertEqual((found.moments, found.mix), ((), None))

    def test_no_sound_at_all_is_no_finding(self) -> None:
        silent = with_sound("sound-none", None)
        self.assertIsNone(find_sound(silent, silent, STILL))
        self.assertIsNone(self.find(silent).export)

    def test_a_broken_track_is_a_finding(self) -> None:
        export = with_sound("sound-broken", self.wave, codec="pcm", wrapper="mov")
        data = export.read_bytes()
        export.write_bytes(data[: len(data) // 2])  # its index stood at the end
        found = find_sound(self.master, export, STILL)
        self.assertTrue(found.faults[1])
        self.assertIsNone(found.export)

    def test_a_track_that_states_no_rate_is_a_finding(self) -> None:
        stream = mock.Mock(rate=0)
        opened = mock.MagicMock()
        opened.__enter__.return_value.streams.audio = [stream]
        with mock.patch("shapkeen.core.measured.sound.levels.av.open", return_value=opened):
            found = find_sound(self.master, self.master, STILL)
        self.assertIn("how often it is sampled", found.faults[0])


if __name__ == "__main__":
    unittest.main()
