"""Sound judged: healthy exports show no cause, and each act is named for what it is.

Limits: EBU R 37 and ITU-R BT.1359 (lip sync), EBU R 128 (loudness), all from memory. The files are
measured for themselves; the picture of all of them is the same, and surveyed once.
"""

import json
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from shapkeen.core.compared import judge_survey, survey_files
from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import Survival
from shapkeen.core.measured.sound.finding import PictureClock
from shapkeen.core.measured.sound.pair import find_sound
from shapkeen.core.promised import Promise, Promised, promise_from_json
from tests.builders.comparing import shared_out
from tests.builders.sounding import RATE, speech, with_sound

STILL = PictureClock(1.0, ((0.0, 0.0),))
FAMILY = "sound"


class Judged(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.wave = speech(8)
        cls.master = with_sound("heard-master", cls.wave, codec="pcm", wrapper="mov")
        bare = with_sound("heard-bare", cls.wave)
        cls.survey = survey_files(cls.master, bare, frames=4, workers=1).survey

    def judge(self, export: Path, promise: Promise | None = None, **more: object) -> Survival:
        sound = find_sound(self.master, export, STILL)
        survey = replace(self.survey, sound=sound, **more)
        declared = read_declaration(self.master), read_declaration(export)
        return judge_survey(*declared, survey, overrides=promise).survival

    def broken(self, survival: Survival) -> dict[str, str]:
        return {
            verdict.trait: verdict.verdict
            for verdict in survival.verdicts
            if verdict.family == FAMILY and verdict.verdict != "kept"
        }

    def causes(self, survival: Survival) -> list[str]:
        return [cause.id for cause in survival.causes if cause.id != "index-last"]


class Healthy(Judged):
    def test_coded_sound_shows_no_cause(self) -> None:
        cases = ("aac", "mp4"), ("opus", "mkv"), ("aac", "ts"), ("aac", "flv")
        for _, (codec, wrapper) in shared_out(cases, 1, 2):
            with self.subTest(f"{codec} in {wrapper}"):
                name = f"heard-{codec}-{wrapper}"
                found = self.judge(with_sound(name, self.wave, codec=codec, wrapper=wrapper))
                self.assertEqual((self.broken(found), self.causes(found)), ({}, []))

    def test_sync_within_what_goes_unnoticed_is_kept(self) -> None:
        for late in (-0.03, 0.05):
            wave = self.wave if late > 0 else self.wave[:, round(-late * RATE) :]
            export = with_sound(f"heard-near-{late}", wave, late_s=max(late, 0))
            found = self.judge(export)
            with self.subTest(late):
                self.assertEqual(self.broken(found), {})
                measure = next(v.measure for v in found.verdicts if v.trait == "sound_sync")
                self.assertAlmostEqual(measure.value, late * 1000, delta=3)

    def test_a_master_without_sound_promises_none(self) -> None:
        silent = with_sound("heard-none-master", None)
        found = judge_survey(
            read_declaration(silent),
            read_declaration(self.master),
            replace(self.survey, sound=None),
        ).survival
        self.assertNotIn(FAMILY, {verdict.family for verdict in found.verdicts})

    def test_steady_tones_leave_open_when_they_are_heard(self) -> None:
        at = np.arange(8 * RATE) / RATE
        steady = np.stack([0.1 * np.sin(2 * np.pi * 440 * at)] * 2).astype(np.float32)
        master = with_sound("heard-steady", steady, codec="pcm", wrapper="mov")
        export = with_sound("heard-steady-out", steady)
        survey = replace(self.survey, sound=find_sound(master, export, STILL))
        found = judge_survey(read_declaration(master), read_declaration(export), survey).survival
        self.assertEqual(self.broken(found), {})
        states = {v.trait: v.states.picture for v in found.verdicts}
        for trait in ("sound", "sound_sync", "sound_channels"):
            self.assertEqual(states[trait], "cannot-tell", trait)


class Acts(Judged):
    def check(self, name: str, wave: np.ndarray | None, cause: str, *traits: str, **more) -> dict:
        export = with_sound(f"act-{name}", wave, **more)
        found = self.judge(export)
        with self.subTest(name):
            self.assertEqual(self.causes(found), [cause])
            named = next(one for one in found.causes if one.id == cause)
            self.assertEqual(set(named.traits), set(traits))
            self.assertEqual(set(self.broken(found)), set(traits))
            return dict(named.values)
        return {}

    def test_sound_that_is_not_there(self) -> None:
        every = ("sound", "sound_sync", "sound_length", "sound_channels", "loudness")
        every += ("loudness_range", "true_peak")
        self.check("none", None, "sound-missing", *every, "sound_sampling")
        self.check("silent", self.wave * 0, "sound-silent", *every)
        self.check("foreign", speech(8, seed=5), "sound-foreign", *every)

    def test_sound_that_is_moved(self) -> None:
        found = self.check("late", self.wave, "sound-shifted", "sound_sync", late_s=0.12)
        self.assertAlmostEqual(found["late_ms"], 120, delta=3)
        cut = self.wave[:, round(0.3 * RATE) :]
        found = self.check("early", cut, "sound-shifted", "sound_sync")
        self.assertAlmostEqual(found["late_ms"], -300, delta=3)

    def test_sound_that_drifts(self) -> None:
        at = np.arange(self.wave.shape[1]) * 1.015
        own = np.arange(self.wave.shape[1])
        fast = np.stack([np.interp(at, own, line) for line in self.wave])
        found = self.judge(with_sound("act-drift", fast))
        self.assertEqual(self.causes(found)[0], "sound-drifts")
        self.assertIn("sound_sync", self.broken(found))

    def test_sound_with_a_hole_and_an_early_end(self) -> None:
        hole = self.wave.copy()
        hole[:, 4 * RATE : 5 * RATE] = 0
        found = self.judge(with_sound("act-hole", hole))
        self.assertEqual(self.causes(found), ["sound-cut"])
        self.assertEqual(self.broken(found)["sound"], "lost")
        found = self.judge(with_sound("act-end", self.wave[:, : 5 * RATE]))
        self.assertEqual(self.causes(found), ["sound-cut"])
        self.assertEqual(self.broken(found), {"sound_length": "lost"})

    def test_channels(self) -> None:
        left, right = self.wave
        found = self.check("swapped", np.stack([right, left]), "channels-swapped", "sound_channels")
        self.assertEqual(found, {"order": (2, 1)})
        found = self.check("turned", np.stack([left, -right]), "channel-inverted", "sound_channels")
        self.assertEqual(found, {"channels": (2,)})
        self.check("twice", np.stack([left, left]), "channels-folded", "sound_channels")
        mono = self.wave.mean(axis=0, keepdims=True)
        traits = ("sound_channels", "loudness")
        self.check("mono", mono, "channels-folded", *traits, layout="mono")

    def test_levels(self) -> None:
        found = self.check("quiet", self.wave / 2, "loudness-changed", "loudness")
        self.assertAlmostEqual(found["to"] - found["from"], -6.0, delta=0.2)  # half is 6.02 dB
        clipped = np.clip(self.wave * 3.5, -1, 1)
        self.check("clipped", clipped, "sound-clipped", "true_peak", "loudness")

    def test_sampling(self) -> None:
        found = self.check("sampled", self.wave, "sound-resampled", "sound_sampling", rate=32_000)
        self.assertEqual(found, {"from": 48_000, "to": 32_000})

    def test_language(self) -> None:
        master = with_sound("heard-german", self.wave, wrapper="mkv", language="deu")
        export = with_sound("act-french", self.wave, language="fra")
        survey = replace(self.survey, sound=find_sound(master, export, STILL))
        found = judge_survey(read_declaration(master), read_declaration(export), survey).survival
        self.assertEqual(self.broken(found), {"sound_language": "bent"})
        self.assertEqual(self.causes(found), ["language-changed"])


class Promises(Judged):
    def promise(self, **traits: object) -> Promise:
        text = json.dumps({"schema": "shapkeen.promise/1", "traits": traits})
        return promise_from_json(text, origin="test")

    def test_a_target_is_held_to_half_a_unit(self) -> None:
        export = with_sound("promised-aac", self.wave)
        is_at = find_sound(self.master, export, STILL).export.integrated_lufs
        for off, verdict in ((0.4, "kept"), (1.0, "bent"), (4.0, "lost")):
            with self.subTest(off):
                found = self.judge(export, self.promise(loudness={"value": is_at + off}))
                self.assertEqual(self.broken(found).get("loudness", "kept"), verdict)

    def test_a_true_peak_at_most(self) -> None:
        export = with_sound("promised-aac", self.wave)
        for most, verdict in ((-1, "kept"), (-12, "bent")):
            found = self.judge(export, self.promise(true_peak={"value": most, "at_most": most}))
            self.assertEqual(self.broken(found).get("true_peak", "kept"), verdict)

    def test_one_channel_may_be_promised_of_two(self) -> None:
        mono = self.wave.mean(axis=0, keepdims=True)
        export = with_sound("promised-mono", mono, layout="mono")
        wanted = self.promise(
            sound_channels={"value": 1}, loudness={"value": "as mastered", "tolerance": 6}
        )
        self.assertEqual(self.broken(self.judge(export, wanted)), {})

    def test_no_sound_may_be_promised(self) -> None:
        wanted = Promise(traits={"sound": Promised(value="none", origin="test", explicit=True)})
        found = self.judge(with_sound("promised-none", None), wanted)
        self.assertEqual(self.broken(found), {})
        found = self.judge(with_sound("promised-aac", self.wave), wanted)
        self.assertEqual(self.broken(found), {"sound": "bent"})


if __name__ == "__main__":
    unittest.main()
