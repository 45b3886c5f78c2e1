"""Upgrades: a library as each release kept it comes through every migration whole.

tests/released holds one dump of a release's database for each; a new release adds its own.
"""

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

HERE = Path(__file__).parents[2]
RELEASED = HERE / "tests" / "released"
LOOK = """
import json, os
import django
django.setup()
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client
from shapkeen.web.history.services import check_seals
from shapkeen.web.library.models import Attempt, Delivery, Title
settings.ALLOWED_HOSTS += ["testserver"]
found = {"pages": {}}
for name in ("ada", "bo"):
    client = Client()
    client.force_login(get_user_model().objects.get(username=name))
    places = ["/", "/?q=harbour", *(one.get_absolute_url() for one in Title.objects.all())]
    places += [one.get_absolute_url() for one in Delivery.objects.all()]
    places += [one.get_absolute_url() for one in Attempt.objects.order_by("pk")]
    for place in places:
        page = client.get(place)
        found["pages"][name + place] = [page.status_code, "The Dial" in page.content.decode()]
found["promise"] = Delivery.objects.get(name="Harbour").promise_text
found["verdicts"] = [one.judged and one.judged.overall for one in Attempt.objects.order_by("pk")]
found["sealed"] = check_seals().broken is None
print(json.dumps(found))
"""
COUNTED = ("auth_user", "library_title", "library_delivery", "library_attempt", "library_reel")


class Upgrades(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory(prefix="shapkeen-released-")
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.database = self.folder / "shapkeen.sqlite3"

    def run_here(self, *call: str) -> str:
        env = {
            **os.environ,
            "SHAPKEEN_DATA": str(self.folder),
            "DJANGO_SETTINGS_MODULE": "shapkeen.web.config.settings",
        }
        made = subprocess.run(
            [sys.executable, "-W", "ignore", *call],
            cwd=HERE,
            env=env,
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(made.returncode, 0, made.stderr[-2000:])
        return made.stdout

    def counts(self, database: sqlite3.Connection) -> dict[str, int]:
        return {
            table: database.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
            for table in COUNTED
        }

    def odd_values(self, database: sqlite3.Connection) -> list[str]:
        """Return columns of whole numbers that hold something else: SQLite itself does not mind."""
        tables = database.execute(
            "SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%'"
        )
        odd = []
        for (table,) in tables.fetchall():
            for _, column, kind, *_ in database.execute(f"PRAGMA table_info({table})").fetchall():
                if "int" in kind.lower():
                    found = f"typeof([{column}]) NOT IN ('integer', 'null')"
                    if database.execute(f"SELECT 1 FROM {table} WHERE {found}").fetchone():
                        odd.append(f"{table}.{column}")
        return odd

    def test_every_release_comes_through_with_all_it_kept(self) -> None:
        dumps = sorted(RELEASED.glob("*.sql"))
        self.assertTrue(dumps)
        for dump in dumps:
            with self.subTest(dump.stem):
                self.database.unlink(missing_ok=True)
                with sqlite3.connect(self.database) as before:
                    before.executescript(dump.read_text())
                    counted = self.counts(before)
                self.run_here("manage.py", "migrate", "-v0")
                self.run_here("manage.py", "migrate", "--check")
                self.run_here("manage.py", "collectstatic", "--noinput", "-v0")
                with sqlite3.connect(self.database) as after:
                    self.assertEqual(self.counts(after), counted)
                    self.assertEqual(after.execute("PRAGMA integrity_check").fetchall(), [("ok",)])
                    self.assertEqual(after.execute("PRAGMA foreign_key_check").fetchall(), [])
                    self.assertEqual(self.odd_values(after), [])
                found = json.loads(self.run_here("-c", LOOK))
                self.assertEqual({p: a for p, a in found["pages"].items() if a != [200, True]}, {})
                self.assertIn("640", found["promise"])
                self.assertEqual(found["verdicts"], ["lost", "kept", None])
                self.assertTrue(found["sealed"])
