"""Real browser tests: Debian's headless Chromium, driven through Playwright."""

import functools
import os
import shutil
import threading
import time
from collections.abc import Callable
from typing import Any

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.signals import request_finished, request_started
from playwright.sync_api import Locator, Page, expect, sync_playwright

from shapkeen.web.look import neighbours
from shapkeen.web.people.rights import make_person
from tests.web.base import install
from tests.web.surveys import remember

# Playwright's own loop would make Django refuse every query of the test.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

SWITCHES = (
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
)
NOW = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}
CUT_OFF = ("htmx:sendAbort", "htmx:afterRequest")
USER, PASSWORD = "ada", "a-long-enough-one"


_UNDER_WAY: set[int] = set()
"""Threads that answer a request: after the answer they still note who was here."""
request_started.connect(lambda **_: _UNDER_WAY.add(threading.get_ident()), weak=False)
request_finished.connect(lambda **_: _UNDER_WAY.discard(threading.get_ident()), weak=False)


def _until_answered(most_s: float = 60.0) -> None:
    """Wait until no request is under way."""
    end = time.monotonic() + most_s
    while _UNDER_WAY and time.monotonic() < end:
        time.sleep(0.02)


def _once_ready(act: Callable[..., Any], page: Page | None = None) -> Callable[..., Any]:
    """Have an act on a page wait until the page's scripts ran: text is seen before they did, and a
    key pressed between the two would be lost."""

    @functools.wraps(act)
    def acting(*args: Any, **kwargs: Any) -> Any:
        (page or args[0].page).wait_for_load_state("domcontentloaded")
        return act(*args, **kwargs)

    return acting


for _act in ("press", "click", "fill", "check", "uncheck", "focus", "hover", "select_option"):
    setattr(Locator, _act, _once_ready(getattr(Locator, _act)))


class BrowserCase(StaticLiveServerTestCase):
    """A page at 1280×800 on a live server; anything on the browser's console fails the test.

    measures: whether every file is read and every survey measured anew, in place of once for each.
    """

    measures = False

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = install(cls, NOW)
        if not cls.measures:
            remember(cls)
        super().setUpClass()
        playwright = sync_playwright().start()
        cls.addClassCleanup(playwright.stop)
        path = shutil.which("chromium") or "/usr/bin/chromium"
        cls.browser = playwright.chromium.launch(executable_path=path, args=list(SWITCHES))
        cls.addClassCleanup(cls.browser.close)
        # Pictures are decoded by children of a server that tests beside this one keep busy.
        expect.set_options(timeout=60_000)

    def setUp(self) -> None:
        make_person(USER, PASSWORD, administrator=True)
        context = self.browser.new_context(
            viewport={"width": 1280, "height": 800}, color_scheme="dark"
        )
        self.addCleanup(context.close)
        self.page: Page = context.new_page()
        self.page.set_default_timeout(120_000)
        keys = self.page.keyboard  # the same one each time, and it does not know its page
        for act in ("press", "type"):
            setattr(keys, act, _once_ready(getattr(keys, act), self.page))
        self.complaints: list[str] = []
        self.page.on("console", self._hear)
        self.page.on("pageerror", lambda error: self.complaints.append(str(error)))

    def tearDown(self) -> None:
        # A request still under way would meet a database that is being taken down.
        self.page.wait_for_load_state("networkidle")
        self.page.goto("about:blank")  # nothing new is asked for from here on
        neighbours.end_all()
        _until_answered()
        _UNDER_WAY.clear()
        self.assertEqual(self.complaints, [])

    def _hear(self, message: Any) -> None:
        # The browser itself notes every answer of 422, which forms with faults are meant to give,
        # that the test reads the canvas back, and that there is no display to draw with. A change
        # is meant to cut off what the one before it asked for, which htmx notes in two lines.
        known = ("422", "willReadFrequently", "GL Driver Message", "WebGL", *CUT_OFF)
        expected = any(words in message.text for words in known)
        if message.type in ("error", "warning") and not expected:
            self.complaints.append(message.text)

    def enter(self) -> Page:
        """Log in as a person would and return the page."""
        self.page.goto(self.live_server_url)
        self.page.get_by_label("Name").fill(USER)
        self.page.get_by_label("Password").fill(PASSWORD)
        self.page.get_by_role("button", name="Log in").click()
        return self.page

    def fits(self) -> None:
        """Check that nothing sticks out of the page sideways."""
        wide = self.page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        self.assertLessEqual(wide, 0)
