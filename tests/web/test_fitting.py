"""How much work a machine does at once."""

import json
import os
from dataclasses import replace
from unittest import mock

from shapkeen.web.upkeep import fitting
from shapkeen.web.upkeep.fitting import Machine, fit, machine_here
from shapkeen.web.upkeep.setup import advice
from tests.web.base import WebCase

GB = 1_000_000_000


class Fitting(WebCase):
    def test_the_scarcest_decides(self) -> None:
        for machine, jobs, processes, limit, web in (
            (Machine(2, 24 * GB, 900e6), 1, 2, "cores", 2),
            (Machine(1, 2 * GB, None), 1, 1, "cores", 1),
            (Machine(32, 512 * GB, 3e9), 8, 4, "cores", 4),
            (Machine(16, 8 * GB, 3e9), 1, 5, "memory", 2),
            (Machine(16, 256 * GB, 110e6), 1, 1, "storage", 4),  # a gigabit share
            (Machine(16, 256 * GB, 1.1e9), 4, 4, "cores", 4),
            (Machine(4, 32 * GB, None), 1, 4, "cores", 4),
            (Machine(4, GB // 2, 10e6), 1, 1, "memory", 1),
        ):
            self.assertEqual(fit(machine), fitting.Fit(jobs, processes, limit, web))

    def test_measured_once_and_again_where_the_machine_is_another(self) -> None:
        place = self.folder / fitting.KEPT_IN
        with mock.patch.object(fitting, "LEAST_FILE", 1):
            first = machine_here()
        self.assertEqual(first.cores, len(os.sched_getaffinity(0)))
        self.assertGreater(first.read_bytes_s or 0, 0)
        with mock.patch.object(fitting, "_read_bytes_s", side_effect=AssertionError("again")):
            self.assertEqual(machine_here(), first)
        other = replace(first, cores=first.cores + 6)
        place.write_text(json.dumps({"cores": other.cores, "memory_bytes": 1, "read_bytes_s": 1}))
        self.assertEqual(machine_here().cores, first.cores)
        place.write_text("{")
        self.assertEqual(machine_here().cores, first.cores)

    def test_what_is_asked_for_beyond_it_is_told(self) -> None:
        with (
            mock.patch("shapkeen.web.upkeep.setup.machine_here", lambda: Machine(2, 8 * GB, None)),
            self.settings(CONF=replace(self.settings_conf(), workers=4, survey_workers=3)),
            mock.patch.dict(os.environ, {"SHAPKEEN_SURVEY_WORKERS": "3"}),
        ):
            words = " ".join(advice())
        self.assertIn("1 at once, 2 processes each, as cores allow; 2 for pages", words)
        self.assertIn("SHAPKEEN_SURVEY_WORKERS=1: the 12 processes", words)

    def settings_conf(self):
        from django.conf import settings

        return settings.CONF
