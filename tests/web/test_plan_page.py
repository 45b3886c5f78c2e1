"""The Plan page, kept plans with their settings sheets, and what came back otherwise."""

from unittest.mock import patch

from shapkeen.core.errors import UnreadableFileError
from shapkeen.web.library.models import Delivery, Title
from shapkeen.web.plan.models import EncodingSpeed, KeptPlan
from tests.web.base import WebCase


class PlanPage(WebCase):
    def address(self, **query: str) -> str:
        title = Title.objects.first() or self.title()
        asked = "&".join(f"{name}={value}" for name, value in query.items())
        return f"/title/{title.pk}/plan/?{asked}"

    def plan(self, **query: str) -> str:
        answer = self.client.get(self.address(specification="foghorn-shorts", **query))
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def test_everything_follows_from_master_and_specification(self) -> None:
        page = self.plan()
        # a 640×360 master for 4:5: 288×360 of it, enlarged 2.5 times into 720×900
        for words in (
            "288×360 at x 176, y 0",
            "An enlargement by 2.5 is not whole",
            "in a frame of 4:5",
            "shorter than the 3 s",
            "Settings sheet",
            "H.264 High",
            "Codecs and levels that carry it",
        ):
            self.assertIn(words, page)

    def test_choices_change_what_follows(self) -> None:
        self.assertIn("288×360 at x 0, y 0", self.plan(across="0"))
        self.assertIn("Bars inside the picture are not taken", self.plan(mode="bars"))
        self.assertIn("12 Mb/s", self.plan(bit_rate="12"))

    def test_marks_shorten_what_is_delivered(self) -> None:
        page = self.plan(mark_in="2", mark_out="0:00:00:06")
        self.assertIn("0:00:00:02 to 0:00:00:06, frames 2 to 6 of the master, 5 in all", page)
        self.assertIn('value="0:00:00:06"', page)
        for query, words in (
            ({"mark_in": "soon"}, "The mark in: &#x27;soon&#x27; is no time"),
            ({"mark_in": "6", "mark_out": "5"}, "at least one frame remains"),
            ({"mark_out": "500"}, "behind the master&#x27;s last frame, 9"),
        ):
            answer = self.client.get(self.address(specification="foghorn-shorts", **query))
            self.assertContains(answer, words, status_code=422)

    def test_kept_plans_stand_beside_each_other(self) -> None:
        self.assertContains(self.client.get(self.beside()), "No plan is kept yet")
        for name, marks in (("Foghorn", {}), ("Teaser", {"mark_in": "0", "mark_out": "4"})):
            self.client.post(
                f"/title/{Title.objects.get().pk}/plan/keep/",
                {"specification": "foghorn-shorts", "delivery_name": name, **marks},
            )
        page = self.client.get(self.beside()).content.decode()
        for words in ("Foghorn", "Teaser", "720×900", "level", "between marks", "is not whole"):
            self.assertIn(words, page)
        promise = Delivery.objects.get(name="Teaser").overrides()
        self.assertEqual(promise.value("frames"), {"in": 0, "out": 5})

    def beside(self) -> str:
        title = Title.objects.first() or self.title()
        return f"/title/{title.pk}/plans/"

    def test_htmx_gets_only_what_changes(self) -> None:
        address = self.address(specification="foghorn-shorts", part="plan")
        part = self.client.get(address, headers={"HX-Request": "true"}).content.decode()
        self.assertTrue(part.lstrip().startswith('<div id="plan"'))
        self.assertNotIn("<html", part)

    def test_faults_are_said_and_nothing_is_lost(self) -> None:
        for query, words in (
            ({"bit_rate": "fast"}, "The bit rate must be a number"),
            ({"mode": "cut", "size": "1080x1350"}, "larger than the master"),
            (
                {"shot_in": "0", "shot_out": "1:00", "shot_across": "0", "shot_down": "0"},
                "ends after",
            ),
            ({"shot_in": "x", "shot_out": "9", "shot_across": "0", "shot_down": "0"}, "no time"),
        ):
            answer = self.client.get(self.address(specification="foghorn-shorts", **query))
            self.assertContains(answer, words, status_code=422)
        self.assertEqual(self.client.get(self.address(specification="nobody")).status_code, 404)

    def test_a_slip_leaves_the_other_fields_as_they_are(self) -> None:
        query = {"specification": "foghorn-shorts", "bit_rate": "fast", "size": "1080x1350"}
        answer = self.client.get(self.address(part="plan", **query), headers={"HX-Request": "true"})
        self.assertEqual((answer.status_code, answer["HX-Retarget"]), (422, "#plan-error"))
        self.assertNotContains(answer, "<select", status_code=422)
        whole = self.client.get(self.address(**query))
        self.assertContains(whole, '<option value="1080x1350" selected>', status_code=422)
        kept = self.client.post(
            f"/title/{Title.objects.get().pk}/plan/keep/", {**query, "delivery_name": "Foghorn"}
        )
        self.assertIn("size=1080x1350", kept["Location"])

    def test_speed_is_a_choice_where_rates_are_near(self) -> None:
        self.assertIn("played faster or slower, each frame once", self.plan(rate="25/1"))
        self.assertNotIn("played faster or slower", self.plan(rate="50/1"))

    def test_shots_are_added_and_taken_out(self) -> None:
        page = self.plan(frame="4", add="1")
        self.assertIn('value="0:00:00:04"', page)
        page = self.plan(
            shot_in="0", shot_out="5", shot_across="10", shot_down="50", frame="2", drop="0"
        )
        self.assertNotIn('name="shot_in"', page)
        moved = self.plan(shot_in="0", shot_out="5", shot_across="0", shot_down="50", frame="2")
        self.assertIn("288×360 at x 0, y 0", moved)

    def test_stills_of_the_master_are_drawn(self) -> None:
        title = self.title()
        answer = self.client.get(f"/title/{title.pk}/still/3.png")
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/png"))

    def test_speed_is_measured_in_a_child_and_kept(self) -> None:
        title = self.title()
        fields = {"specification": "foghorn-shorts", "delivery_name": "Foghorn"}
        answer = self.client.post(f"/title/{title.pk}/plan/speed/", fields)
        self.assertContains(answer, "frames/s measured")
        self.assertGreater(EncodingSpeed.objects.get(codec="h264").samples_a_second, 100_000)
        failing = UnreadableFileError("The trial failed.", code="x", where="")
        with patch("shapkeen.web.plan.services.run_child", side_effect=failing):
            answer = self.client.post(f"/title/{title.pk}/plan/speed/", fields)
        self.assertContains(answer, "The trial failed.", status_code=422)


class KeptPlans(WebCase):
    FIELDS = {"specification": "foghorn-shorts", "delivery_name": "Foghorn", "across": "25"}

    def keep(self, title: Title, **more: str) -> Delivery:
        answer = self.client.post(f"/title/{title.pk}/plan/keep/", self.FIELDS | more)
        delivery = Delivery.objects.get(name="Foghorn")
        self.assertRedirects(answer, f"/delivery/{delivery.pk}/sheet/")
        return delivery

    def test_a_kept_plan_becomes_the_promise_and_a_sheet(self) -> None:
        delivery = self.keep(self.title())
        promise = delivery.overrides()
        self.assertEqual(promise.value("raster"), (720, 900))
        self.assertEqual(promise.value("framing"), {"crop": (88, 0, 288, 360)})
        answer = self.client.get(f"/delivery/{delivery.pk}/sheet/")
        for words in ("720 × 900 samples", "288 × 360 of the master at x 88", "H.264", "Print"):
            self.assertContains(answer, words)
        page = self.client.get(f"/title/{delivery.title.pk}/plan/?delivery={delivery.pk}")
        self.assertContains(page, "288×360 at x 88, y 0")

    def test_another_plan_takes_its_place_and_what_was_added_by_hand_stays(self) -> None:
        title = self.title()
        delivery = self.keep(title)
        text = delivery.promise_text.replace(
            '"traits": {',
            '"traits": {"content_light": {"weight": "should", "value": '
            '{"max_cll": 400, "max_fall": 90}},',
        )
        Delivery.objects.filter(pk=delivery.pk).update(promise_text=text)
        again = self.keep(title, specification="tidewater-club").overrides()
        self.assertEqual(again.value("content_light"), {"max_cll": 400, "max_fall": 90})
        self.assertIsNone(again.value("framing"))
        self.assertEqual(KeptPlan.objects.count(), 1)

    def test_a_plan_that_cannot_be_is_not_kept(self) -> None:
        title = self.title()
        for more in ({"bit_rate": "fast"}, {"delivery_name": " "}):
            answer = self.client.post(
                f"/title/{title.pk}/plan/keep/", self.FIELDS | more, follow=True
            )
            status = 422 if "bit_rate" in more else 200
            self.assertContains(answer, "The plan was not kept", status_code=status)
        self.assertEqual(KeptPlan.objects.count(), 0)
        self.assertEqual(self.client.get("/delivery/99/sheet/").status_code, 404)

    def test_the_bench_says_what_came_back_otherwise(self) -> None:
        attempt = self.attempt()
        name = attempt.delivery.name
        title = attempt.delivery.title
        self.client.post(
            f"/title/{title.pk}/plan/keep/",
            {"specification": "lantern-archive", "delivery_name": name, "coding": "prores 422"},
        )
        answer = self.client.get(attempt.get_absolute_url())
        self.assertContains(answer, "Set in the plan, and otherwise in the file")
        self.assertContains(answer, "ProRes")
        shelf = self.client.get(f"/title/{title.pk}/")
        self.assertContains(shelf, f"/delivery/{attempt.delivery.pk}/sheet/")
