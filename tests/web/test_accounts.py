"""Accounts on their pages: made, given roles, closed; passwords and sessions."""

import os
import subprocess
import sys
import tempfile

from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import reverse

from shapkeen.web.history.models import Event
from shapkeen.web.people.models import Grant, Presence
from shapkeen.web.people.rights import make_person
from tests.web.base import WebCase

PASSWORD = "a-long-enough-one"


class Accounts(WebCase):
    def change(self, user: object, **sent: object) -> None:
        self.client.post(reverse("accounts:change", args=[user.pk]), sent)

    def test_an_account_is_made_given_a_role_and_closed_without_a_shell(self) -> None:
        sent = {"username": "bo", "password1": PASSWORD, "password2": PASSWORD, "role": "viewer"}
        title = self.title()
        answer = self.client.post(reverse("accounts:add"), {**sent, "title": title.pk})
        self.assertRedirects(answer, reverse("accounts:people"))
        bo = get_user_model().objects.get(username="bo")
        grant = Grant.objects.get(user=bo)
        self.assertEqual((grant.role, grant.title), ("viewer", title))
        client = Client()
        self.assertTrue(
            client.login(
                request=self.client.get("/").wsgi_request, username="bo", password=PASSWORD
            )
        )
        self.assertEqual(client.get(title.get_absolute_url()).status_code, 200)
        self.change(bo, act="give", role="editor", title="")
        self.assertEqual(client.get("/title/add/").status_code, 200)
        self.change(bo, act="take", grant=Grant.objects.get(user=bo, role="editor").pk)
        self.assertEqual(client.get("/title/add/").status_code, 403)
        self.change(bo, act="close")
        self.assertEqual(client.get("/").status_code, 302)
        acts = set(Event.objects.values_list("act", flat=True))
        wanted = {"account made", "role given", "role taken", "account closed"}
        self.assertLessEqual(wanted, acts)

    def test_bad_names_and_passwords_are_told(self) -> None:
        sent = {"username": "ada", "password1": "short", "password2": "other", "role": "viewer"}
        page = self.client.post(reverse("accounts:add"), sent)
        self.assertContains(page, "already exists", status_code=422)

    def test_the_last_administrator_stays(self) -> None:
        for act in ("close", "plain"):
            self.change(self.user, act=act)
            self.user.refresh_from_db()
            self.assertTrue(self.user.is_active and self.user.is_superuser)
        other = make_person("eve", PASSWORD)
        self.change(other, act="administrate")
        self.change(self.user, act="plain")
        self.user.refresh_from_db()
        self.assertFalse(self.user.is_superuser)

    def test_a_new_password_ends_every_other_session(self) -> None:
        elsewhere = Client(headers={"User-Agent": "Phone"})
        elsewhere.force_login(self.user)
        elsewhere.get("/")
        self.client.get("/")
        self.assertContains(self.client.get(reverse("accounts:own")), "Phone")
        sent = {
            "old_password": PASSWORD,
            "new_password1": "another-long-one",
            "new_password2": "another-long-one",
        }
        self.client.post(reverse("accounts:password"), sent)
        self.assertEqual(self.client.get("/").status_code, 200)
        self.assertEqual(elsewhere.get("/").status_code, 302)
        wrong = self.client.post(reverse("accounts:password"), sent)
        self.assertContains(wrong, "entered incorrectly", status_code=422)

    def test_who_forgot_a_password_gets_another(self) -> None:
        bo = make_person("bo", PASSWORD)
        address = reverse("accounts:change", args=[bo.pk])
        page = self.client.post(address, {"act": "password"}, follow=True).content.decode()
        made = page.split("logs in with ")[1].split(" and should")[0]
        bo.refresh_from_db()
        self.assertTrue(bo.check_password(made))
        self.assertFalse(Event.objects.filter(after__icontains=made).exists())

    def test_one_ends_sessions_of_ones_own_only(self) -> None:
        elsewhere, other = Client(), Client()
        elsewhere.force_login(self.user)
        elsewhere.get("/")
        other.force_login(make_person("eve", PASSWORD))
        other.get("/")
        mine = Presence.objects.get(user=self.user)
        theirs = Presence.objects.exclude(user=self.user).get()
        self.client.post(reverse("accounts:end-session", args=[mine.pk]))
        self.assertEqual(elsewhere.get("/").status_code, 302)
        answer = self.client.post(reverse("accounts:end-session", args=[theirs.pk]))
        self.assertEqual(answer.status_code, 404)
        self.change(theirs.user, act="log-out")
        self.assertEqual(other.get("/").status_code, 302)

    def test_behind_tls_djangos_own_check_for_deployment_is_clean(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            told = {
                "SHAPKEEN_DATA": folder,
                "SHAPKEEN_ORIGINS": "https://shapkeen.example",
                "SHAPKEEN_PROXY": "yes",
                "SHAPKEEN_HOSTS": "shapkeen.example",
            }
            call = [sys.executable, "manage.py", "check", "--deploy", "--fail-level", "WARNING"]
            run = subprocess.run(
                call,
                cwd=settings.BASE_DIR,
                # Playwright's tests set it in the same process.
                env={**os.environ, **told, "DJANGO_ALLOW_ASYNC_UNSAFE": ""},
                capture_output=True,
                text=True,
                check=False,
            )
        self.assertEqual(run.returncode, 0, run.stderr[-600:])
