"""Files that are made on request and kept: stills, moments, proxies. One maker at a time for each.

Kept by diskcache: what has not been used for longest goes when the whole grows beyond its limit.
Requests for the same thing wait for whoever makes it already (a lock by key, over all processes).
"""

import hashlib
import shutil
import tempfile
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path
from typing import IO

import diskcache
from django.conf import settings
from filelock import FileLock, Timeout

from .errors import FaultError

LOCKS = 256
"""Lock files; two keys that share one only wait for each other."""
WAIT_S = 300.0


@lru_cache(maxsize=4)
def _cache(folder: Path, limit: int) -> diskcache.Cache:
    return diskcache.Cache(
        str(folder), size_limit=limit, eviction_policy="least-recently-used", cull_limit=4
    )


def _own_cache() -> diskcache.Cache:
    return _cache(settings.CONF.made_dir, settings.CONF.made_bytes)


def kept(key: str) -> IO[bytes] | None:
    """Return what is kept under a key, opened; None where nothing is."""
    found: IO[bytes] | None = _own_cache().get(key, read=True)
    return found


def is_kept(key: str) -> bool:
    """Return whether something is kept under a key."""
    return key in _own_cache()


def tell(key: str, what: object, seconds: float) -> None:
    """Have the other processes of this server know something for some seconds."""
    _own_cache().set(key, what, expire=seconds)


def told(key: str) -> object:
    """Return what a process told last; None where nothing, or too long ago."""
    return _own_cache().get(key)


def untell(key: str) -> None:
    """Take back what was told."""
    _own_cache().delete(key)


@contextmanager
def only_one(name: str) -> Iterator[None]:
    """Hold the lock of a name; raises FaultError where another holds it for minutes."""
    number = int.from_bytes(hashlib.sha256(name.encode()).digest()[:4], "big") % LOCKS
    folder: Path = settings.CONF.made_dir / "locks"
    folder.mkdir(parents=True, exist_ok=True)
    try:
        with FileLock(folder / f"{number:03}.lock", timeout=WAIT_S):
            yield
    except Timeout as error:
        raise FaultError(
            "Somebody else's request for the same has not ended for minutes. Try again.",
            code="busy",
        ) from error


def made(key: str, make: Callable[[Path], Mapping[str, bytes | Path]]) -> IO[bytes]:
    """Return what is kept under a key, opened; made first where nothing is.

    make: gets an empty folder to work in; returns contents, or files of that folder, by key. Raises
    what make raises, and FaultError.
    """
    found = kept(key)
    if found is not None:
        return found
    with only_one(key):
        found = kept(key)
        if found is None:
            keep_made(make)
            found = kept(key)
    if found is None:
        raise FaultError("What was made could not be kept: is the disk full?", code="not-kept")
    return found


def keep_made(make: Callable[[Path], Mapping[str, bytes | Path]]) -> None:
    """Make something, and keep all of it."""
    work_dir: Path = settings.CONF.work_dir
    work_dir.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=work_dir, prefix="made-") as folder:
        for key, content in make(Path(folder)).items():
            if isinstance(content, Path):
                with content.open("rb") as file:
                    _own_cache().set(key, file, read=True)
            else:
                with tempfile.SpooledTemporaryFile() as file:
                    file.write(content)
                    file.seek(0)
                    _own_cache().set(key, file, read=True)


def remove_leftovers() -> None:
    """Remove what work that was killed left behind; call when nothing runs."""
    folder: Path = settings.CONF.work_dir
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True, exist_ok=True)
