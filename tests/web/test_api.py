"""The HTTP API: tokens, a render script's whole way, refusals, and schemathesis over it all."""

import io
import json
from collections.abc import Mapping
from datetime import timedelta
from typing import Any

import schemathesis
from django.test import Client
from django.utils import timezone
from hypothesis import HealthCheck, Phase, given, settings, strategies
from openapi_spec_validator import validate

from shapkeen.core.errors import UsageError
from shapkeen.web.api import uploads
from shapkeen.web.api.models import ApiToken, Remembered, Upload
from shapkeen.web.api.tokens import end_token, make_token
from shapkeen.web.library.models import Attempt, Delivery
from shapkeen.web.people.rights import make_person
from shapkeen.web.people.roles import VIEWER
from shapkeen.web.reports.models import KeptReport
from shapkeen.web.work.tasks import run_job
from tests.web.base import WebCase

BASE = "/api/v1"
JSON = "application/json"


class ApiCase(WebCase):
    scope = "whole"

    def setUp(self) -> None:
        super().setUp()
        self.program = self.program_of(self.user)

    def program_of(self, user: Any, scope: str = "") -> Client:
        """Return a program that asks with a token, and has no cookies."""
        _, token = make_token(user, "a render script", scope or self.scope, 7)
        return Client(headers={"Authorization": f"Bearer {token}"}, enforce_csrf_checks=True)

    def ask(self, method: str, place: str, body: Any = None, **headers: str) -> Any:
        told = {} if body is None else {"data": json.dumps(body), "content_type": JSON}
        return getattr(self.program, method)(BASE + place, headers=headers, **told)

    def made_title(self) -> int:
        told = {"name": "The Dial", "root": "footage", "path": "master.mov"}
        return self.ask("post", "/titles", told).json()["id"]


class Way(ApiCase):
    def test_a_render_script_delivers_and_reads_the_verdict(self) -> None:
        title = self.made_title()
        size = (self.folder / "footage" / "untagged.mp4").stat().st_size
        data = (self.folder / "footage" / "untagged.mp4").read_bytes()
        upload = self.ask("post", "/uploads", {"name": "v1.mp4", "size_bytes": size}).json()
        place = f"{BASE}/uploads/{upload['id']}?offset="
        half = size // 2
        for part, offset, status in (
            (data[:half], 0, 200),
            (data[:half], 0, 422),  # sent twice: it is told where to go on
            (data[half:], half, 200),
            (b"more", size, 422),
        ):
            answer = self.program.put(f"{place}{offset}", part, "application/octet-stream")
            self.assertEqual(answer.status_code, status, answer.content)
        self.assertEqual(self.ask("get", f"/uploads/{upload['id']}").json()["received"], size)
        made = self.ask(
            "post", f"/titles/{title}/exports", {"delivery": "Harbour", "upload_id": upload["id"]}
        )
        self.assertEqual(made.status_code, 201)
        attempt = made.json()
        self.assertEqual((attempt["number"], attempt["job"]["state"]), (1, "waiting"))
        judgement = f"/attempts/{attempt['id']}/judgement"
        self.assertEqual(self.ask("get", judgement).json()["code"], "not-judged")
        run_job.func(attempt["job"]["id"])
        found = self.ask("get", f"/attempts/{attempt['id']}").json()
        self.assertEqual((found["judged"]["overall"], found["job"]["state"]), ("lost", "done"))
        told = self.ask("get", judgement).json()
        self.assertEqual((told["schema"], told["overall"]), ("shapkeen.survival/1", "lost"))
        self.assertTrue(all(cause["cure"] for cause in told["causes"]))
        self.assertFalse(Upload.objects.exists())
        listed = self.ask("get", f"/titles/{title}/attempts?verdict=lost&limit=1").json()
        self.assertEqual((listed["count"], listed["items"][0]["id"]), (1, attempt["id"]))
        self.assertEqual(self.ask("get", "/titles?q=nothing").json()["count"], 0)

    def test_promises_are_said_and_judged_by(self) -> None:
        self.attempt()
        delivery = Delivery.objects.get()
        wide = {"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [3840, 2160]}}}
        for place in (f"/deliveries/{delivery.pk}/promise", f"/titles/{delivery.title_id}/promise"):
            answer = self.ask("put", place, {"promise": wide})
            self.assertEqual((answer.status_code, answer.json()["promise"]), (200, wide))
            judged = Attempt.objects.with_context().get().judgement
            self.assertEqual(judged.overall, "lost")
            self.ask("put", place, {"promise": None})
            self.assertIsNone(self.ask("get", place).json()["promise"])
        bad = {"schema": "shapkeen.promise/1", "traits": {"raster": {"value": "wide"}}}
        answer = self.ask("put", f"/deliveries/{delivery.pk}/promise", {"promise": bad})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("raster", answer.json()["where"])

    def test_a_report_is_asked_for_and_taken(self) -> None:
        attempt = self.attempt()
        made = self.ask("post", f"/attempts/{attempt.pk}/reports", {"form": "csv"})
        report = made.json()
        self.assertEqual(made.status_code, 202)
        file = f"/reports/{report['id']}/file"
        self.assertEqual(self.ask("get", file).json()["code"], "not-made")
        run_job.func(report["job"]["id"])
        self.assertEqual(KeptReport.objects.get().size_bytes, len(self.ask("get", file).getvalue()))

    def test_the_same_key_counts_once(self) -> None:
        title = self.made_title()
        told = {"delivery": "Harbour", "root": "footage", "path": "healthy.mp4"}
        place, key = f"/titles/{title}/exports", {"Idempotency-Key": "job-17"}
        first, second = (self.ask("post", place, told, **key) for _ in range(2))
        self.assertEqual(first.json(), second.json())
        self.assertEqual(second["Idempotent-Replay"], "true")
        self.assertEqual(Attempt.objects.count(), 1)
        other = self.ask("post", place, {**told, "delivery": "Quay"}, **key)
        self.assertEqual((other.status_code, other.json()["code"]), (422, "key-used"))
        Remembered.objects.update(status=0)
        self.assertEqual(self.ask("post", place, told, **key).status_code, 409)
        # One that was never answered, for the server went down, may be tried again.
        Remembered.objects.update(made_at=timezone.now() - timedelta(minutes=11))
        self.assertEqual(self.ask("post", place, told, **key).json()["number"], 2)

    def test_a_refusal_is_repeated_as_it_was(self) -> None:
        title, key = self.made_title(), {"Idempotency-Key": "refused"}
        self.program = self.program_of(self.user, "read")
        for _ in range(2):
            answer = self.ask("post", f"/titles/{title}/exports", {"delivery": "H"}, **key)
            self.assertEqual((answer.status_code, answer.json()["status"]), (403, 403))
            self.assertEqual(answer["Content-Type"], "application/problem+json")


class Making(ApiCase):
    def test_a_plan_is_kept_with_its_sheet(self) -> None:
        self.attempt(measured=False)
        place = f"/deliveries/{Delivery.objects.get().pk}/plan"
        self.assertEqual(self.ask("get", place).status_code, 404)
        known = self.ask("get", "/specifications").json()["items"]
        keys = {one["key"] for one in known}
        self.assertIn("foghorn-shorts", keys)
        told = {"specification": "foghorn-shorts", "fields": {"size": "1080x1350"}}
        kept = self.ask("put", place, told)
        self.assertEqual(kept.status_code, 200, kept.content)
        self.assertEqual(kept.json(), self.ask("get", place).json())
        self.assertEqual(kept.json()["fields"]["size"], "1080x1350")
        self.assertTrue(kept.json()["sheet"])
        promise = self.ask("get", place.replace("plan", "promise")).json()["promise"]
        self.assertEqual(promise["traits"]["raster"]["value"], [1080, 1350])
        for fields in ({"bit_rate": "fast"}, {"colour": "nice"}):
            bad = {"specification": "foghorn-shorts", "fields": fields}
            self.assertEqual(self.ask("put", place, bad).status_code, 422, fields)
        gone = self.ask("put", place, {"specification": "nobody"}).json()
        self.assertEqual(gone["where"], "specification")

    def test_a_recipe_is_kept_and_made(self) -> None:
        title = self.made_title()
        coding = {"codec": "h264", "preset": "ultrafast"}
        recipe = {"schema": "shapkeen.recipe/1", "name": "Bell", "coding": coding}
        kept = self.ask("post", f"/titles/{title}/recipes", {"recipe": recipe})
        self.assertEqual(kept.status_code, 201, kept.content)
        number = kept.json()["id"]
        self.assertEqual(self.ask("get", f"/recipes/{number}").json(), kept.json())
        self.assertEqual(self.ask("get", f"/titles/{title}/recipes").json()["count"], 1)
        asked = self.ask("post", f"/recipes/{number}/versions").json()
        self.assertEqual((len(asked), asked[0]["attempt_id"]), (1, None))
        self.assertIn(asked[0]["job"]["id"], [one["id"] for one in self.ask("get", "/jobs").json()])
        run_job.func(asked[0]["job"]["id"])
        made = self.ask("get", f"/recipes/{number}/versions").json()["items"]
        self.assertEqual(made[0]["attempt_id"], Attempt.objects.get().pk)
        bad = self.ask("post", f"/titles/{title}/recipes", {"recipe": {"name": "Bell"}})
        self.assertEqual(bad.status_code, 422)

    def test_a_cure_is_read_and_written(self) -> None:
        lost = self.attempt("untagged.mp4")
        offer = self.ask("get", f"/attempts/{lost.pk}/cure").json()
        self.assertEqual((offer["possible"], offer["overall"]), (True, "kept"))
        self.assertIn({"trait": "transfer", "value": 1}, offer["says"])
        job = self.ask("post", f"/attempts/{lost.pk}/cure", {})
        self.assertEqual(job.status_code, 202)
        run_job.func(job.json()["id"])
        self.assertEqual(Attempt.objects.filter(delivery=lost.delivery_id).count(), 2)
        kept = self.attempt("healthy.mp4")
        self.assertFalse(self.ask("get", f"/attempts/{kept.pk}/cure").json()["possible"])
        refused = self.ask("post", f"/attempts/{kept.pk}/cure", {}).json()
        self.assertEqual(refused["code"], "nothing-to-cure")

    def test_a_rehearsal_is_asked_for_and_read(self) -> None:
        attempt = self.attempt("healthy.mp4", measured=False)
        place, keys = f"/attempts/{attempt.pk}/rehearsals", self.ask("get", "/stand-ins").json()
        asked = self.ask("post", place, {"stand_in": keys[0]})
        self.assertEqual((asked.status_code, asked.json()["found"]), (202, {}))
        self.assertEqual(self.ask("get", place).json()["count"], 1)
        found = self.ask("get", f"/rehearsals/{asked.json()['id']}").json()
        self.assertEqual(found, asked.json())
        gone = self.ask("post", place, {"stand_in": "nobody"}).json()
        self.assertEqual(gone["code"], "unknown-service")

    def test_reading_makes_nothing(self) -> None:
        lost, title = self.attempt("untagged.mp4"), Delivery.objects.get().title_id
        self.program = self.program_of(self.user, "read")
        for method, place, body in (
            ("post", f"/attempts/{lost.pk}/cure", {}),
            ("post", f"/attempts/{lost.pk}/rehearsals", {"stand_in": "x"}),
            ("post", f"/titles/{title}/recipes", {"recipe": {}}),
            ("put", f"/deliveries/{lost.delivery_id}/plan", {"specification": "x"}),
        ):
            self.assertEqual(self.ask(method, place, body).status_code, 403, place)


class Refusals(ApiCase):
    def problem(self, answer: Any, status: int) -> dict:
        self.assertEqual(answer.status_code, status, answer.content[:200])
        self.assertEqual(answer["Content-Type"], "application/problem+json")
        told = answer.json()
        self.assertEqual(told["status"], status)
        self.assertTrue(told["detail"])
        return told

    def test_nobody_gets_in_without_a_token_that_is_alive(self) -> None:
        for headers in ({}, {"Authorization": "Bearer shk_nonsense"}, {"Authorization": "Basic x"}):
            answer = Client().get(f"{BASE}/titles", headers=headers)
            self.problem(answer, 401)
            self.assertIn("Bearer", answer["WWW-Authenticate"])
        self.problem(self.client.get(f"{BASE}/titles"), 401)  # a cookie opens nothing here
        row = ApiToken.objects.get()
        row.expires_at = timezone.now() - timedelta(seconds=1)
        row.save()
        self.problem(self.ask("get", "/titles"), 401)
        row.expires_at = timezone.now() + timedelta(days=1)
        row.save()
        end_token(row, by=self.user)
        self.problem(self.ask("get", "/titles"), 401)

    def test_a_token_may_no_more_than_its_scope_and_its_person(self) -> None:
        title = self.made_title()
        export = {"delivery": "Harbour", "root": "footage", "path": "healthy.mp4"}
        for scope, statuses in (("read", (200, 403, 403)), ("deliver", (200, 201, 403))):
            self.program = self.program_of(self.user, scope)
            asked = (
                self.ask("get", "/titles"),
                self.ask("post", f"/titles/{title}/exports", export),
                self.ask("put", f"/titles/{title}/promise", {"promise": None}),
            )
            self.assertEqual(tuple(one.status_code for one in asked), statuses, scope)
        self.program = self.program_of(make_person("vi", "a-long-enough-one", role=VIEWER))
        self.problem(self.ask("post", f"/titles/{title}/exports", export), 403)

    def test_what_is_wrong_is_said_with_its_place(self) -> None:
        title = self.made_title()
        export = f"/titles/{title}/exports"
        for body, where in (
            ({}, "body/body/delivery"),
            ({"delivery": "H"}, "path"),
            ({"delivery": "H", "root": "footage", "path": "../../etc/passwd"}, "footage"),
            ({"delivery": "H", "root": "footage", "path": "notes.mp4"}, ""),
            ({"delivery": "H", "root": "uploads", "path": "x"}, "root"),
            ({"delivery": "H", "upload_id": 999}, "upload_id"),
        ):
            told = self.problem(self.ask("post", export, body), 422)
            self.assertIn(where, told.get("where", ""), body)
        self.problem(self.ask("get", "/titles/999"), 404)
        self.problem(self.ask("get", "/nothing"), 404)
        self.problem(self.ask("delete", f"/titles/{title}"), 405)
        self.problem(self.program.post(f"{BASE}/titles", "{half", content_type=JSON), 400)
        again = {"name": "The Dial", "root": "footage", "path": "master.mov"}
        self.assertEqual(
            self.problem(self.ask("post", "/titles", again), 422)["code"], "name-taken"
        )
        other = self.program_of(make_person("bo", "a-long-enough-one"))
        upload = self.ask("post", "/uploads", {"name": "x.mp4", "size_bytes": 5}).json()
        self.problem(other.get(f"{BASE}/uploads/{upload['id']}"), 404)

    def test_an_upload_that_cannot_be_read_leaves_nothing_behind(self) -> None:
        title = self.made_title()
        upload = self.ask("post", "/uploads", {"name": "unread.mp4", "size_bytes": 4}).json()
        self.program.put(f"{BASE}/uploads/{upload['id']}?offset=0", b"junk", JSON)
        part = Upload.objects.get().path
        told = {"delivery": "Harbour", "upload_id": upload["id"]}
        self.problem(self.ask("post", f"/titles/{title}/exports", told), 422)
        self.assertFalse(part.exists())
        self.assertEqual(list((self.folder / "uploads").glob("unread*")), [])
        self.assertFalse(Upload.objects.exists())

    def test_uploads_are_forgotten_with_their_bytes(self) -> None:
        upload = self.ask("post", "/uploads", {"name": "x.mp4", "size_bytes": 9}).json()
        self.program.put(f"{BASE}/uploads/{upload['id']}?offset=0", b"half", JSON)
        path = Upload.objects.get().path
        self.assertEqual(path.read_bytes(), b"half")
        self.assertEqual(self.ask("delete", f"/uploads/{upload['id']}").status_code, 204)
        self.assertFalse(path.exists())

    def test_a_part_that_breaks_off_is_sent_again_and_two_at_once_are_refused(self) -> None:
        upload = uploads.begin(self.user, "x.mp4", 10)

        class Broken:
            def read(self, size: int) -> bytes:
                if upload.path.stat().st_size or not size:
                    raise ConnectionResetError
                with self_.assertRaisesRegex(UsageError, "under way"):
                    uploads.add_part(Upload.objects.get(), 0, io.BytesIO(b"other"))
                return b"half" * (1 << 20)

        self_ = self
        with self.assertRaises(UsageError):
            uploads.add_part(upload, 0, Broken())
        self.assertEqual(Upload.objects.get().received, 0)
        made = uploads.add_part(Upload.objects.get(), 0, io.BytesIO(b"0123456789"))
        self.assertEqual((made.received, upload.path.read_bytes()), (10, b"0123456789"))

    def test_what_nobody_comes_back_for_is_taken_away(self) -> None:
        old, new = (uploads.begin(self.user, name, 10) for name in ("old.mp4", "new.mp4"))
        uploads.add_part(old, 0, io.BytesIO(b"half"))
        Upload.objects.filter(pk=old.pk).update(made_at=timezone.now() - timedelta(days=8))
        uploads.tidy()
        self.assertEqual([one.pk for one in Upload.objects.all()], [new.pk])
        self.assertFalse(old.path.exists())

    def test_a_token_is_shown_once_and_kept_as_a_digest(self) -> None:
        told = {"name": "nightly", "scope": "deliver", "days": "30"}
        page = self.client.post("/account/tokens/", told)
        token = page.context["made"]
        self.assertContains(page, token)
        self.assertNotContains(self.client.get("/account/tokens/"), token)
        row = ApiToken.objects.get(name="nightly")
        self.assertNotIn(token, str(vars(row)))
        self.client.post(f"/account/tokens/{row.pk}/end/")
        row.refresh_from_db()
        self.assertFalse(row.is_alive)
        for bad in ({"scope": "all"}, {"days": "0"}, {"days": "9999"}, {"name": ""}):
            self.assertEqual(self.client.post("/account/tokens/", told | bad).status_code, 422)


class Described(ApiCase):
    def test_the_description_is_valid_openapi_and_open(self) -> None:
        validate(Client().get(f"{BASE}/openapi.json").json())

    def test_no_request_brings_about_a_server_error(self) -> None:
        attempt = self.attempt()
        upload = self.ask("post", "/uploads", {"name": "x.mp4", "size_bytes": 5}).json()
        report = self.ask("post", f"/attempts/{attempt.pk}/reports", {"form": "csv"}).json()
        self.ask(
            "put", f"/deliveries/{attempt.delivery_id}/plan", {"specification": "foghorn-shorts"}
        )
        recipe = {"schema": "shapkeen.recipe/1", "name": "Bell", "coding": {"codec": "h264"}}
        title = f"/titles/{attempt.delivery.title_id}"
        recipe = self.ask("post", f"{title}/recipes", {"recipe": recipe}).json()
        stand_in = self.ask("get", "/stand-ins").json()[0]
        asked = self.ask("post", f"/attempts/{attempt.pk}/rehearsals", {"stand_in": stand_in})
        numbers = {
            "recipe_id": recipe["id"],
            "rehearsal_id": asked.json()["id"],
            "title_id": attempt.delivery.title_id,
            "delivery_id": attempt.delivery_id,
            "attempt_id": attempt.pk,
            "upload_id": upload["id"],
            "report_id": report["id"],
            "job_id": report["job"]["id"],
        }
        schema = schemathesis.openapi.from_dict(Client().get(f"{BASE}/openapi.json").json())
        reached: dict[str, set[int]] = {}
        for found in schema.get_all_operations():
            operation = found.ok()
            place = f"{operation.method.upper()} {operation.path}"
            with self.subTest(place):
                reached[place] = self._answers_of(operation, numbers)
        self.assertGreaterEqual(len(reached), 34)
        # Each was got to: what it answers is its own, not that there is nothing.
        self.assertEqual([place for place, told in reached.items() if told <= {404, 405}], [])

    def _answers_of(self, operation: Any, numbers: Mapping[str, int]) -> set[int]:
        """Return the statuses that made-up requests to an operation are answered with."""
        statuses = set()

        @given(case=operation.as_strategy(), is_there=strategies.booleans())
        @settings(
            max_examples=16,
            deadline=None,
            derandomize=True,
            database=None,
            phases=[Phase.explicit, Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        def check(case: Any, is_there: bool) -> None:
            if is_there:  # else nearly every number is of nothing
                case.path_parameters = {name: numbers[name] for name in case.path_parameters}
            told = case.as_transport_kwargs(base_url="http://testserver")
            answer = self._sent(told)
            self.assertLess(answer.status_code, 500, (told, answer.content[:300]))
            statuses.add(answer.status_code)

        check()
        return statuses

    def _sent(self, told: dict[str, Any]) -> Any:
        """Send what schemathesis made through Django's client, which answers without a network."""
        body = told.get("json", told.get("data", b""))
        data = json.dumps(body) if "json" in told else body or b""
        headers = {k: v for k, v in dict(told.get("headers") or {}).items() if k.isascii()}
        kind = headers.pop("Content-Type", JSON)
        headers.pop("Authorization", None)
        return self.program.generic(
            told["method"],
            told["url"].removeprefix("http://testserver"),
            data,
            content_type=kind,
            query_params=told.get("params"),
            headers=headers,
        )
