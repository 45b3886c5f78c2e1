"""Work that gives way to pages, and what is read before the first page."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from django.template import engines

from shapkeen.web.config import conf
from shapkeen.web.serving import lifeline, warming
from shapkeen.web.work import giving_way

ASK = "import os; from shapkeen.web.work.giving_way import give_way, GROUP; os.setsid();"
TELL = "print(os.nice(0), GROUP.read_text() if GROUP.exists() else '')"


def run(*arguments: str, steps: str = "") -> str:
    """Return what a Python of its own prints, which gives way by so many steps, or as usual."""
    call, own = [sys.executable, *arguments], os.environ | {conf.GIVES_WAY: steps}
    return subprocess.run(call, capture_output=True, text=True, check=True, env=own).stdout


class GivingWay(unittest.TestCase):
    def test_a_session_of_its_own_comes_after_others_too(self) -> None:
        # sched(7): where sessions are scheduled as groups, niceness counts within them only
        plain, nice = run("-c", f"{ASK} {TELL}"), run("-c", f"{ASK} give_way(); give_way(); {TELL}")
        self.assertTrue(plain.startswith("0 "), plain)
        self.assertTrue(nice.startswith("10 "), nice)
        if os.access(giving_way.GROUP, os.W_OK):
            self.assertRegex(plain, r"nice 0\s*$")
            self.assertRegex(nice, r"nice 10\s*$")

    def test_how_far_is_a_setting(self) -> None:
        self.assertTrue(run("-c", f"{ASK} give_way(); {TELL}", steps="3").startswith("3 "))
        self.assertTrue(run("-c", f"{ASK} give_way(); {TELL}", steps="0").startswith("0 "))
        for wrong in ("20", "-1", "much"):
            with mock.patch.dict(os.environ, {conf.GIVES_WAY: wrong}):
                self.assertRaisesRegex(SystemExit, f"{conf.GIVES_WAY}.*{wrong}", conf.load)

    def test_a_program_that_the_server_keeps_gives_way_where_it_is_asked_to(self) -> None:
        told = ("timeit", "-n1", "-r1", "import os; print('steps', os.nice(0))")
        for flag, steps in (((lifeline.GIVES_WAY,), 10), ((), 0)):
            call = [sys.executable, "-m", lifeline.__name__, *flag, *told]
            pipes = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE}
            pipes["env"] = os.environ | {conf.GIVES_WAY: ""}
            with subprocess.Popen(call, text=True, start_new_session=True, **pipes) as process:
                assert process.stdout is not None
                out = process.stdout.read()
            self.assertIn(f"steps {steps}\n", out)

    def test_a_wish_that_came_too_soon_is_told_again(self) -> None:
        group = mock.Mock(write_text=mock.Mock(side_effect=[BlockingIOError, BlockingIOError, 2]))
        with (
            mock.patch.object(giving_way, "GROUP", group),
            mock.patch("os.nice", return_value=10),
            mock.patch("time.sleep") as slept,
        ):
            giving_way.weigh_session()
        self.assertEqual((group.write_text.call_count, slept.call_count), (3, 2))
        gone = Path(tempfile.gettempdir(), "no-such-folder", "autogroup")
        with mock.patch.object(giving_way, "GROUP", gone), mock.patch("os.nice", return_value=10):
            giving_way.weigh_session()  # another system: nothing to be told


class Warming(unittest.TestCase):
    def test_every_template_is_compiled_before_the_first_page(self) -> None:
        (cached,) = engines["django"].engine.template_loaders
        cached.reset()
        warming.warm()
        folder = Path(warming.__file__).parent.parent / "templates"
        names = {str(path.relative_to(folder)) for path in folder.rglob("*.html")}
        self.assertLessEqual(names, set(cached.get_template_cache))
