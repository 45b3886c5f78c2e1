"""Health, readiness, figures by Prometheus' own parser, and what an installation lacks."""

import json
import logging
import os
import subprocess
import sys
import time
from dataclasses import replace

from django.conf import settings
from django.db import connection
from django.test import Client, override_settings
from prometheus_client.parser import text_string_to_metric_families

from shapkeen.web.config.logs import JsonLines
from shapkeen.web.upkeep import health
from shapkeen.web.upkeep.setup import advice, everything
from tests.web.base import WebCase


class Health(WebCase):
    def ready(self) -> tuple[int, dict]:
        answer = Client().get("/readyz")  # nobody is logged in
        return answer.status_code, answer.json()["checks"]

    def test_a_well_installation_is_ready_and_tells_no_names(self) -> None:
        self.assertEqual(Client().get("/healthz").content, b"well\n")
        status, checks = self.ready()
        self.assertEqual(status, 200)
        self.assertEqual(set(checks), {"database", "room", "data", "media", "workers"})
        self.assertNotContains(Client().get("/readyz"), str(self.folder))

    def test_a_root_that_is_away_makes_it_not_ready(self) -> None:
        roots = settings.CONF.media_roots | {"vault": self.folder / "vault"}
        with override_settings(CONF=replace(settings.CONF, media_roots=roots)):
            status, checks = self.ready()
            self.assertEqual((status, checks["media"]), (503, False))
            self.assertIn("vault", next(c.words for c in health.checks() if c.name == "media"))

    def test_workers_are_told_of_by_the_supervisor(self) -> None:
        for workers, at, well in ((2, 0, True), (0, 0, False), (2, -60, False)):
            health.tell_state(workers)
            path = settings.CONF.data_dir / health.STATE_FILE
            path.write_text(json.dumps(json.loads(path.read_text()) | {"at": time.time() + at}))
            self.assertEqual(self.ready()[1]["workers"], well, (workers, at))
        path.write_text("half a li")
        self.assertTrue(self.ready()[1]["workers"])

    def test_a_database_that_is_behind_is_not_ready(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM django_migrations WHERE app = 'notices'")
        self.assertEqual(self.ready()[1]["database"], False)


class Metrics(WebCase):
    def figures(self, **more: str) -> dict[tuple, float]:
        answer = Client().get("/metrics", **more)
        self.assertEqual(answer.status_code, 200)
        families = text_string_to_metric_families(answer.content.decode())
        return {
            (sample.name, *sorted(sample.labels.items())): sample.value
            for family in families
            for sample in family.samples
        }

    def test_figures_are_those_of_the_database(self) -> None:
        self.attempt("untagged.mp4")
        failed = self.attempt("healthy.mp4", measured=False)
        waiting = self.attempt("healthy.mp4", measured=False)
        self.job(failed).end("failed", {"text": "x", "code": "y"})
        found = self.figures()
        self.assertEqual(found["shapkeen_attempts", ("verdict", "lost")], 1)
        self.assertEqual(found["shapkeen_attempts_unjudged",], 2)
        self.assertEqual(found["shapkeen_jobs", ("kind", "survey"), ("state", "waiting")], 1)
        self.assertEqual(found["shapkeen_jobs_failed_total", ("kind", "survey")], 1)
        self.assertGreaterEqual(found["shapkeen_surveys", ("stage", "whole")], 1)
        self.assertEqual(found["shapkeen_jobs_done_total", ("kind", "survey")], 1)
        self.assertGreater(found["shapkeen_job_seconds_total", ("kind", "survey")], 0)
        self.assertGreater(found["shapkeen_disk_free_bytes",], 1e6)
        self.assertEqual(found["shapkeen_well", ("check", "database")], 1)
        self.assertEqual(self.state(waiting), "waiting")

    def test_they_are_for_this_machine_or_for_the_token(self) -> None:
        self.assertEqual(Client().get("/metrics", REMOTE_ADDR="10.0.0.7").status_code, 403)
        with override_settings(CONF=replace(settings.CONF, has_proxy=True)):
            self.assertEqual(Client().get("/metrics").status_code, 403)
        with override_settings(CONF=replace(settings.CONF, metrics_token="a-token")):
            self.assertEqual(Client().get("/metrics").status_code, 403)
            self.figures(headers={"Authorization": "Bearer a-token"}, REMOTE_ADDR="10.0.0.7")


class Setup(WebCase):
    def test_what_is_there_and_what_is_better_otherwise_is_told(self) -> None:
        found = {one.name: one for one in everything()}
        self.assertTrue(found["encoders"].is_well)
        self.assertIn("H.265", found["encoders"].words)
        with override_settings(CONF=replace(settings.CONF, has_proxy=True, hosts=["x.example"])):
            told = " ".join(advice())
        self.assertIn("SHAPKEEN_METRICS_TOKEN", told)
        self.assertIn("without TLS", told)

    def test_the_command_ends_with_70_where_something_lacks(self) -> None:
        # A library that was never set up: its database has no tables yet.
        environment = os.environ | {"SHAPKEEN_DATA": str(self.folder / "new")}
        call = [sys.executable, "-m", "shapkeen.cli.main", "check-setup", "--json"]
        ended = subprocess.run(call, env=environment, capture_output=True, text=True, check=False)
        told = json.loads(ended.stdout)
        self.assertEqual((ended.returncode, told["schema"]), (70, "shapkeen.setup/1"))
        lacking = {one["name"] for one in told["checks"] if not one["well"]}
        self.assertIn("database", lacking)

    def test_a_log_line_is_one_json_object(self) -> None:
        try:
            int("two\nlines")
        except ValueError:
            record = logging.LogRecord(
                "shapkeen", logging.ERROR, __file__, 1, "%s failed", ("it",), sys.exc_info()
            )
        line = JsonLines().format(record)
        told = json.loads(line)
        self.assertNotIn("\n", line)
        self.assertEqual((told["text"], told["level"]), ("it failed", "error"))
        self.assertIn("ValueError", told["trace"])
