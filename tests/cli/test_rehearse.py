"""`shapkeen rehearse`: the contract's object and statuses."""

import json
import tempfile
from pathlib import Path
from unittest import TestCase, mock

from shapkeen.core.rehearsed import rehearsal
from shapkeen.core.rehearsed.stand_in import stand_in_named, stand_in_to_json
from tests.builders import media
from tests.cli.test_cure import run


class Rehearse(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_a_healthy_file_is_taken_for_what_it_is(self) -> None:
        words = ("--service", "Tidewater Club", "--out", self.folder)
        status, found = run("rehearse", media.hdr_master(), *words)
        self.assertEqual((status, found["schema"]), (0, "shapkeen.rehearsal/1"))
        self.assertEqual((found["service"], found["accepted"]), ("Tidewater Club", True))
        self.assertEqual(
            {k: found["recognised"][k] for k in ("transfer", "projection", "stereo", "rotation")},
            {"transfer": 16, "projection": None, "stereo": None, "rotation": 0},
        )
        for one in found["renditions"]:
            self.assertTrue(Path(one["file"]).is_file())
            self.assertEqual(Path(one["file"]).parent, self.folder)
        self.assertEqual({one["branch"] for one in found["renditions"]}, {"sdr", "hdr"})
        self.assertEqual(len(list(self.folder.iterdir())), len(found["renditions"]))
        with mock.patch.object(rehearsal, "make_renditions", side_effect=AssertionError):
            status, error = run("rehearse", media.hdr_master(), *words)  # before anything is coded
        self.assertEqual((status, error["code"]), (64, "copy-exists"))

    def test_refused_or_taken_for_something_else_is_two(self) -> None:
        status, found = run("rehearse", media.sdr_master(), "--service", "beacon-broadcast")
        self.assertEqual((status, found["accepted"], found["renditions"]), (2, False, []))
        self.assertTrue(all(one["cure"] for one in found["refusals"]))
        own = json.loads(stand_in_to_json(stand_in_named("tidewater-club")))
        own["believes"]["transfer"] = {"witnesses": [], "silent": 1}
        path = self.folder / "own.json"
        path.write_text(json.dumps(own))
        status, found = run("rehearse", media.hdr_master(), "--service", path)
        self.assertEqual((status, found["accepted"]), (2, True))
        self.assertEqual(found["taken_wrongly"][0]["trait"], "transfer")
        self.assertIsNone(found["renditions"][0]["file"])

    def test_services_are_listed_and_wrong_calls_refused(self) -> None:
        status, found = run("rehearse", "--list")
        self.assertEqual(status, 0)
        self.assertIn("Mole Signage", [one["name"] for one in found["services"]])
        master = media.sdr_master()
        for words, wanted, code in (
            ((), 64, "bad-call"),
            ((master,), 64, "bad-call"),
            ((master, "--service", "nowhere"), 64, "unknown-service"),
            ((master, "--service", self.folder / "no.json"), 65, "unreadable"),
            ((master, "--service", "mole-signage", "--out", self.folder / "no"), 64, "bad-call"),
            ((self.folder / "no.mp4", "--service", "mole-signage"), 65, "no-file"),
        ):
            with self.subTest(words):
                status, error = run("rehearse", *words)
                self.assertEqual((status, error["code"]), (wanted, code))
