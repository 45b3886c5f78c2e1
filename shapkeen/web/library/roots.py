"""Media roots: the only places that files are taken from."""

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from django.conf import settings

from ...core.declared import PICTURE_ENDINGS
from ...core.errors import UsageError


@dataclass(frozen=True, slots=True)
class Listing:
    """A folder's entries; unlisted: how many cannot be named or reached."""

    entries: tuple["Entry", ...]
    unlisted: int = 0


@dataclass(frozen=True, slots=True)
class Entry:
    """One line of a folder's listing; path is relative to the root."""

    name: str
    path: str
    is_folder: bool
    size_bytes: int


def roots() -> dict[str, Path]:
    """Return root name → folder."""
    return dict(settings.CONF.media_roots)


def resolve(root: str, relative: str) -> Path:
    """Return the file or folder at a relative path; symbolic links must stay inside too.

    Raises UsageError for an unknown root, a path that leads out of it, or nothing there.
    """
    base = roots().get(root)
    if base is None:
        raise UsageError(f"There is no media root {root!r}.", code="no-root", where=root)
    try:
        found = (base / relative).resolve()
        is_there = found.exists()
    except (OSError, ValueError, RuntimeError) as error:  # RuntimeError: links that go in circles
        check_root(root)
        raise UsageError("That is no path.", code="bad-path", where=relative) from error
    if not found.is_relative_to(base):
        raise UsageError(
            "That path leads out of the media root. Choose a file inside it.",
            code="outside-root",
            where=f"{root}:{relative}",
        )
    if not is_there:
        check_root(root)
        raise UsageError(
            "There is nothing at that path any more. Choose another file.",
            code="no-file",
            where=f"{root}:{relative}",
        )
    return found


def check_root(root: str) -> None:
    """Raise UsageError where a media root itself is away: a disk or a share that is not there."""
    base = roots()[root]
    try:
        is_there = base.is_dir() and os.access(base, os.R_OK | os.X_OK)
    except OSError:
        is_there = False
    if not is_there:
        raise UsageError(
            f"The media root {root!r} cannot be reached: its disk or share is away, or closed to "
            "Shapkeen. Bring it back; nothing is lost.",
            code="root-away",
            where=root,
        )


def listing(root: str, folder: str) -> Listing:
    """Return a folder's sub-folders and picture files by name; hidden ones are left out.

    Raises UsageError where it is no folder, or cannot be read.
    """
    base = resolve(root, folder)
    try:
        items = [(item, item.is_dir()) for item in base.iterdir() if not item.name.startswith(".")]
    except NotADirectoryError as error:
        raise UsageError(
            "That is not a folder.", code="bad-path", where=f"{root}:{folder}"
        ) from error
    except OSError as error:
        raise UsageError(
            f"This folder cannot be read ({error.strerror}). Check its rights.",
            code="bad-path",
            where=f"{root}:{folder}",
        ) from error
    entries, unlisted = [], 0
    for item, is_folder in sorted(items, key=lambda one: (not one[1], one[0].name.lower())):
        if not is_folder and item.suffix.lower() not in PICTURE_ENDINGS:
            continue
        try:
            item.name.encode()  # in an address and on a page, a name must be text
            size = 0 if is_folder else item.stat().st_size
        except (OSError, UnicodeEncodeError):
            unlisted += 1
            continue
        path = str(PurePosixPath(folder) / item.name)
        entries.append(Entry(item.name, path, is_folder, size))
    return Listing(tuple(entries), unlisted)


def files_below(root: str, folder: str) -> Iterator[tuple[str, os.stat_result]]:
    """Yield path and state of the picture files in a folder and its own, by name; hidden ones not.

    Paths are relative to the root. Links to folders are not followed, for they may go in circles.
    Raises UsageError where it is no folder.
    """
    base, top = resolve(root, folder), roots()[root]
    if not base.is_dir():
        raise UsageError("That is not a folder.", code="bad-path", where=f"{root}:{folder}")
    for place, folders, names in os.walk(base):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in sorted(names):
            path = Path(place) / name
            if name.startswith(".") or path.suffix.lower() not in PICTURE_ENDINGS:
                continue
            try:
                name.encode()  # in an address and on a page, a name must be text
                yield str(PurePosixPath(path.relative_to(top))), path.stat()
            except (OSError, UnicodeEncodeError):
                continue  # it went away meanwhile, or leads nowhere
