"""`manage.py send_hooks`: tells webhooks what happened until it is stopped; run by serve.

A process of its own: an address that does not answer holds up nothing else.
"""

import time
from contextlib import suppress
from typing import Any

from django.core.management.base import BaseCommand
from django.db import DatabaseError, connections

from ...sending import new_client, send_due, tidy

LOOK_S, TIDY_S = 2.0, 3600.0


class Command(BaseCommand):
    help = "Tell webhooks what happened until it is stopped."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--once", action="store_true", help="send what is due, and end")

    def handle(self, *args: Any, **options: Any) -> None:
        with new_client() as client:
            if options["once"]:
                self.stdout.write(f"{send_due(client)} sent")
                return
            tidied = 0.0
            while True:
                with suppress(DatabaseError):  # a full disk: looked at again
                    send_due(client)
                    if time.monotonic() - tidied > TIDY_S:
                        tidied = time.monotonic()
                        tidy()
                connections.close_all()
                time.sleep(LOOK_S)
