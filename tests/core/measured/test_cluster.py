"""Work on a cluster: a real scheduler and workers on loopback, held against the work done here."""

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from concurrent.futures import Future
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any
from unittest import mock

import distributed  # noqa: F401  (its defaults must be there before any are changed for a while)
from dask import config as dask_config

from shapkeen.core.cured.versions import make_version, recipe_from_json
from shapkeen.core.errors import InternalError
from shapkeen.core.measured.pair_pass import engine
from shapkeen.core.measured.pair_pass.engine import Means, run_pair_pass
from shapkeen.core.measured.spans import cluster, sent
from shapkeen.core.measured.spans.cluster import Cluster, connected, machines_of
from shapkeen.core.measured.spans.run import run_parts
from shapkeen.core.rehearsed.ladder import making
from shapkeen.core.rehearsed.rehearsal import rehearse
from shapkeen.core.rehearsed.stand_in import stand_in_named
from tests.builders import media
from tests.core.cured.versions.test_making import long_master
from tests.core.measured.test_pair_pass import export, master, task, told
from tests.core.measured.test_spans_run import die_at

HERE = Path(__file__).parents[3]
RECIPE = {
    "schema": "shapkeen.recipe/1",
    "name": "v",
    "wrapper": "mp4",
    "coding": {"codec": "h264", "preset": "ultrafast", "bit_rate": 400_000, "passes": 2},
}


def free_port() -> int:
    with socket.socket() as one:
        one.bind(("127.0.0.1", 0))
        return one.getsockname()[1]


def wait_for(port: int) -> None:
    """Wait until something listens; a process takes seconds to begin on a busy machine."""
    for _ in range(600):
        with socket.socket() as one:
            if one.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.1)
    raise AssertionError("no scheduler")


def slow(seconds: float, part: int) -> int:
    time.sleep(seconds)
    return part


def where(path: Path) -> str:
    return str(path)


def dask(case: type[unittest.TestCase], *call: str, **settings: str) -> "subprocess.Popen[bytes]":
    """Start one of Dask's own programs, ended with the class that it is for."""
    program = [sys.executable, "-W", "ignore", "-m", "dask", *call, "--no-dashboard"]
    env = {**os.environ, "PYTHONPATH": str(HERE), **settings}
    quiet = subprocess.DEVNULL
    made = subprocess.Popen(program, env=env, stdout=quiet, stderr=quiet, cwd=tempfile.gettempdir())
    case.addClassCleanup(made.wait)
    case.addClassCleanup(made.kill)
    return made


def check_setup(environment: dict[str, str]) -> "subprocess.CompletedProcess[str]":
    """Return what `shapkeen check-setup` tells, run in an environment."""
    return subprocess.run(
        [sys.executable, "-W", "ignore", "-m", "shapkeen.cli.main", "check-setup"],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
        cwd=HERE,
    )


class OnACluster(unittest.TestCase):
    """A scheduler and two workers; their media lie in another folder than ours."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.room = Path(tempfile.mkdtemp(prefix="shapkeen-cluster-"))
        cls.addClassCleanup(shutil.rmtree, cls.room, ignore_errors=True)
        cls.ours, cls.theirs = cls.room / "ours", cls.room / "theirs"
        cls.ours.mkdir()
        cls.theirs.mkdir()
        port = free_port()
        cls.address = f"tcp://127.0.0.1:{port}"
        cls.start("scheduler", "--host", "127.0.0.1", "--port", str(port))
        wait_for(port)
        cls.pool = Cluster(cls.address, 4, {"shots": cls.ours})
        cls.workers: list[subprocess.Popen[bytes]] = []

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(dir=self.room))
        self.have(2)

    @classmethod
    def start(cls, *call: str) -> subprocess.Popen[bytes]:
        settings = {
            "SHAPKEEN_MEDIA_ROOTS": f"shots={cls.theirs}",
            "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "1",
        }
        return dask(cls, *call, **settings)

    def have(self, count: int, kind: str = "--no-nanny") -> None:
        """Have so many workers there."""
        self.workers[:] = [one for one in self.workers if one.poll() is None]
        room = ("--local-directory", str(self.room / "dask"))
        while len(self.workers) < count:
            call = ("worker", self.address, "--nthreads", "1", *room, kind)
            self.workers.append(self.start(*call))
        with connected(self.address) as client:
            for _ in range(600):
                if len(client.scheduler_info(n_workers=-1)["workers"]) == count:
                    return
                time.sleep(0.1)
        raise AssertionError("workers are missing")

    def kill(self, *workers: subprocess.Popen[bytes]) -> None:
        for one in workers:
            os.kill(one.pid, signal.SIGKILL)
            one.wait()

    def brought(self, path: Path) -> Path:
        """Return a file of ours, which workers have in their own folder."""
        shutil.copy(path, self.theirs / path.name)
        return Path(shutil.copy(path, self.ours / path.name))

    def asked(self):
        found = task(master("long"), export("open"))
        sides = {
            name: replace(side, path=self.brought(side.path))
            for name, side in (("master", found.master), ("export", found.export))
        }
        return replace(found, **sides)

    def parts(self, count: int, work):
        return run_parts(range(count), work, pool=self.pool, store=None, report=lambda *_: None)

    def test_the_same_to_the_last_bit_though_a_worker_is_killed(self) -> None:
        asked = self.asked()
        here = told(run_pair_pass(asked, means=Means()))
        with mock.patch.object(engine, "LEAST_POOLED_SAMPLES", 0):
            self.assertEqual(told(run_pair_pass(asked, means=Means(pool=self.pool))), here)
            first = self.workers[0]

            def progress(done: int, _total: int) -> None:
                if done and first.poll() is None:
                    self.kill(first)

            again = run_pair_pass(asked, means=Means(pool=self.pool, progress=progress))
        self.assertEqual(told(again), here)
        self.assertEqual(first.returncode, -signal.SIGKILL)

    def test_a_worker_that_dies_at_a_part_loses_that_part_alone(self) -> None:
        found, last = [], self.workers[-1]
        for part in self.parts(6, partial(slow, 0.5)):
            found.append(part)
            if last.poll() is None:
                self.kill(last)
        self.assertEqual(sorted(found), list(range(6)))

    def test_versions_come_back_by_value_the_same_bytes(self) -> None:
        source, recipe = self.brought(long_master()), recipe_from_json(json.dumps(RECIPE))
        reports: list[int] = []
        made = [
            make_version(
                source,
                recipe,
                self.folder / f"{name}.mp4",
                workers=1,
                pool=pool,
                progress=lambda done, _: reports.append(done),
            )
            for name, pool in (("here", None), ("there", self.pool))
        ]
        self.assertEqual(*(one.path.read_bytes() for one in made))
        self.assertEqual(max(reports), 96)
        self.assertEqual([p for p in self.theirs.iterdir() if p.suffix == ".span"], [])

    def test_excerpts_of_a_rehearsal_come_back_measured(self) -> None:
        path, club = self.brought(media.hdr_master()), stand_in_named("tidewater-club")
        goals = {name: self.folder / name for name in ("here", "there")}
        found = {}
        for name, far in (("here", None), ("there", self.pool)):
            goals[name].mkdir()
            found[name] = rehearse(path, club, goals[name], far=far).renditions
        self.assertEqual(
            *([(one.plan, one.size_bytes, one.figures) for one in made] for made in found.values())
        )
        # what came back is kept: nothing is made again, here or there
        with mock.patch.object(making, "run_parts", wraps=making.run_parts) as asked:
            rehearse(path, club, goals["there"], far=self.pool)
        self.assertEqual(asked.call_args.args[0], [])

    def test_paths_below_a_root_are_found_where_it_lies_there(self) -> None:
        file = self.brought(long_master())
        self.assertNotIn(bytes(file), sent.pack(where, (file,), self.pool.roots))
        with self.pool() as executor:
            self.assertEqual(executor.submit(where, file).result(), str(self.theirs / file.name))
            outside = self.folder / "elsewhere.mov"
            self.assertEqual(executor.submit(where, outside).result(), str(outside))
        with replace(self.pool, roots={"reels": self.ours})() as executor:
            with self.assertRaises(InternalError) as caught:
                executor.submit(where, file).result()
            self.assertEqual(caught.exception.code, "cluster-root")

    def test_a_place_that_brings_down_every_worker_ends_it_and_blames_nobody(self) -> None:
        self.kill(*self.workers)
        self.have(1, "--nanny")
        with self.assertRaises(InternalError) as caught:
            list(self.parts(6, partial(die_at, str(self.folder), "always")))
        self.assertEqual(caught.exception.code, "workers-lost")
        self.have(1, "--nanny")  # it is begun anew
        self.assertEqual(sorted(self.parts(3, partial(slow, 0.0))), [0, 1, 2])
        self.workers.pop().terminate()  # with its nanny

    def test_workers_of_another_release_are_not_asked(self) -> None:
        with connected(self.address) as client:
            self.assertTrue(all(one.fits for one in machines_of(client)))
        other = {**cluster.versions_here(), "av": "0.1"}
        with (
            mock.patch.object(cluster, "versions_here", lambda: other),
            self.assertRaises(InternalError) as caught,
        ):
            list(self.parts(2, partial(slow, 0.0)))
        self.assertEqual(caught.exception.code, "cluster-differs")
        self.assertIn("for 0.1", caught.exception.text)
        setup = {**os.environ, "SHAPKEEN_CLUSTER": self.address, "SHAPKEEN_DATA": str(self.folder)}
        told = check_setup(setup)
        self.assertIn(f"2 workers at {self.address} measure as this machine does", told.stdout)

    def test_so_many_parts_of_a_file_at_once_and_no_more(self) -> None:
        futures: list[Future[int]] = []
        under_way: list[int] = []
        submit = cluster.ClusterExecutor.submit

        def counted(executor: cluster.ClusterExecutor, *call: Any) -> "Future[int]":
            futures.append(submit(executor, *call))
            under_way.append(sum(not future.done() for future in futures))
            return futures[-1]

        self.pool = replace(self.pool, most=1)
        with mock.patch.object(cluster.ClusterExecutor, "submit", counted):
            self.assertEqual(list(self.parts(3, partial(slow, 0.2))), [0, 1, 2])
        self.assertEqual(under_way, [1, 1, 1])

    def test_a_cluster_that_goes_away_is_told(self) -> None:
        self.kill(self.workers[0])  # of two that die at one part Dask would think of the part
        self.have(1)
        with (
            mock.patch.object(cluster, "LOOK_S", 0.2),
            mock.patch.object(cluster, "EMPTY_S", 1.0),
            self.assertRaises(InternalError) as caught,
        ):
            for _ in self.parts(9, partial(slow, 0.5)):
                self.kill(*(one for one in self.workers if one.poll() is None))
        self.assertEqual(caught.exception.code, "cluster-lost")


class OverTls(unittest.TestCase):
    """As docs/running.md has it: by Dask's own settings, and in no other way."""

    @classmethod
    def setUpClass(cls) -> None:
        room = Path(tempfile.mkdtemp(prefix="shapkeen-tls-"))
        cls.addClassCleanup(shutil.rmtree, room, ignore_errors=True)
        key, paper = str(room / "key.pem"), str(room / "paper.pem")
        ask = ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"]
        ask += ["-subj", "/CN=test", "-addext", "subjectAltName=IP:127.0.0.1"]
        subprocess.run([*ask, "-keyout", key, "-out", paper], capture_output=True, check=True)
        ours = {
            f"distributed.comm.tls.{role}.{what}": path
            for role in ("scheduler", "worker", "client")
            for what, path in (("cert", paper), ("key", key))
        }
        cls.settings = {**ours, "distributed.comm.tls.ca-file": paper}
        names = {
            f"DASK_{name.upper().replace('.', '__').replace('-', '_')}": value
            for name, value in cls.settings.items()
        }
        cls.port = free_port()
        cls.address = f"tls://127.0.0.1:{cls.port}"
        at = ("--host", "127.0.0.1", "--port", str(cls.port), "--protocol", "tls")
        dask(cls, "scheduler", *at, **names)
        wait_for(cls.port)
        room_of_its = ("--local-directory", str(room / "dask"), "--no-nanny")
        dask(cls, "worker", cls.address, "--nthreads", "1", *room_of_its, **names)

    def test_work_goes_by_tls_and_nobody_comes_in_without(self) -> None:
        with dask_config.set(self.settings):
            with connected(self.address) as client:
                client.wait_for_workers(1, timeout=60)
            with Cluster(self.address, 2)() as executor:
                self.assertEqual(executor.submit(slow, 0.0, 7).result(timeout=60), 7)
            with (
                dask_config.set({"distributed.comm.require-encryption": True}),
                self.assertRaises(InternalError) as caught,
                Cluster(f"tcp://127.0.0.1:{self.port}", 2)(),
            ):
                pass
            self.assertEqual(caught.exception.code, "cluster-away")
            self.assertIn("encryption", caught.exception.text)

    def test_a_client_without_it_is_let_in_nowhere(self) -> None:
        setup = {**os.environ, "SHAPKEEN_CLUSTER": f"tcp://127.0.0.1:{self.port}"}
        told = check_setup(setup)
        self.assertIn("No scheduler answers there", told.stdout + told.stderr)


class NoCluster(unittest.TestCase):
    def test_a_scheduler_that_does_not_answer_is_told(self) -> None:
        with (
            mock.patch.object(cluster, "ANSWER_S", 0.5),
            self.assertRaises(InternalError) as caught,
            Cluster(f"tcp://127.0.0.1:{free_port()}", 4)(),
        ):
            pass
        self.assertEqual(caught.exception.code, "cluster-away")
        self.assertIn("SHAPKEEN_CLUSTER", caught.exception.text)
