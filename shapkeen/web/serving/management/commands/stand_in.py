"""`manage.py stand_in`: a simulated receiving service over HTTP, on loopback."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from .....core.errors import CoreError
from .....core.rehearsed.stand_in import stand_in_named
from ....receiver.faults import Faults
from ....receiver.server import Service, serve
from ....receiver.store import Store
from ....receiver.working import Worker


class Command(BaseCommand):
    """Serves until it is stopped; uploads are kept, and taken up again at the next start."""

    help = "A simulated receiving service over HTTP, to try a delivery script against."
    requires_system_checks = []

    def add_arguments(self, parser: CommandParser) -> None:
        """Add what can be chosen."""
        parser.add_argument("service", help="a stand-in's name, or its file, NAME.json")
        parser.add_argument("--port", type=int, default=8480, help="0 for any that is free (8480)")
        parser.add_argument(
            "--speed", type=float, default=1.0, help="simulated seconds a second (1)"
        )
        parser.add_argument("--slow", type=int, default=0, help="bytes a second at most")
        parser.add_argument("--cut", type=int, default=0, help="cuts within so many bytes")
        parser.add_argument("--refuse", action="store_true", help="answers 503 to everything")
        parser.add_argument("--lose-stage", default="", help="a stage that never comes")

    def handle(self, *_: Any, **options: Any) -> None:
        """Serve; raises CommandError where that cannot be."""
        try:
            stand_in = stand_in_named(options["service"])
            faults = Faults().changed(
                {name: options[name] for name in ("slow", "cut", "refuse", "lose_stage")}
            )
        except CoreError as error:
            raise CommandError(error.text) from error
        if not 0 < options["speed"] <= 10**6:
            raise CommandError("The speed lies above 0 and is at most 1 000 000.")
        folder: Path = settings.CONF.data_dir / "received" / stand_in.key
        service = Service(
            stand_in=stand_in,
            store=Store(folder),
            worker=Worker(options["service"]),
            faults=faults,
            speed=options["speed"],
        )
        try:
            server = serve(service, options["port"])
        except OSError as error:
            raise CommandError(f"Port {options['port']} cannot be used: {error}.") from error
        self.stdout.write(f"{stand_in.name}, a simulation: http://127.0.0.1:{server.server_port}/")
        self.stdout.flush()
        try:
            server.serve_forever()
        except KeyboardInterrupt:
            self.stdout.write("Stopped; uploads are kept.")
        finally:
            server.server_close()
            service.worker.stop()
