"""A pair through a Dask cluster of this machine: wall time with one worker and with two, beside
processes; and how many finished surveys a second one database takes in.

Usage: python -m benchmarks.cluster [LOOPS]
"""

import os
import resource
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from benchmarks import pages
from benchmarks.clips import looped
from shapkeen.core.compared import survey_files
from shapkeen.core.declared import read_declaration
from shapkeen.core.measured.spans.cluster import Cluster, connected
from shapkeen.core.measured.spans.run import processes
from shapkeen.demo.features import FEATURES
from shapkeen.demo.shipped import place_footage

LOOPS = 20
WRITERS, WRITES = 4, 50


def main() -> None:
    """Measure, and print."""
    loops = int(sys.argv[1]) if len(sys.argv) > 1 else LOOPS
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        *files, frames = _pair(folder, loops)
        survey_files(*(folder / "footage" / path.name[5:] for path in files), workers=1)  # warm
        base = _measured("2 processes", files, frames, processes(2))
        for workers in (1, 2):
            with _cluster(folder, workers) as address:
                took = _measured(f"{workers} workers", files, frames, Cluster(address, 32))
                print(f"  ÷ 2 processes: {took / base:.2f}")
    _writing()


def _pair(folder: Path, loops: int) -> tuple[Path, Path, int]:
    """Return master and export of the demo's first film, looped, and how many frames they have."""
    feature, made = FEATURES[0], []
    place_footage(folder / "footage")
    for name in (feature.master, feature.exports[1].file):
        made.append(folder / f"long-{Path(name).name}")
        looped(folder / "footage" / name, loops, made[-1])
    return made[0], made[1], read_declaration(made[0]).video.frame_count or 0


def _measured(words: str, files: list[Path], frames: int, pool: object) -> float:
    started = time.monotonic()
    survey_files(*files, workers=1, pool=pool)  # type: ignore[arg-type]
    took = time.monotonic() - started
    sent = sum(path.stat().st_size for path in files) / 1e6
    print(f"{words}: {took:.1f} s, {frames / took:.1f} pairs a second, {sent / took:.1f} MB/s read")
    return took


@contextmanager
def _cluster(folder: Path, workers: int) -> Iterator[str]:
    """Give the address of a scheduler with so many workers of one thread."""
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        port = one.getsockname()[1]
    address = f"tcp://127.0.0.1:{port}"
    calls = [["scheduler", "--host", "127.0.0.1", "--port", str(port), "--no-dashboard"]]
    room = str(folder / "dask")
    call = ["worker", address, "--nthreads", "1", "--no-dashboard", "--local-directory", room]
    calls += [call] * workers
    started = []
    try:
        for call in calls:
            started.append(
                subprocess.Popen(  # noqa: S603  (Dask's own command)
                    [sys.executable, "-W", "ignore", "-m", "dask", *call],
                    stdout=subprocess.DEVNULL,
                    stderr=subprocess.DEVNULL,
                )
            )
            time.sleep(4)
        with connected(address) as client:
            client.wait_for_workers(workers)
        yield address
    finally:
        for one_process in started:
            one_process.terminate()
            one_process.wait()


def _writing() -> None:
    """Print how many finished surveys a second one database takes in from several processes."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ |= {
            "SHAPKEEN_DATA": folder,
            "DJANGO_SETTINGS_MODULE": "shapkeen.web.config.settings",
        }
        import django

        django.setup()
        from django.core.management import call_command
        from django.db import connections

        from shapkeen.web.bench.models import Survey
        from shapkeen.web.people.rights import make_person

        call_command("migrate", verbosity=0)
        pages._fill(Path(folder), make_person("ada", "a-long-enough-one"), WRITERS)
        size = Survey.objects.first()
        stored = len(bytes(size.findings)) if size else 0
        connections.close_all()
        started, children = time.monotonic(), []
        for number in range(WRITERS):
            child = os.fork()
            if child == 0:
                _write(number)
                os._exit(0)
            children.append(child)
        for child in children:
            os.waitpid(child, 0)
        took = time.monotonic() - started
        cpu = resource.getrusage(resource.RUSAGE_CHILDREN)
        count = WRITERS * WRITES
        print(
            f"{WRITERS} writers, {count} surveys of {stored / 1e3:.0f} kB kept and judged: "
            f"{count / took:.0f} a second ({cpu.ru_utime + cpu.ru_stime:.0f} s CPU)"
        )


def _write(number: int) -> None:
    """Keep and judge as a worker does at a survey's end: a transaction of each."""
    from django.db import transaction

    from shapkeen.web.bench import services
    from shapkeen.web.bench.models import Survey
    from shapkeen.web.library.models import Attempt

    mine = list(Attempt.objects.with_context().order_by("pk"))[number::WRITERS]
    for turn in range(WRITES):
        attempt = mine[turn % len(mine)]
        with transaction.atomic():
            found = Survey.objects.filter(export=attempt.reel).first()
            assert found is not None  # noqa: S101
            found.findings = bytes(found.findings)
            found.save()
        services.judge(attempt)


if __name__ == "__main__":
    main()
