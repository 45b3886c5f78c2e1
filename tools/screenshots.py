"""Takes the pictures of docs/screenshots anew from a running, measured demo.

Usage: .venv/bin/python tools/screenshots.py ADDRESS [NAME …]. The demo's own numbers are used; what
is not made there yet (a rehearsal, a look-up table, versions) is made first, by its page.
"""

import sys
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

GOAL = Path(__file__).parents[1] / "docs" / "screenshots"
FOOTAGE = Path(__file__).parents[1] / "shapkeen" / "demo" / "shipped_footage"
SIZE = {"width": 1280, "height": 800}
LONG_MS = 180_000


def scopes(page: Page) -> None:
    """Look at the scopes of an area."""
    page.wait_for_timeout(2500)
    page.keyboard.press("t")
    page.wait_for_timeout(4000)


def arrived(page: Page) -> None:
    """Send some files, as if they were dropped."""
    names = ("trailer-gannet.mp4", "ticking-skerry.mp4", "room-quayside.mp4", "wide-mole.mp4")
    if not page.locator(".sk-arrivals").count():
        files = [str(FOOTAGE / name) for name in names]
        page.set_input_files("[data-send-files]:not([webkitdirectory])", files)
    page.wait_for_selector(".sk-arrivals", timeout=LONG_MS)


def promise(page: Page) -> None:
    """Ask for something, without keeping it."""
    page.get_by_label("Raster", exact=True).select_option("1920×1080")
    page.wait_for_timeout(3000)


def received(page: Page) -> None:
    """Go on to the picture of the rehearsal that is open."""
    page.locator(".sk-seen a").nth(2).click()
    page.wait_for_timeout(6000)


def nothing(_page: Page) -> None:
    """Show a page as it comes."""


Steps = Callable[[Page], None]
SHOTS: dict[str, tuple[str, int, Steps]] = {
    # name → address, ms to settle, what is done before the picture
    "shelf": ("/", 1500, nothing),
    "arrived": ("/arrived/", 800, arrived),
    "title": ("/title/1/", 1500, nothing),
    "plan": ("/title/4/plan/?specification=foghorn-shorts", 3000, nothing),
    "versions": ("/title/7/versions/", 1500, nothing),
    "sign-off": ("/attempt/2/sign-off/", 1500, nothing),
    "bench": ("/attempt/7/", 2500, nothing),
    "bench-kept": ("/attempt/2/", 2500, nothing),
    "bench-sound": ("/attempt/44/", 2500, nothing),
    "table": ("/attempt/5/table/", 12_000, nothing),
    "tags": ("/file/1/tags/", 1500, nothing),
    "look": ("/attempt/16/look/", 5000, nothing),
    "look-hdr": ("/attempt/7/look/?frame=26", 1500, scopes),
    "look-around": ("/attempt/46/look/around/", 7000, nothing),
    "look-eyes": ("/attempt/50/look/eyes/", 7000, nothing),
    "rehearsal": ("/rehearsal/1/", 4000, nothing),
    "received": ("/rehearsal/1/", 3000, received),
    "file": ("/file/1/", 2500, nothing),
    "delivery-promise": ("/title/1/promise/", 1500, promise),
}


def main(words: list[str]) -> None:
    """Take the pictures that are named, or all."""
    base, names = words[0].rstrip("/"), words[1:] or list(SHOTS)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox"]
        )
        page = browser.new_context(viewport=SIZE, color_scheme="dark").new_page()
        page.goto(f"{base}/log-in/")
        page.fill("#id_username", "editor")
        page.fill("#id_password", "orrery-keeper")
        page.keyboard.press("Enter")
        page.wait_for_url(f"{base}/")
        for name in names:
            address, settles_ms, steps = SHOTS[name]
            answer = page.goto(base + address)
            page.wait_for_timeout(settles_ms)
            steps(page)
            page.screenshot(path=GOAL / f"{name}.png")
            sys.stdout.write(f"{name} {answer.status if answer else 0}\n")
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1:])
