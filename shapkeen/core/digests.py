"""SHA-256 of whole files (FIPS 180-4), read in pieces, with progress."""

import hashlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from .errors import UsageError

PIECE_BYTES = 4 * 1024 * 1024
Told = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class StateOnDisk:
    """What a file system says of a file: bytes, and times of change in ns.

    inode_ns: when anything about it was changed last; setting its time back does not set this back.
    """

    size_bytes: int
    changed_ns: int
    inode_ns: int


def state_on_disk(path: Path) -> StateOnDisk:
    """Return a file's state; raises UsageError where it is gone."""
    try:
        found = path.stat()
    except OSError as error:
        raise UsageError(
            f"{path.name} cannot be reached: {error.strerror}.", code="no-file", where=path.name
        ) from error
    return StateOnDisk(found.st_size, found.st_mtime_ns, found.st_ctime_ns)


def sha256_of(path: Path, told: Told | None = None) -> str:
    """Return a file's SHA-256 in hexadecimal. told: hears bytes done and all of them.

    Raises UsageError where it cannot be read.
    """
    return digests_of(path, ("sha256",), told)["sha256"]


def digests_of(path: Path, algorithms: Iterable[str], told: Told | None = None) -> dict[str, str]:
    """Return algorithm → digest of a file, which is read once; as sha256_of."""
    made = {name: hashlib.new(name, usedforsecurity=False) for name in algorithms}
    done = 0
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            while piece := file.read(PIECE_BYTES):
                for digest in made.values():
                    digest.update(piece)
                done += len(piece)
                if told:
                    told(done, size)
    except OSError as error:
        raise UsageError(
            f"{path.name} cannot be read: {error.strerror}.", code="unreadable", where=path.name
        ) from error
    return {name: digest.hexdigest() for name, digest in made.items()}
