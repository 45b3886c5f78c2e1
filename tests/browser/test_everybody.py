"""Every page for everybody: axe-core (npm) finds nothing by WCAG 2.1 A and AA, both themes."""

from pathlib import Path

from django.urls import reverse

from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from shapkeen.web.signoff import digests, links
from tests.browser.base import BrowserCase

AXE = (Path(__file__).parents[1] / "vendor" / "axe-core" / "axe.min.js").read_text()
RUN = """() => axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa"]}).then(
  (found) => found.violations.map(
    (one) => `${one.id}: ${one.nodes.length} at ${one.nodes[0].target}`))"""


class Everybody(BrowserCase):
    def addresses(self) -> list[str]:
        title = services.create_title("The Dial", "a note", "footage", "master.mov", by=None)
        made = services.add_attempt(title, "Harbour", "footage", "untagged.mp4", by=None)
        attempt = Attempt.objects.with_context().get(pk=made.pk)
        digests.wanted(attempt, digests.both(attempt))
        links.make_link(attempt, "colour", days=2, remarks=True, signs=True, by=None)
        of_title = ("title", "history", "tidy-title", "add-export")
        of_attempt = ("bench:bench", "look:look", "signoff:signoff", "reports:ask", "bench:differ")
        return [
            *(
                reverse(f"library:{name}")
                for name in ("shelf", "add-title", "bin", "house-history")
            ),
            *(reverse(f"library:{name}", args=[title.pk]) for name in of_title),
            *(reverse(name, args=[attempt.pk]) for name in of_attempt),
            f"{attempt.get_absolute_url()}?open=transfer",
            reverse("rehearsal:rehearse", args=[attempt.pk]),
            reverse("plan:plan", args=[title.pk]),
            reverse("versions:versions", args=[title.pk]),
            reverse("bench:file", args=[attempt.reel_id]),
            reverse("bench:tags", args=[attempt.reel_id]),
            attempt.delivery.get_absolute_url(),
            *(reverse(name) for name in ("plan:specifications", "rehearsal:stand-ins")),
            *(reverse(name) for name in ("archive:listing", "archive:disk-use")),
            *(reverse(name) for name in ("accounts:people", "accounts:own")),
        ]

    def violations(self, address: str) -> list[str]:
        self.page.goto(self.live_server_url + address)
        self.page.wait_for_load_state("networkidle")
        self.page.evaluate(AXE)
        found: list[str] = self.page.evaluate(RUN)
        return found

    def test_no_page_has_a_violation_in_either_theme(self) -> None:
        addresses = self.addresses()
        self.enter()
        faults = {}
        for theme in ("dark", "light"):
            self.page.emulate_media(color_scheme=theme)
            for address in addresses:
                found = self.violations(address)
                if found:
                    faults[f"{theme} {address}"] = found
        self.assertEqual(faults, {})
