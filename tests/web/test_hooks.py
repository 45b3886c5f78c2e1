"""Webhooks: told by a real server's own lights, verified by the specification's own library."""

import json
import threading
from datetime import timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from unittest import mock

from django.core.management import call_command
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from standardwebhooks import Webhook, WebhookVerificationError

from shapkeen.core.errors import UsageError
from shapkeen.web.bench import surveying
from shapkeen.web.history.models import Event
from shapkeen.web.hooks import sending, services
from shapkeen.web.hooks.models import Call, Hook
from shapkeen.web.people.models import Grant
from shapkeen.web.people.roles import ENGINEER
from tests.web.base import WebCase


class Receiver(BaseHTTPRequestHandler):
    """Keeps what came, and answers as it is told to."""

    came: list[tuple[dict[str, str], bytes]] = []
    status = 200

    def do_POST(self) -> None:
        length = int(self.headers["content-length"])
        self.came.append(
            ({name.lower(): value for name, value in self.headers.items()}, self.rfile.read(length))
        )
        self.send_response(self.status)
        if self.status == 302:
            self.send_header("location", "/elsewhere")
        self.end_headers()
        self.wfile.write(b"heard " * 2000)

    def log_message(self, *_: object) -> None:
        pass


class Hooks(WebCase):
    def setUp(self) -> None:
        super().setUp()
        Receiver.came, Receiver.status = [], 200
        server = ThreadingHTTPServer(("127.0.0.1", 0), Receiver)
        threading.Thread(target=server.serve_forever, daemon=True).start()
        self.addCleanup(server.server_close)
        self.addCleanup(server.shutdown)
        self.address = f"http://127.0.0.1:{server.server_port}/heard"

    def hook(self, *acts: str, address: str = "") -> Hook:
        name = f"hook {Hook.objects.count()}"
        return services.make(name, address or self.address, list(acts), by=self.user)

    def send(self) -> int:
        with sending.new_client() as client:
            return sending.send_due(client)

    def test_a_verdict_is_told_signed_as_the_specification_says(self) -> None:
        hook = self.hook("judged")
        attempt = self.attempt("untagged.mp4")
        call_command("send_hooks", "--once", stdout=mock.Mock())
        self.assertEqual(len(Receiver.came), 1)  # nothing but what it is told of
        headers, body = Receiver.came[0]
        told = Webhook(hook.secret).verify(body, headers)
        self.assertEqual((told["type"], told["data"]["attempt_id"]), ("judged", attempt.pk))
        self.assertEqual(told["data"]["after"]["overall"], "lost")
        self.assertEqual(headers["content-type"], "application/json")
        with self.assertRaises(WebhookVerificationError):
            Webhook(hook.secret).verify(body.replace(b"lost", b"kept"), headers)
        call = Call.objects.get()
        self.assertEqual((call.state, call.status, call.tries), (Call.SENT, 200, 1))
        self.assertEqual(len(call.answer), 300)
        self.assertEqual(self.send(), 0)

    def test_tried_again_with_the_same_key_until_it_is_answered(self) -> None:
        hook = self.hook()
        Receiver.status = 503
        services._tell("remark", {})
        call = Call.objects.get()
        keys = set()
        for number, wait in enumerate(sending.WAITS_S, start=1):
            before = timezone.now()
            self.assertEqual(self.send(), 0)
            call.refresh_from_db()
            self.assertEqual((call.tries, call.status, call.state), (number, 503, Call.WAITING))
            self.assertGreaterEqual(call.next_at, before + timedelta(seconds=wait))
            self.assertEqual(self.send(), 0)  # not before its time
            keys.add(Receiver.came[-1][0]["webhook-id"])
            Call.objects.update(next_at=timezone.now())
        self.send()
        call.refresh_from_db()
        self.assertEqual((call.state, call.next_at), (Call.GIVEN_UP, None))
        self.assertEqual(len(Receiver.came), len(sending.WAITS_S) + 1)
        self.assertEqual(keys, {call.key})
        self.client.post(reverse("hooks:again", args=[hook.pk, call.pk]))
        Receiver.status = 204
        self.assertEqual(self.send(), 1)

    def test_gone_ends_it_and_what_waits_is_sent_when_it_is_told_again(self) -> None:
        hook = self.hook("remark")
        Receiver.status = 410
        services._tell("remark", {"n": 1})
        services._tell("remark", {"n": 2})
        self.send()
        hook.refresh_from_db()
        self.assertEqual((hook.off_why, len(Receiver.came)), ("it answered 410 Gone", 1))
        Receiver.status = 200
        self.assertEqual(self.send(), 0)
        self.client.post(reverse("hooks:change", args=[hook.pk]), {"act": "tell"})
        self.assertEqual(self.send(), 1)
        self.assertEqual(json.loads(Receiver.came[-1][1])["data"], {"n": 2})

    def test_an_address_that_is_away_holds_up_no_other_and_no_redirection_is_followed(self) -> None:
        away = self.hook("remark", address="http://127.0.0.1:9/nobody")
        self.hook("remark")
        services._tell("remark", {"n": 1})
        services._tell("remark", {"n": 2})
        self.assertEqual(self.send(), 2)
        lost = Call.objects.filter(hook=away).order_by("pk")
        self.assertEqual([call.tries for call in lost], [1, 0])
        self.assertIn("ConnectError", lost[0].answer)
        Receiver.status = 302
        services._tell("remark", {"n": 3})
        self.send()
        self.assertEqual((len(Receiver.came), Call.objects.latest("pk").status), (3, 302))

    def test_however_much_waits_for_one_the_others_are_sent_theirs(self) -> None:
        self.hook("remark", address="http://127.0.0.1:9/nobody")
        for _ in range(sending.AT_ONCE + 5):
            services._tell("remark", {})
        self.hook("remark")
        services._tell("remark", {"n": 1})
        self.assertEqual(self.send(), 1)

    def test_told_with_what_happened_or_not_at_all(self) -> None:
        self.hook()
        count = Call.objects.count()
        with self.assertRaises(ZeroDivisionError), transaction.atomic():
            self.title()
            services._tell("remark", {})
            raise ZeroDivisionError
        self.assertEqual(Call.objects.count(), count)

    def test_work_that_failed_is_told(self) -> None:
        self.hook("work failed")
        attempt = self.attempt(measured=False)
        broken = mock.Mock(side_effect=UsageError("No.", code="no-way"))
        with mock.patch.object(surveying, "run_child", broken):
            self.run_job(attempt)
        told = json.loads(Call.objects.get().body)
        self.assertEqual(told["type"], "work-failed")
        self.assertEqual(told["data"]["error"]["code"], "no-way")
        self.assertEqual(told["data"]["attempt_id"], attempt.pk)

    def test_pages_show_the_secret_once_and_every_answer(self) -> None:
        form = {"name": "Render farm", "address": self.address, "acts": ["judged", "signed"]}
        page = self.client.post(reverse("hooks:hooks"), form)
        hook = Hook.objects.get()
        self.assertContains(page, hook.secret)
        self.assertEqual(hook.kinds, ["judged", "signed"])
        self.assertNotContains(self.client.get(reverse("hooks:hooks")), hook.secret)
        self.assertEqual(self.client.post(reverse("hooks:hooks"), form).status_code, 422)
        for address in ("ftp://x/", "javascript:1", "file:///etc/passwd", ""):
            bad = {"name": "other", "address": address}
            self.assertEqual(self.client.post(reverse("hooks:hooks"), bad).status_code, 422)
        services._tell("judged", {"subject": "<b>The Dial</b>"})
        self.send()
        page = self.client.get(hook.get_absolute_url())
        self.assertContains(page, "&lt;b&gt;The Dial&lt;/b&gt;")
        self.assertContains(page, "heard heard")
        self.client.post(reverse("hooks:change", args=[hook.pk]), {"act": "stop"})
        self.assertContains(self.client.get(hook.get_absolute_url()), "stopped by hand")
        self.client.post(reverse("hooks:change", args=[hook.pk]), {"act": "remove"})
        self.assertFalse(Hook.objects.exists() or Call.objects.exists())
        acts = Event.objects.filter(act__startswith="webhook").values_list("act", flat=True)
        self.assertEqual(list(acts), ["webhook removed", "webhook stopped", "webhook made"])

    def test_for_administrators_alone(self) -> None:
        self.user.is_superuser = False
        self.user.save()
        Grant.objects.create(user=self.user, role=ENGINEER)
        self.assertEqual(self.client.get(reverse("hooks:hooks")).status_code, 403)

    def test_old_calls_are_forgotten_but_none_that_waits(self) -> None:
        self.hook("remark")
        for number in range(3):
            services._tell("remark", {"n": number})
        self.send()
        services._tell("remark", {})
        Call.objects.update(made_at=timezone.now() - timedelta(days=sending.KEPT_DAYS + 1))
        self.assertEqual(sending.tidy(), 3)
        self.assertEqual(Call.objects.get().state, Call.WAITING)
        Hook.objects.update(off_why="stopped by hand")  # and nobody told it again for so long
        self.assertEqual(sending.tidy(), 1)
