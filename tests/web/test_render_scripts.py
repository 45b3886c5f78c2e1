"""The render script of docs/render-scripts.md, as it stands there, against a real server."""

import os
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

from django.test import LiveServerTestCase

from shapkeen.web.api.tokens import make_token
from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from shapkeen.web.people.rights import make_person
from tests.browser.base import NOW
from tests.web.base import install
from tests.web.surveys import remember

DOC = Path(__file__).parents[2] / "docs" / "render-scripts.md"


class RenderScript(LiveServerTestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = install(cls, NOW)
        remember(cls)
        super().setUpClass()

    def run_script(self, file: str, title: str = "The Dial") -> Any:
        script = self.folder / "deliver.py"
        script.write_text(re.findall(r"```python\n(.*?)```", DOC.read_text(), re.DOTALL)[0])
        environment = os.environ | {"SHAPKEEN_TOKEN": self.token}
        return subprocess.run(
            [sys.executable, str(script), self.live_server_url, title, "Harbour", file],
            env=environment,
            capture_output=True,
            text=True,
            check=False,
            timeout=300,
        )

    def test_it_ends_with_the_verdict_and_names_the_cause(self) -> None:
        person = make_person("farm", "a-long-enough-one")
        _, self.token = make_token(person, "render machine", "deliver", 7)
        services.create_title("The Dial", "", "footage", "master.mov", by=None)
        footage = self.folder / "footage"
        for name, status, words in (
            ("healthy.mp4", 0, "kept"),
            ("untagged.mp4", 2, "tag-missing"),
            ("notes.mp4", 64, ""),
        ):
            ended = self.run_script(str(footage / name))
            self.assertEqual(ended.returncode, status, (name, ended.stdout, ended.stderr))
            self.assertIn(words, ended.stdout)
        self.assertEqual(Attempt.objects.count(), 2)
        self.assertEqual(self.run_script("x", "Nowhere").returncode, 1)
        self.token = "shk_nonsense"
        self.assertEqual(self.run_script(str(footage / "healthy.mp4")).returncode, 64)
