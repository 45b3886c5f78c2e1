"""`shapkeen make`: the contract's object and statuses."""

import json
import tempfile
from pathlib import Path
from unittest import TestCase

from tests.builders import media
from tests.cli.test_cure import run

PLAIN = {"schema": "shapkeen.recipe/1", "coding": {"codec": "h264"}, "wrapper": "mp4"}


class Make(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.out = self.folder / "versions"
        self.out.mkdir()

    def recipe(self, name: str, **more: object) -> Path:
        path = self.folder / f"{name}.json"
        path.write_text(json.dumps({**PLAIN, "name": name, **more}))
        return path

    def make(self, *recipes: Path, out: Path | None = None) -> tuple[int, dict]:
        words = [word for path in recipes for word in ("--recipe", path)]
        return run("make", media.sdr_master(), *words, "--out", out or self.out)

    def test_versions_are_made_and_held_against_their_promise(self) -> None:
        square = {"raster": {"value": [360, 360]}}
        status, made = self.make(self.recipe("wide"), self.recipe("square", promise=square))
        self.assertEqual((status, made["schema"]), (0, "shapkeen.made/1"))
        for row, name in zip(made["versions"], ("wide", "square"), strict=True):
            self.assertEqual(
                {key: row[key] for key in ("recipe", "file", "frames", "overall")},
                {
                    "recipe": name,
                    "file": str(self.out / f"{name}.mp4"),
                    "frames": media.FRAMES,
                    "overall": "kept",
                },
            )
            self.assertAlmostEqual(row["times_real"], row["seconds"] * 24 / media.FRAMES, delta=0.1)

    def test_a_wrong_recipe_is_refused_before_anything_is_made(self) -> None:
        wrong = self.recipe("wrong", coding={"codec": "h264", "profile": "Extended"})
        status, error = self.make(self.recipe("right"), wrong)
        self.assertEqual((status, error["code"]), (64, "cannot-make"))
        self.assertEqual(error["where"], "coding.profile")
        self.assertEqual(list(self.out.iterdir()), [])

    def test_names_that_are_taken_are_refused(self) -> None:
        (self.out / "wide.mp4").write_bytes(b"mine")
        status, error = self.make(self.recipe("wide"))
        self.assertEqual((status, error["code"]), (64, "copy-exists"))
        again = self.folder / "again.json"
        again.write_text(json.dumps({**PLAIN, "name": "twice"}))
        status, error = self.make(self.recipe("twice"), again)
        self.assertEqual((status, error["where"]), (64, "name"))
        self.assertEqual(self.make(self.recipe("x"), out=self.folder / "none")[0], 64)
