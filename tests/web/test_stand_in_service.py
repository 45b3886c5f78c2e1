"""The stand-in over HTTP, by a plain HTTP client: parts, cuts at random places, faults, stages."""

import hashlib
import http.client
import json
import os
import random
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from dataclasses import asdict
from pathlib import Path

from shapkeen.core.rehearsed.stand_in import stand_in_named
from shapkeen.web.receiver.faults import Faults
from shapkeen.web.receiver.server import Service, serve
from shapkeen.web.receiver.store import Store
from shapkeen.web.receiver.working import Worker
from tests.builders import media

PATIENCE_S = 120


class Client:
    """A plain client. Each request has a connection of its own, as after a cut."""

    def __init__(self, port: int) -> None:
        self.port = port

    def ask(self, method: str, path: str, body=None, **headers):
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        data = json.dumps(body).encode() if isinstance(body, dict) else body
        names = {key.replace("_", "-"): value for key, value in headers.items()}
        try:
            line.request(method, path, data, names)
            answer = line.getresponse()
            return answer.status, dict(answer.headers), answer.read()
        finally:
            line.close()

    def told(self, method: str, path: str, body=None):
        status, _, data = self.ask(method, path, body)
        return status, json.loads(data)


class StandInService(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.sent = media.sdr_master().read_bytes()
        self.start()

    def start(self, service: str = "tidewater-club") -> None:
        self.service = Service(
            stand_in=stand_in_named(service),
            store=Store(self.folder / "received"),
            worker=Worker(service),
            faults=Faults(),
        )
        self.server = serve(self.service, 0)
        threading.Thread(target=self.server.serve_forever, daemon=True).start()
        self.addCleanup(self.stop)
        self.client = Client(self.server.server_port)

    def stop(self) -> None:
        self.server.shutdown()
        self.server.server_close()
        self.service.worker.stop()

    def begin(self, **more) -> str:
        body = {"name": "cut.mov", "size": len(self.sent), **more}
        status, headers, data = self.client.ask("POST", "/uploads", body)
        self.assertEqual((status, headers["Upload-Offset"]), (201, "0"))
        self.assertEqual(json.loads(data)["location"], headers["Location"])
        return headers["Location"]

    def offset(self, place: str) -> int:
        status, headers, _ = self.client.ask("HEAD", place)
        self.assertEqual((status, headers["Simulation"]), (204, "stand-in"))
        return int(headers["Upload-Offset"])

    def send_all(self, place: str, most: int = 1 << 30) -> int:
        """Send what is missing until all came; return how many requests were cut."""
        cuts = 0
        while (at := self.offset(place)) < len(self.sent):
            try:
                self.client.ask("PATCH", place, self.sent[at : at + most], Upload_Offset=str(at))
            except (http.client.HTTPException, OSError):
                cuts += 1
        return cuts

    def wait(self, place: str) -> dict:
        for _ in range(PATIENCE_S * 10):
            _, told = self.client.told("GET", place)
            if told["state"] not in ("receiving", "working"):
                return told
            time.sleep(0.1)
        raise AssertionError(told)

    def test_cuts_at_random_bytes_lose_nothing(self) -> None:
        place = self.begin(sha256=hashlib.sha256(self.sent).hexdigest())
        cut = max(len(self.sent) // 6, 2)
        self.client.told("POST", "/faults", {"cut": cut})
        self.assertGreater(self.send_all(place), 3)
        self.client.told("POST", "/faults", {"cut": 0})
        (upload,) = self.service.store.all()
        self.assertEqual(upload.file.read_bytes(), self.sent)
        self.assertEqual(self.wait(place)["state"], "ready")

    def test_stages_come_in_simulated_time_and_renditions_can_be_fetched(self) -> None:
        place = self.begin()
        random.seed(5)
        while (at := self.offset(place)) < len(self.sent):
            size = random.randint(1, len(self.sent) // 3)
            self.client.ask("PATCH", place, self.sent[at : at + size], Upload_Offset=str(at))
        told = self.wait(place)
        self.assertEqual((told["accepted"], told["simulation"]), (True, True))
        _, early = self.client.told("GET", f"{place}?at=10")
        self.assertEqual(early["stages"][0]["state"], "waiting")
        _, late = self.client.told("GET", f"{place}?at=100000")
        (rendition,) = late["stages"][0]["renditions"]
        status, headers, data = self.client.ask("GET", f"{rendition['file']}?at=100000")
        self.assertEqual((status, len(data)), (200, rendition["size"]))
        self.assertEqual(headers["Simulation"], "stand-in")
        self.assertEqual(self.client.ask("GET", f"{rendition['file']}?at=10")[0], 404)
        self.client.told("POST", "/faults", {"lose_stage": "at once"})
        _, lost = self.client.told("GET", f"{place}?at=100000")
        self.assertEqual(lost["stages"][0]["state"], "lost")
        self.assertEqual(self.client.ask("GET", f"{rendition['file']}?at=100000")[0], 404)

    def test_it_goes_on_after_the_server_was_ended(self) -> None:
        place = self.begin()
        self.client.ask("PATCH", place, self.sent[:5000], Upload_Offset="0")
        self.stop()
        self.start()
        self.assertEqual(self.offset(place), 5000)
        self.send_all(place)
        self.assertEqual(self.wait(place)["state"], "ready")

    def test_a_wrong_place_and_too_much_are_refused(self) -> None:
        place = self.begin()
        for offset, body, wanted in (
            ("7", self.sent[:10], 409),
            ("0", self.sent + b"more", 413),
            ("x", self.sent[:10], 409),
        ):
            status, _, data = self.client.ask("PATCH", place, body, Upload_Offset=offset)
            self.assertEqual(status, wanted)
            self.assertTrue(json.loads(data)["simulation"])
        self.assertEqual(self.offset(place), 0)
        self.assertEqual(self.client.ask("DELETE", place)[0], 204)
        self.assertEqual(self.client.ask("HEAD", place)[0], 404)

    def test_what_is_wrong_with_a_call_is_told(self) -> None:
        for method, path, body, wanted in (
            ("GET", "/nowhere", None, 404),
            ("PATCH", "/uploads", None, 405),
            ("POST", "/uploads", {"name": "../x.mp4", "size": 5}, 400),
            ("POST", "/uploads", {"name": "x.mp4", "size": 0}, 400),
            ("POST", "/uploads", {"name": "x.mp4", "size": 10**13}, 413),
            ("POST", "/uploads", b"{", 400),
            ("POST", "/faults", {"slow": -1}, 400),
            ("POST", "/faults", {"gremlins": True}, 400),
            ("GET", "/uploads/" + "0" * 32, None, 404),
        ):
            with self.subTest(path=path, body=body):
                status, told = self.client.told(method, path, body)
                self.assertEqual((status, told["simulation"]), (wanted, True))
                self.assertTrue(told["text"])
        status, _, _ = self.client.ask("GET", "/", Host="elsewhere.example")
        self.assertEqual(status, 421)

    def test_refusing_and_slowness_are_on_demand(self) -> None:
        _, told = self.client.told("GET", "/")
        self.assertEqual(told["service"], "Tidewater Club")
        self.client.told("POST", "/faults", {"refuse": True})
        self.assertEqual(self.client.ask("GET", "/")[0], 503)
        _, told = self.client.told("POST", "/faults", {"refuse": False, "slow": 20_000})
        self.assertEqual(
            {key: told[key] for key in asdict(Faults())},
            {"slow": 20_000, "cut": 0, "refuse": False, "lose_stage": ""},
        )
        place = self.begin()
        started = time.monotonic()
        self.client.ask("PATCH", place, self.sent[:8000], Upload_Offset="0")
        self.assertGreaterEqual(time.monotonic() - started, 0.35)

    def test_what_the_service_does_not_take_is_refused_with_limit_and_cure(self) -> None:
        self.stop()
        self.start("beacon-broadcast")
        for sent, code in ((self.sent, ""), (b"no picture at all", "no-picture")):
            self.sent = sent
            place = self.begin()
            self.send_all(place)
            told = self.wait(place)
            self.assertEqual(told["state"], "refused")
            if code:
                self.assertIn("error", told)
            else:
                self.assertTrue(all(one["cure"] for one in told["refusals"]))


class Command(unittest.TestCase):
    def test_it_starts_by_one_command_and_says_that_it_is_a_simulation(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            words = [sys.executable, "-W", "ignore", "manage.py", "stand_in", "Mole Signage"]
            told = {**os.environ, "SHAPKEEN_DATA": folder}
            done = subprocess.Popen(
                [*words, "--port", "0"], stdout=subprocess.PIPE, text=True, env=told
            )
            try:
                line = done.stdout.readline()
                self.assertIn("Mole Signage, a simulation: http://127.0.0.1:", line)
                port = int(line.strip().rstrip("/").rsplit(":", 1)[1])
                self.assertEqual(Client(port).told("GET", "/")[1]["key"], "mole-signage")
            finally:
                done.terminate()
                done.wait()
                done.stdout.close()
