"""A Dask cluster in place of processes: the same work by the same code, results by value.

A worker that dies or is cut off loses the span that it was at; the scheduler gives it to another.
"""

import logging
import os
import threading
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import CancelledError, Executor, Future, InvalidStateError
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from functools import lru_cache
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ...errors import InternalError
from .sent import do_packed, pack, roots_here

if TYPE_CHECKING:
    import distributed

ADDRESS = "SHAPKEEN_CLUSTER"
"""Where the scheduler listens, as tcp://host:port, or tls:// with Dask's own settings for TLS."""
MOST = "SHAPKEEN_CLUSTER_SPANS"
"""How many parts of one file are at work at once, so that the next file has its turn."""
USUAL_MOST = 32
ANSWER_S = 10.0
LOOK_S, EMPTY_S = 5.0, 90.0
"""How often it is asked who is there, and how long nobody may be before work is given up."""
LIBRARIES = ("av", "numpy", "numba", "opencv-python-headless", "scipy", "distributed")
"""What results may depend on, to the last bit, and what both ends must speak alike."""
_log = logging.getLogger(__name__)


@lru_cache
def versions_here() -> dict[str, str]:
    """Return the versions of this machine that results depend on, by name."""
    import platform

    import av

    found = {name: version(name) for name in ("shapkeen", *LIBRARIES)}
    found["python"] = ".".join(platform.python_version_tuple()[:2])
    for name, numbers in av.library_versions.items():
        found[name] = ".".join(map(str, numbers))
    return found


@dataclass(frozen=True, slots=True)
class Machine:
    """A worker of the cluster. differs: what has another version there: name → theirs."""

    address: str
    host: str
    differs: Mapping[str, str]

    @property
    def fits(self) -> bool:
        """Return whether it gives the same results as this machine, to the last bit."""
        return not self.differs


def _versions_there() -> dict[str, str]:
    """Return the versions of the machine that this runs on."""
    return versions_here()


def machines_of(client: "distributed.Client") -> tuple[Machine, ...]:
    """Return the workers that a cluster has, and what is of another version there."""
    ours = versions_here()
    told = client.run(_versions_there, on_error="return")
    found = []
    for address, theirs in sorted(told.items()):
        said = theirs if isinstance(theirs, dict) else {"shapkeen": "none"}
        differs = {
            name: said.get(name, "none") for name in ours if said.get(name, "none") != ours[name]
        }
        found.append(Machine(address, address.split("://")[-1].rsplit(":", 1)[0], differs))
    return tuple(found)


@contextmanager
def connected(address: str) -> Iterator["distributed.Client"]:
    """Give a client of the scheduler at an address; raises InternalError where none answers."""
    from dask import config
    from distributed import Client

    if config.get("distributed.comm.require-encryption") and not address.startswith("tls:"):
        # Its client would find that out, too, and be in the way of the end of the process.
        raise _away(address, "Dask's settings ask for encryption, and this address has none")
    try:
        client = Client(address, timeout=ANSWER_S, set_as_default=False, name="shapkeen")
    except (OSError, ValueError, TimeoutError, RuntimeError, AssertionError) as error:
        # RuntimeError: for want of TLS. AssertionError: its own thread did not begin within ten
        # seconds, as on a machine that is far too busy.
        raise _away(address, str(error) or "the client did not begin") from error
    try:
        yield client
    finally:
        with suppress(OSError, TimeoutError):
            client.close(timeout=ANSWER_S)


@dataclass(frozen=True, slots=True)
class Cluster:
    """A pool on a Dask cluster.

    roots: media roots of this machine, by name: paths below them are sent by name. most: parts of
    one file that are at work at once, so that the next file has its turn.
    """

    address: str
    most: int
    roots: Mapping[str, Path] = field(default_factory=dict)
    shares_disk = False

    @property
    def at_once(self) -> int:
        """Return how many parts it is given at a time."""
        return self.most

    @contextmanager
    def __call__(self) -> Iterator[Executor]:
        """Give an executor over the workers that fit; raises InternalError where none does."""
        with connected(self.address) as client:
            with suppress(TimeoutError):
                client.wait_for_workers(1, timeout=ANSWER_S)  # one may just be begun anew
            executor = ClusterExecutor(client, _hosts(machines_of(client), self.address), self)
            try:
                yield executor
            finally:
                executor.shutdown(wait=False, cancel_futures=True)


def cluster_here() -> Cluster | None:
    """Return the cluster that the environment names; None where it names none."""
    address = os.environ.get(ADDRESS, "")
    most = os.environ.get(MOST, "")
    if not address:
        return None
    return Cluster(address, int(most) if most.isdecimal() else USUAL_MOST, roots_here())


def _hosts(machines: tuple[Machine, ...], address: str) -> list[str]:
    """Return the hosts whose workers fit.

    By host, since a worker that is begun anew has another port.
    """
    unfit = [one for one in machines if not one.fits]
    told = "; ".join(f"{one.host}: {differing_words(one.differs)}" for one in unfit)
    if unfit:
        _log.warning("Workers of other versions are left out: %s", told)
    hosts = sorted({one.host for one in machines if one.fits} - {one.host for one in unfit})
    if not hosts:
        raise InternalError(
            f"No worker of the cluster can measure as this machine does. {told or 'It has none'}. "
            "Install the same release of Shapkeen there, and start the workers.",
            code="cluster-differs" if unfit else "cluster-empty",
            where=address,
        )
    return hosts


def differing_words(differs: Mapping[str, str]) -> str:
    """Return what has another version there, in words."""
    ours = versions_here()
    return ", ".join(f"{name} {theirs} for {ours[name]}" for name, theirs in differs.items())


class ClusterExecutor(Executor):
    """Sends calls to a cluster; how many at once is for whoever submits them (Cluster.at_once)."""

    def __init__(self, client: "distributed.Client", hosts: list[str], pool: Cluster) -> None:
        """Use a client that somebody else closes."""
        self._client, self._hosts, self._pool = client, hosts, pool
        self._lock = threading.RLock()
        self._sent: dict[Any, Future[Any]] = {}
        self._over = threading.Event()
        threading.Thread(target=self._watch, daemon=True, name="cluster").start()

    def submit(self, work: Callable[..., Any], /, *given: Any, **named: Any) -> "Future[Any]":
        """Send a call; its paths are resolved there."""
        if named:
            raise TypeError("a cluster is sent positional arguments alone")
        future: Future[Any] = Future()
        packed = pack(work, given, self._pool.roots)
        with self._lock:
            if self._over.is_set():
                raise RuntimeError("a cluster that was left is sent nothing")
            future.set_running_or_notify_cancel()
            sent = self._client.submit(do_packed, packed, pure=False, workers=self._hosts)
            self._sent[sent] = future
        sent.add_done_callback(self._come_back)
        return future

    def _come_back(self, sent: Any) -> None:
        """Pass on what a call gave; in a thread of the client's."""
        with self._lock:
            future = self._sent.get(sent)
        if future is None:
            return
        value, error = None, None
        try:
            # Waits where the worker died since and it is done anew: hence without the lock.
            value = sent.result()
        except Exception as why:  # noqa: BLE001  (whoever waits for it must hear of it)
            error = _in_our_words(why, self._pool.address)
        with suppress(InvalidStateError):  # given up meanwhile
            if error is None:
                future.set_result(value)
            else:
                future.set_exception(error)
        with self._lock:
            self._sent.pop(sent, None)
        sent.release()

    def _watch(self) -> None:
        """Give up where no worker was there for long: a scheduler would wait for ever."""
        empty_s = 0.0
        while not self._over.wait(LOOK_S):
            empty_s = 0.0 if self._someone_is_there() else empty_s + LOOK_S
            if empty_s >= EMPTY_S:
                self._give_up()
                return

    def _someone_is_there(self) -> bool:
        with suppress(OSError, TimeoutError):
            workers = self._client.scheduler_info(n_workers=-1)["workers"]
            return any(one["host"] in self._hosts for one in workers.values())
        return False

    def _give_up(self) -> None:
        with self._lock:
            left = list(self._sent.values())
            self._sent.clear()
        for future in left:
            with suppress(Exception):
                future.set_exception(_lost(self._pool.address))

    def shutdown(self, wait: bool = True, *, cancel_futures: bool = False) -> None:
        """End: nothing more is sent, and with cancel_futures what was sent is called back."""
        self._over.set()
        with self._lock:
            sent = list(self._sent)
        if cancel_futures and sent:
            with suppress(OSError, TimeoutError):
                self._client.cancel(sent, force=True)


def _in_our_words(error: Exception, address: str) -> Exception:
    """Return what a call failed by, in our words where it is the cluster's."""
    from distributed import KilledWorker

    if isinstance(error, CancelledError):
        return _lost(address)
    if isinstance(error, KilledWorker):
        return InternalError(
            "Worker after worker of the cluster went down at the same place: the file is damaged "
            "there, or the machines have too little memory. Without the cluster that would be "
            "told: measure it so.",
            code="workers-lost",
            where=f"last at {error.last_worker.address}",
        )
    return error


def _away(address: str, why: str) -> InternalError:
    return InternalError(
        f"No scheduler answers there ({why}). Start it, or take {ADDRESS} out of the settings: "
        "files are then measured on this machine.",
        code="cluster-away",
        where=address,
    )


def _lost(address: str) -> InternalError:
    return InternalError(
        "The cluster went away while it measured. What is done is kept: measure again once its "
        "scheduler and workers are there.",
        code="cluster-lost",
        where=address,
    )
