"""What a delivery asks for, on its own page."""

import json

from shapkeen.web.library.models import Attempt, Delivery
from tests.web.base import WebCase


def promise(**traits: object) -> str:
    return json.dumps({"schema": "shapkeen.promise/1", "traits": traits})


class PromisePage(WebCase):
    def page(self) -> str:
        self.attempt(measured=False)
        return Delivery.objects.get().get_absolute_url()

    def test_shows_what_is_in_force(self) -> None:
        answer = self.client.get(self.page())
        self.assertContains(answer, "What Harbour asks for")
        self.assertContains(answer, "moov/trak[0]")
        self.assertContains(answer, "at least 8 bits<")
        self.assertNotContains(answer, "data-asked")

    def test_a_promise_is_saved_and_the_attempt_judged_at_once(self) -> None:
        attempt = self.attempt()
        page = Delivery.objects.get().get_absolute_url()
        text = promise(frame_rate={"one_of": [[25, 1], [30, 1]]}, raster={"at_least": [640, 360]})
        self.assertRedirects(self.client.post(page, {"promise_text": text}), page)
        answer = self.client.get(page)
        self.assertContains(answer, "one of 25, 30 frames/s<")
        self.assertContains(answer, "at least 640×360")
        self.assertContains(answer, "data-asked", count=2)
        judged = Attempt.objects.with_context().get(pk=attempt.pk)
        self.assertEqual((judged.judgement.overall, judged.out_of_date), ("lost", []))
        self.assertIn("frame rate", judged.judgement.broken)
        self.assertEqual(self.state(attempt), "done")

    def test_a_faulty_promise_is_refused_with_its_place(self) -> None:
        page = self.page()
        answer = self.client.post(page, {"promise_text": promise(transfer={"value": "PQ"})})
        self.assertContains(answer, "traits/transfer/value", status_code=422)
        self.assertEqual(Delivery.objects.get().promise_text, "")

    def test_an_empty_promise_asks_for_nothing(self) -> None:
        page = self.page()
        self.client.post(page, {"promise_text": promise(transfer={"value": 16})})
        self.client.post(page, {"promise_text": "  "})
        self.assertIsNone(Delivery.objects.get().overrides())

    def test_unknown_deliveries_are_not_found(self) -> None:
        self.assertEqual(self.client.get("/delivery/999/promise/").status_code, 404)
