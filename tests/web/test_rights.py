"""Who may do what: every address, every method, every role; and what a review link opens."""

from functools import partial
from typing import Any
from unittest import mock

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from shapkeen.web.api.tokens import make_token
from shapkeen.web.archive.models import Archive
from shapkeen.web.arriving.models import Watch
from shapkeen.web.library.services import create_title
from shapkeen.web.people.models import Grant
from shapkeen.web.people.rights import make_person
from shapkeen.web.people.roles import ADD, ADMIN, MAY, ROLES, role_table
from shapkeen.web.rehearsal.models import Rehearsal, Trial
from shapkeen.web.reports.models import KeptReport
from shapkeen.web.serving import guard
from shapkeen.web.signoff import links
from shapkeen.web.signoff.models import Remark, ReviewLink, Waiver
from shapkeen.web.versions.models import KeptRecipe
from shapkeen.web.work import services as work
from tests.web.base import WebCase

LET_IN = 299
FORM = "application/x-www-form-urlencoded"
TEXTS = {
    "side": "master",
    "display": "plain",
    "stereo": "left-right",
    "key": "any",
    "name": "tone",
    "use": "source",
    "token": "nobody-has-this",
}


def every_address() -> dict[str, URLPattern]:
    """Return each named address of the application with its pattern."""

    def walk(found: Any, space: str = "") -> dict[str, URLPattern]:
        rows: dict[str, URLPattern] = {}
        for one in found.url_patterns:
            if isinstance(one, URLResolver):
                rows |= walk(one, f"{one.namespace}:" if one.namespace else space)
            else:
                rows[f"{space}{one.name}"] = one
        return rows

    return walk(get_resolver())


class Guarded(WebCase):
    """The guard alone: what it lets in is answered with LET_IN, and no view runs."""

    def setUp(self) -> None:
        super().setUp()
        original = guard.Guard.process_view

        def asked(one: Any, request: HttpRequest, view: Any, args: Any, kwargs: Any):
            found = original(one, request, view, args, kwargs)
            if found is not None or not request.user.is_authenticated:
                return found
            return HttpResponse(status=LET_IN)

        watching = mock.patch.object(guard.Guard, "process_view", asked)
        watching.start()
        self.addCleanup(watching.stop)

    def rows(self) -> dict[str, int]:
        """Return a number for every kind of thing that an address can be about."""
        attempt = self.attempt(measured=False)
        title = attempt.delivery.title
        rehearsal = Rehearsal.objects.create(
            attempt=attempt, promise_digest="", size_bytes=0, changed_ns=0
        )
        link = ReviewLink.objects.create(
            attempt=attempt, token_digest="x", name="x", ends_at=attempt.reel.added_at
        )
        rows = {
            "title_id": title,
            "delivery_id": attempt.delivery,
            "attempt_id": attempt,
            "reel_id": attempt.reel,
            "recipe_id": KeptRecipe.objects.create(title=title, name="x", version=1, text="{}"),
            "rehearsal_id": rehearsal,
            "trial_id": Trial.objects.create(
                rehearsal=rehearsal, question={}, master_size=0, master_changed_ns=0
            ),
            "waiver_id": Waiver.objects.create(attempt=attempt, trait="tone", verdict="bent"),
            "link_id": link,
            "remark_id": Remark.objects.create(attempt=attempt, frame=0, text="x"),
            "report_id": KeptReport.objects.create(title=title, attempt=attempt, form="html"),
            "job_id": work.start("survey", attempt.pk),
            "archive_id": Archive.objects.create(name="x", choices={"titles": [title.pk]}),
            "user_id": self.user,
            "watch_id": Watch.objects.create(
                title=title, delivery_name="x", root="footage", made_by=self.user
            ),
        }
        return {name: one.pk for name, one in rows.items()}

    def address(self, name: str, pattern: URLPattern, rows: dict[str, int]) -> str:
        wanted = pattern.pattern.converters
        return reverse(name, kwargs={key: rows.get(key, TEXTS.get(key, 1)) for key in wanted})

    def by_token(self, name: str, person: Any) -> dict[str, Any]:
        """Return what a request must carry beside its cookie: a token, where the API is asked."""
        if not name.startswith("api:"):
            return {}
        token = make_token(person, "test", "whole", 1)[1]
        return {"headers": {"Authorization": f"Bearer {token}"}}

    def test_every_address_stands_in_the_table_and_nothing_else(self) -> None:
        self.assertEqual(set(every_address()), set(guard.ADDRESSES))

    def test_every_role_at_every_address_with_every_method(self) -> None:
        rows = self.rows()
        clients = {role: Client() for role in ROLES}
        persons = {role: make_person(role, "a-long-enough-one", role=role) for role in ROLES}
        for role, client in clients.items():
            client.force_login(persons[role])
        for name, pattern in every_address().items():
            address = self.address(name, pattern, rows)
            for method, act in zip(("get", "post"), guard.ADDRESSES[name], strict=True):
                if act == guard.OPEN:
                    continue
                for role, client in clients.items():
                    asked = ADD if act == guard.BRING else act
                    may = act == guard.INSIDE or asked in MAY[role]
                    more = self.by_token(name, persons[role])
                    status = getattr(client, method)(address, **more).status_code
                    self.assertEqual(status, LET_IN if may else 403, (role, method, address))
                more = self.by_token(name, self.user)
                self.assertEqual(getattr(self.client, method)(address, **more).status_code, LET_IN)

    def test_a_role_of_one_title_holds_nowhere_else(self) -> None:
        rows = self.rows()
        person = make_person("sole", "a-long-enough-one")
        elsewhere = create_title("Elsewhere", "", "footage", "reels/other.mp4", by=None)
        Grant.objects.filter(user=person).update(title=elsewhere)
        sole = Client()
        sole.force_login(person)
        about = {key for key in rows if key not in ("user_id", "archive_id")}
        for name, pattern in every_address().items():
            if not about.isdisjoint(pattern.pattern.converters):
                more = self.by_token(name, person)
                status = sole.get(self.address(name, pattern, rows), **more).status_code
                self.assertEqual(status, 404, name)
        self.assertEqual(sole.get(elsewhere.get_absolute_url()).status_code, LET_IN)
        self.assertEqual(sole.get("/title/add/").status_code, 403)

    def test_who_has_no_role_and_who_is_closed_see_nothing(self) -> None:
        rows = self.rows()
        person = make_person("none", "a-long-enough-one")
        Grant.objects.all().delete()
        nobody = Client()
        nobody.force_login(person)
        address = reverse("bench:bench", args=[rows["attempt_id"]])
        self.assertEqual(nobody.get(address).status_code, 404)
        person.is_active = False
        person.save()
        self.assertEqual(nobody.get(address).status_code, 302)

    def test_a_link_opens_one_attempt_and_nothing_else(self) -> None:
        rows = self.rows()
        attempt = self.attempt(measured=False)
        _, token = links.make_link(
            attempt, "colour", days=1, remarks=True, signs=True, by=self.user
        )
        guest = Client()
        self.assertEqual(guest.get(f"/review/{token}/").status_code, 302)
        own = {**rows, "attempt_id": attempt.pk, "job_id": work.start("survey", attempt.pk).pk}
        own["remark_id"] = Remark.objects.create(attempt=attempt, frame=0, text="x").pk
        for name, pattern in every_address().items():
            if guard.ADDRESSES[name][0] == guard.OPEN:
                continue
            for method in ("get", "post"):
                ask = partial(
                    getattr(guest, method), **({"content_type": FORM} if method == "post" else {})
                )
                mine = ask(self.address(name, pattern, own)).status_code
                out = 401 if name.startswith("api:") else 302  # no link opens the API
                wanted = LET_IN if name in guard.GUESTS else out
                if method == "post" and guard.ADDRESSES[name][1] not in ("see", "sign", "remark"):
                    wanted = out
                self.assertEqual(mine, wanted, (method, name))
                if name in guard.GUESTS:  # the same of another attempt
                    other = ask(self.address(name, pattern, rows)).status_code
                    self.assertIn(other, (302, 404), (method, name))

    def test_a_link_lets_do_no_more_than_it_says(self) -> None:
        attempt = self.attempt(measured=False)
        _, token = links.make_link(
            attempt, "colour", days=1, remarks=False, signs=False, by=self.user
        )
        guest = Client()
        guest.get(f"/review/{token}/")
        self.assertEqual(guest.get(reverse("bench:bench", args=[attempt.pk])).status_code, LET_IN)
        for name in ("signoff:say", "signoff:sign"):
            self.assertEqual(
                guest.post(reverse(name, args=[attempt.pk]), content_type=FORM).status_code, 403
            )

    def test_an_unknown_address_is_refused(self) -> None:
        with mock.patch.object(guard, "ADDRESSES", {}):
            answer = self.client.get("/")
        self.assertEqual(answer.status_code, 403)

    def test_the_readme_shows_the_table(self) -> None:
        text = (settings.BASE_DIR / "README.md").read_text()
        for words, cells in role_table():
            row = " | ".join("yes" if cell else "–" for cell in cells)
            self.assertIn(f"| {words} | {row} |", text)
        self.assertTrue(all(ADMIN not in acts for acts in MAY.values()))
