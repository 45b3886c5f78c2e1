"""Writing the copy: beside its goal under another name, made sure of, then given its name.

Whenever the process ends, kill -9 included, either no file of that name is there or a whole one.
"""

import errno
import fcntl
import os
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from hashlib import sha256
from pathlib import Path
from typing import TypeAlias, TypeVar

from ...errors import InternalError, UsageError
from .patches import Kept, Patches

Told: TypeAlias = Callable[[int, int], None]
"""Is called with (bytes done, bytes in all), and may raise to stop."""
T = TypeVar("T")

BLOCK = 64 << 20
"""Bytes copied in one call: often enough for progress and for a stop, seldom enough for speed."""
NOT_HERE = frozenset({errno.EXDEV, errno.EINVAL, errno.ENOSYS, errno.EOPNOTSUPP, errno.EBADF})
"""What a file system answers that cannot copy by itself."""
NO_LINKS = frozenset({errno.EPERM, errno.EOPNOTSUPP, errno.ENOSYS, errno.EMLINK})
ENDING = ".part"


def write_copy(
    source: Path,
    goal: Path,
    patches: Patches,
    verify: Callable[[Path], T],
    *,
    told: Told | None = None,
) -> T:
    """Write a copy of a file with bytes exchanged, and return what `verify` makes of it.

    verify is given the finished copy under its other name, and may raise: then nothing is left.
    Raises UsageError where the goal's name is taken, InternalError where it cannot be written.
    """
    check_free(goal)
    total = source.stat().st_size + patches.growth
    with _new(goal, total) as (descriptor, path):
        with source.open("rb") as original:
            _write(original.fileno(), descriptor, patches, total, told)
        os.fsync(descriptor)
        return verify(path)


def write_new(data: bytes, goal: Path) -> None:
    """Write a small file of a name that is still free; errors as write_copy's."""
    check_free(goal)
    with _new(goal, len(data)) as (descriptor, _):
        _write_all(descriptor, data)
        os.fsync(descriptor)


@contextmanager
def _new(goal: Path, size: int) -> Iterator[tuple[int, Path]]:
    """Open a new file under another name; give it its own one if nothing was raised."""
    with _unwritable(goal):
        _check_space(goal, size)
        clear_left_overs(goal)
        with _temporary(goal) as (descriptor, path):
            yield descriptor, path
            give_name(path, goal)


def check_free(goal: Path) -> None:
    """Raise UsageError where something of that name is there, a dangling link too."""
    if os.path.lexists(goal):
        raise UsageError(
            f"{goal.name} is there already, and nothing is ever written over. Name another file.",
            code="copy-exists",
            where=str(goal),
        )


def clear_left_overs(goal: Path) -> None:
    """Take away what copies to this name left behind when they were killed; not what still runs."""
    for path in goal.parent.glob(f"{_beginning(goal)}*{ENDING}"):
        with suppress(OSError), path.open("rb") as left:
            fcntl.flock(left, fcntl.LOCK_EX | fcntl.LOCK_NB)
            path.unlink()


def _beginning(goal: Path) -> str:
    """Return what the other names of a goal begin with: short, however long its own is."""
    return f".copy-{sha256(os.fsencode(goal.name)).hexdigest()[:16]}-"


@contextmanager
def _unwritable(goal: Path) -> Iterator[None]:
    try:
        yield
    except OSError as error:
        raise InternalError(
            f"The file cannot be written: {error.strerror}. Make room there, or name another "
            "place. Nothing was left behind, and what it was made from was only read.",
            code="unwritten",
            where=str(goal),
        ) from error


def _check_space(goal: Path, size: int) -> None:
    room = os.statvfs(goal.parent)
    if room.f_bavail * room.f_frsize < size:
        raise OSError(
            errno.ENOSPC, f"it needs {size} bytes, and {room.f_bavail * room.f_frsize} are free"
        )


@contextmanager
def _temporary(goal: Path) -> Iterator[tuple[int, Path]]:
    """Open a new file beside the goal, locked for as long as it is written; leave nothing behind.

    Whoever gives it its name takes the other one away.
    """
    path = goal.parent / f"{_beginning(goal)}{secrets.token_hex(4)}{ENDING}"
    descriptor = os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX)
        yield descriptor, path
    finally:
        with suppress(FileNotFoundError):
            path.unlink()
        os.close(descriptor)


def _write(source: int, goal: int, patches: Patches, total: int, told: Told | None) -> None:
    done = 0
    for piece in patches.pieces(os.fstat(source).st_size):
        if isinstance(piece, bytes):
            _write_all(goal, piece)
            done += len(piece)
        else:
            for size in _copy(source, goal, piece):
                done += size
                if told:
                    told(done, total)
    if told:
        told(done, total)


def _copy(source: int, goal: int, piece: Kept) -> Iterator[int]:
    """Copy a stretch to the goal's end, by the file system itself where it can; yield bytes done.

    Blocks that begin like the original's may be shared between both files.
    """
    at, left, by_itself = piece.start, piece.size, True
    while left:
        size = 0
        if by_itself:
            try:
                size = os.copy_file_range(source, goal, min(left, BLOCK), offset_src=at)
            except OSError as error:
                if error.errno not in NOT_HERE:
                    raise
            by_itself = size > 0
        if not by_itself:
            size = _copy_through(source, goal, at, min(left, BLOCK))
        at, left = at + size, left - size
        yield size


def _copy_through(source: int, goal: int, start: int, size: int) -> int:
    data = os.pread(source, min(size, 8 << 20), start)
    if not data:
        raise OSError(errno.EIO, "the original became shorter while it was copied")
    _write_all(goal, data)
    return len(data)


def _write_all(goal: int, data: bytes) -> None:
    view = memoryview(data)
    while view:
        view = view[os.write(goal, view) :]


def give_name(path: Path, goal: Path) -> None:
    """Give a finished file its name, unless that was taken meanwhile; make it last.

    The other name stays where both can be had. Raises UsageError where the name is taken.
    """
    try:
        os.link(path, goal, follow_symlinks=False)
    except FileExistsError:
        check_free(goal)
        raise
    except OSError as error:
        if error.errno not in NO_LINKS:
            raise
        check_free(goal)  # a file system without links: the moment between is its own
        path.rename(goal)
    folder = os.open(goal.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)
