"""Who may send what: bodies before log-in, guessed passwords, cookies, caches, rights on disk."""

import os
import stat
import tempfile
from pathlib import Path
from unittest import mock
from urllib.parse import urlencode

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client, SimpleTestCase, TestCase

from shapkeen.web.config import conf
from tests.web.base import WebCase

ADD = "/title/add/"


class Endless:
    """A body that must not be read."""

    def read(self, *_: int) -> bytes:
        raise AssertionError("the body was read")

    readline = read


class Bodies(WebCase):
    def post(self, client: Client, **headers: str):
        return client.generic(
            "POST",
            ADD,
            b"",
            content_type="multipart/form-data; boundary=x",
            **{"wsgi.input": Endless(), "CONTENT_LENGTH": "200000000", **headers},
        )

    def test_nobody_sends_a_file_before_log_in(self) -> None:
        answer = self.post(Client())
        self.assertContains(answer, "Log in before you send a file", status_code=403)
        self.assertEqual(answer["Connection"], "close")

    def test_without_a_token_it_is_refused_before_it_is_read(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        self.assertContains(self.post(strict), "This page is too old", status_code=403)

    def test_with_log_in_and_token_it_is_taken(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        strict.get(ADD)
        token = strict.cookies["csrftoken"].value
        content = (self.folder / "footage" / "master.mov").read_bytes()
        sent = {"name": "Sent", "upload": SimpleUploadedFile("sent.mov", content, "video/mp4")}
        answer = strict.post(ADD, sent, headers={"X-CSRFToken": token})
        self.assertEqual(answer.status_code, 302)

    def test_pages_of_someone_are_for_no_shared_cache(self) -> None:
        self.assertEqual(self.client.get("/")["Cache-Control"], "private, no-cache")


class Passwords(WebCase):
    def enter(self, client: Client, password: str):
        words = urlencode({"username": "ada", "password": password})
        return client.post("/log-in/", words, content_type="application/x-www-form-urlencoded")

    def test_guessing_is_slowed_down(self) -> None:
        guesser = Client(REMOTE_ADDR="192.0.2.7")
        for _ in range(settings.AXES_FAILURE_LIMIT):
            answer = self.enter(guesser, "wrong")
        self.assertContains(answer, "Wait 5 min 00 s", status_code=429)
        self.assertEqual(self.enter(guesser, "a-long-enough-one").status_code, 429)
        # whoever it is, at another place, still comes in
        self.assertEqual(self.enter(Client(), "a-long-enough-one").status_code, 302)

    def test_a_few_slips_cost_nothing(self) -> None:
        client = Client()
        for _ in range(3):
            self.assertContains(self.enter(client, "wrong"), "do not go together")
        self.assertEqual(self.enter(client, "a-long-enough-one").status_code, 302)


class FirstAccount(TestCase):
    """On an empty installation, a new user is led to the first account; once, and never again."""

    def make(self, name: str = "ines", again: str = "a-long-enough-one"):
        sent = {"username": name, "password1": "a-long-enough-one", "password2": again}
        form = "application/x-www-form-urlencoded"
        return self.client.post("/first-account/", urlencode(sent), content_type=form)

    def test_from_any_address_to_the_first_account_and_in(self) -> None:
        answer = self.client.get("/", follow=True)
        self.assertContains(answer, "Nobody has an account here yet")
        self.assertContains(self.make(again="another"), "match", status_code=422)
        self.assertRedirects(self.make(), "/")
        self.assertEqual(self.client.get("/").context["user"].username, "ines")

    def test_it_closes_as_soon_as_there_is_one(self) -> None:
        self.make()
        other = Client()
        self.assertRedirects(other.get("/first-account/"), "/log-in/")
        self.client = other
        self.assertRedirects(self.make("mallory"), "/log-in/")
        self.assertEqual(get_user_model().objects.count(), 1)


class Installation(SimpleTestCase):
    def test_behind_tls_cookies_go_no_other_way(self) -> None:
        for origins, secure in (("", False), ("https://finishing.example", True)):
            with mock.patch.dict(os.environ, {"SHAPKEEN_ORIGINS": origins}):
                self.assertEqual(conf.load().is_behind_tls, secure)

    def test_what_is_kept_is_for_one_account_alone(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            data = Path(folder) / "data"
            conf.load()
            key = conf.secret_key(data)
            self.assertEqual(stat.S_IMODE(data.stat().st_mode), 0o700)
            self.assertEqual(stat.S_IMODE((data / "secret-key").stat().st_mode), 0o600)
            self.assertEqual(conf.secret_key(data), key)
            self.assertEqual([path.name for path in data.iterdir()], ["secret-key"])

    def test_an_empty_key_is_made_anew(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / "secret-key").touch()
            self.assertGreater(len(conf.secret_key(Path(folder))), 40)

    def test_a_full_disk_at_the_first_start_leaves_no_empty_key(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            full = OSError(28, "No space left on device")
            failing = mock.patch.object(conf.os, "fsync", side_effect=full)
            with failing, self.assertRaises(SystemExit) as caught:
                conf.secret_key(Path(folder))
            self.assertIn("No space left on device", str(caught.exception))
            self.assertEqual(list(Path(folder).iterdir()), [])

    def test_what_is_acknowledged_is_on_the_disk(self) -> None:
        options = settings.DATABASES["default"]["OPTIONS"]["init_command"]
        self.assertIn("synchronous=FULL", options)
