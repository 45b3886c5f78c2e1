"""Look by address, timecode and keys; the Shelf as one types; a promise by rows."""

from django.urls import reverse
from playwright.sync_api import expect

from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt
from tests.browser.base import BrowserCase


class Looking(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        title = services.create_title("The Dial", "a note", "footage", "master.mov", by=None)
        self.made = services.add_attempt(title, "Harbour", "footage", "untagged.mp4", by=None)
        services.create_title("Elsewhere", "", "footage", "reels/other.mp4", by=None)
        self.enter()

    def look(self, query: str = "") -> None:
        self.page.goto(self.live_server_url + reverse("look:look", args=[self.made.pk]) + query)
        expect(self.page.locator(".sk-lookwords")).to_contain_text("SSIM")

    def test_the_address_holds_moment_layout_and_place(self) -> None:
        self.look("?frame=4&way=beside&zoom=2&x=0.25&y=0.5")
        words = self.page.locator(".sk-lookwords")
        # 24 frames a second: frame 4 is the fifth of the first second (SMPTE ST 12-1).
        expect(words).to_contain_text("00:00:00:04")
        beside = self.page.get_by_role("button", name="Side by side")
        expect(beside).to_have_attribute("aria-pressed", "true")
        self.page.keyboard.press("b")
        self.page.keyboard.press(".")
        expect(words).to_contain_text("00:00:00:05")
        self.page.wait_for_url("**/look/?frame=5&way=alternate&zoom=2.000&x=0.250&y=0.500")

    def test_a_timecode_is_gone_to_and_nonsense_refused(self) -> None:
        self.look()
        self.page.keyboard.press("g")
        self.page.keyboard.type("00:00:00:07")
        self.page.keyboard.press("Enter")
        expect(self.page.locator(".sk-lookwords")).to_contain_text("export 7")
        field = self.page.get_by_label("Go to a timecode")
        field.fill("99:00:00:00")
        field.press("Enter")
        said = field.evaluate("(field) => field.validationMessage")
        self.assertIn("A timecode from 00:00:00:00", said)

    def test_it_plays_both_ways_and_over_a_stretch(self) -> None:
        self.look("?frame=2")
        words = self.page.locator(".sk-lookwords")
        for key in ("(", *"." * 6, ")"):
            self.page.keyboard.press(key)
        self.page.wait_for_url("**from=2&to=8")
        self.page.keyboard.press("l")
        expect(words).to_contain_text("playing", timeout=20_000)
        self.page.keyboard.press("l")
        expect(words).to_contain_text("playing at 2×")
        self.page.keyboard.press("j")
        expect(words).to_contain_text("playing back at 1×")
        seen = set()
        for _ in range(40):
            self.page.wait_for_timeout(25)
            seen.add(int(words.inner_text().partition("export ")[2].split()[0]))
        self.assertGreaterEqual(len(seen), 3)  # every second of seven frames
        self.assertTrue(seen <= set(range(2, 9)), seen)
        self.page.keyboard.press("k")
        expect(words).to_contain_text("SSIM")
        self.page.keyboard.press("x")
        self.page.wait_for_function("() => !location.search.includes('from')")

    def test_where_less_motion_is_asked_for_pictures_alternate_by_a_press(self) -> None:
        self.page.emulate_media(reduced_motion="reduce")
        self.look("?way=alternate")
        shown = "() => document.querySelector('.sk-canvas').toDataURL()"
        self.page.wait_for_timeout(300)
        before = self.page.evaluate(shown)
        self.page.wait_for_timeout(900)  # it would have changed twice by now
        self.assertEqual(self.page.evaluate(shown), before)
        self.page.locator(".sk-canvas").click()
        self.assertNotEqual(self.page.evaluate(shown), before)

    def test_scopes_are_of_the_shown_moment_or_of_an_area(self) -> None:
        self.look("?scopes")
        scopes = self.page.get_by_label("Scopes", exact=True)
        expect(scopes.get_by_role("img")).to_have_count(3)
        expect(scopes).to_contain_text("All of the picture")
        self.page.keyboard.press("p")
        for _ in range(3):
            self.page.keyboard.press("]")
        expect(scopes).to_contain_text("samples of the master")
        self.fits()
        self.page.keyboard.press("t")
        expect(scopes).to_be_hidden()

    def test_the_keys_are_listed_by_a_key(self) -> None:
        self.look()
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("heading", name="Keys on this page")).to_be_visible()
        self.page.keyboard.press("Escape")
        expect(self.page.get_by_role("heading", name="Keys on this page")).to_be_hidden()

    def test_the_shelf_finds_as_one_types(self) -> None:
        expect(self.page.get_by_role("link", name="Elsewhere")).to_be_visible()
        self.page.get_by_label("Find titles").fill("dial harb")
        expect(self.page.get_by_role("link", name="Elsewhere")).to_be_hidden()
        expect(self.page.get_by_role("link", name="The Dial")).to_be_visible()
        self.page.get_by_label("Find titles").fill("nothing like it")
        expect(self.page.get_by_text("Nothing is found")).to_be_visible()

    def test_what_is_chosen_outlives_the_list_and_one_act_is_for_all_of_it(self) -> None:
        bar = self.page.locator("#many")
        expect(bar).to_be_hidden()
        self.page.get_by_label("Choose Harbour").check()
        expect(bar).to_contain_text("1 chosen")
        self.page.get_by_label("Find titles").fill("elsewhere")
        expect(self.page.get_by_label("Choose Harbour")).to_have_count(0)
        expect(bar).to_contain_text("1 chosen")  # though it is not on this page of the list
        self.fits()
        bar.get_by_role("button", name="Measure again").press("Enter")
        expect(self.page.get_by_text("The Dial › Harbour › attempt 1")).to_be_visible()

    def test_a_promise_shows_what_it_would_change_then_is_kept(self) -> None:
        delivery = Attempt.objects.get(pk=self.made.pk).delivery
        self.page.goto(self.live_server_url + delivery.get_absolute_url())
        self.page.get_by_label("Raster", exact=True).select_option("1920×1080")
        expect(self.page.locator("#preview")).to_contain_text("raster: kept → lost")
        self.page.get_by_role("button", name="Keep, and judge by it").click()
        expect(self.page.get_by_text("The promise was saved")).to_be_visible()
        delivery.refresh_from_db()
        self.assertIn("1920", delivery.promise_text)
        self.fits()

    def test_the_bench_proves_by_pictures(self) -> None:
        self.page.goto(self.live_server_url + self.made.get_absolute_url())
        pictures = self.page.locator(".sk-causepair img, .sk-band img")
        self.assertGreaterEqual(pictures.count(), 4)
        for number in range(pictures.count()):
            expect(pictures.nth(number)).to_have_js_property("complete", value=True)
            self.assertGreater(pictures.nth(number).evaluate("(one) => one.naturalWidth"), 5)
