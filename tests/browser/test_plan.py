"""Planning in a real browser: mouse and keys move the cut, the server draws, nothing reloads."""

import json
from dataclasses import replace

from playwright.sync_api import expect

from shapkeen.core.promised.specification import shipped_specifications, specification_to_json
from shapkeen.web.library import services
from tests.browser.base import BrowserCase

PLAIN = {"schema": "shapkeen.recipe/1", "coding": {"codec": "h264", "preset": "ultrafast"}}


class Planning(BrowserCase):
    def open_plan(self, key: str = "foghorn-shorts"):
        title = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        page = self.enter()
        page.goto(f"{self.live_server_url}/title/{title.pk}/plan/?specification={key}")
        # A mark that only a reload would wipe out.
        page.evaluate("document.body.dataset.mark = 'here'")
        return page

    def offset(self, page) -> int:
        return int(page.locator("#cut").get_attribute("data-offset").split()[0])

    def test_the_cut_is_dragged_and_moved_by_keys(self) -> None:
        page = self.open_plan()
        self.assertEqual(self.offset(page), 176)
        box = page.locator("#cut rect").bounding_box()
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.move(*middle)
        page.mouse.down()
        page.mouse.move(middle[0] - 40, middle[1] + 30, steps=4)
        page.mouse.up()
        expect(page.locator("#cut")).not_to_have_attribute("data-offset", "176 0")
        dragged = self.offset(page)
        self.assertLess(dragged, 176)
        page.locator("#cut").focus()
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        expect(page.locator("#cut")).to_have_attribute("data-offset", f"{dragged + 6} 0")
        # what is drawn anew keeps the focus, so that the next key moves on
        self.assertEqual(page.evaluate("document.activeElement.id"), "cut")
        page.keyboard.press("Shift+ArrowLeft")
        expect(page.locator("#cut")).to_have_attribute("data-offset", f"{dragged - 14} 0")
        for _ in range(40):
            page.keyboard.press("Shift+ArrowLeft")
        expect(page.locator("#cut")).to_have_attribute("data-offset", "0 0")
        self.assertEqual(page.evaluate("document.body.dataset.mark"), "here")

    def test_choices_shots_and_the_sheet(self) -> None:
        page = self.open_plan()
        page.get_by_label("Size", exact=True).select_option("1080x1350")
        expect(page.locator("#plan")).to_contain_text("1080×1350 at 1:1")
        page.get_by_label("Bit rate, Mb/s").fill("fast")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("must be a number")
        # a slip in one field leaves the form as it is
        expect(page.get_by_label("Bit rate, Mb/s")).to_have_value("fast")
        expect(page.get_by_label("Size", exact=True)).to_have_value("1080x1350")
        page.get_by_label("Bit rate, Mb/s").fill("9")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_be_hidden()
        expect(page.locator("#plan")).to_contain_text("9 Mb/s, variable")
        page.get_by_role("button", name="Own framing from this shot").click()
        expect(page.get_by_label("Shot 1 from")).to_have_value("0:00:00:04")
        page.get_by_label("Shot 1 cut across, per cent").fill("0")
        page.keyboard.press("Enter")
        expect(page.locator("#cut")).to_have_attribute("data-offset", "0 0")
        page.get_by_label("Keep with delivery").fill("Foghorn, upright")
        page.get_by_role("button", name="Keep this plan").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Settings for Foghorn, upright")
        expect(page.locator("#sheet-text")).to_contain_text("Cut, frames 4 to 9")
        page.get_by_role("link", name="Change the plan").click()
        expect(page.get_by_label("Shot 1 cut across, per cent")).to_have_value("0")

    def test_a_specification_is_imported_by_hand(self) -> None:
        # an upload like any other: its token must stand in a header, or it is refused unread
        page = self.enter()
        page.goto(f"{self.live_server_url}/specifications/")
        made = shipped_specifications()[0]
        text = specification_to_json(replace(made, key="by-hand", name="By hand"))
        path = self.folder / "by-hand.json"
        path.write_text(text)
        page.get_by_label("Specification file").set_input_files(str(path))
        page.get_by_role("button", name="Import").click()
        expect(page.get_by_text("By hand").first).to_be_visible()

    def test_no_list_shows_what_the_server_never_took(self) -> None:
        page = self.open_plan()
        size = page.get_by_label("Size", exact=True)
        before = size.input_value()
        page.context.set_offline(True)
        other = next(
            one
            for one in size.locator("option").evaluate_all("all => all.map(one => one.value)")
            if one != before
        )
        size.select_option(other)
        expect(page.get_by_text("Connection lost, trying again")).to_be_visible()
        expect(size).to_have_value(before)
        page.context.set_offline(False)
        expect(page.get_by_text("Connection lost, trying again")).to_be_hidden()
        size.select_option(other)
        expect(page.locator("#plan")).to_contain_text(f"{other.replace('x', '×')} at 1:1")
        known = ("ERR_INTERNET", "htmx:")
        self.complaints = [one for one in self.complaints if not any(w in one for w in known)]

    def test_nothing_is_wider_than_the_window_and_every_field_has_a_name(self) -> None:
        page = self.open_plan()
        for address in ("", "/specifications/", "/specifications/vellmar-dome/"):
            if address:
                page.goto(self.live_server_url + address)
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, 1280, address)
            nameless = page.evaluate(
                "[...document.querySelectorAll('main input:not([type=hidden]), main select')]"
                ".filter((f) => !f.labels.length && !f.ariaLabel).map((f) => f.name)"
            )
            self.assertEqual(nameless, [])

    def test_a_recipe_is_filled_in_and_made_by_keys_alone(self) -> None:
        title = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        page = self.enter()
        page.goto(f"{self.live_server_url}{title.get_absolute_url()}")
        page.get_by_role("link", name="Versions").press("Enter")
        expect(page.get_by_text("No recipe yet")).to_be_visible()
        page.get_by_role("link", name="New recipe").first.press("Enter")
        page.get_by_label("Name", exact=True).fill("Foghorn")
        page.get_by_label("Size").fill("wide")
        page.get_by_label("Name", exact=True).press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("A size is width × height")
        self.fits()
        page.get_by_label("Size").fill("360x360")
        page.get_by_label("Speed").select_option("ultrafast")
        page.get_by_role("button", name="Keep the recipe").press("Enter")
        expect(page.get_by_label("Make Foghorn")).to_be_checked()
        # the version is made within the answer here: a key need not wait for it, the page may
        page.get_by_role("button", name="Make the chosen ones").press("Enter", no_wait_after=True)
        made = page.get_by_role("row", name="Foghorn").get_by_role("link", name="kept")
        expect(made).to_be_visible(timeout=120_000)
        self.fits()
        made.press("Enter")
        expect(page.get_by_role("heading", name="Foghorn")).to_be_visible()

    def test_a_recipe_comes_in_as_a_file_and_is_moved_by_keys(self) -> None:
        title = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        page = self.enter()
        page.goto(f"{self.live_server_url}/title/{title.pk}/versions/")
        for name in ("Bell", "Anchor"):
            text = json.dumps({**PLAIN, "name": name}).encode()
            file = {"name": "a.json", "mimeType": "application/json", "buffer": text}
            page.get_by_label("A recipe file").set_input_files([file])
            page.get_by_role("button", name="Import").press("Enter")
            expect(page.get_by_text(f"Kept: {name}, version 1.")).to_be_visible()
        with page.expect_response("**/order/"):  # rows move at once; a reload must not overtake it
            page.get_by_role("button", name="Anchor sooner").press("Enter")
        expect(page.locator("tbody tr").first).to_contain_text("Anchor")
        page.reload()
        expect(page.locator("tbody tr").first).to_contain_text("Anchor")
