"""Media roots: the only places that files are taken from."""

from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from django.conf import settings

from ...core.errors import UsageError

PICTURE_ENDINGS = frozenset({".mp4", ".mov", ".m4v", ".mkv", ".webm", ".mxf", ".avi", ".ts"})


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
    except (OSError, ValueError) as error:
        raise UsageError("That is no path.", code="bad-path", where=relative) from error
    if not found.is_relative_to(base):
        raise UsageError(
            "That path leads out of the media root. Choose a file inside it.",
            code="outside-root",
            where=f"{root}:{relative}",
        )
    if not found.exists():
        raise UsageError(
            "There is nothing at that path any more. Choose another file.",
            code="no-file",
            where=f"{root}:{relative}",
        )
    return found


def listing(root: str, folder: str) -> list[Entry]:
    """Return a folder's sub-folders and picture files by name; hidden ones are left out."""
    base = resolve(root, folder)
    if not base.is_dir():
        raise UsageError("That is not a folder.", code="bad-path", where=f"{root}:{folder}")
    entries = []
    for item in sorted(base.iterdir(), key=lambda path: (path.is_file(), path.name.lower())):
        if item.name.startswith("."):
            continue
        is_folder = item.is_dir()
        if not is_folder and item.suffix.lower() not in PICTURE_ENDINGS:
            continue
        path = str(PurePosixPath(folder) / item.name)
        size = 0 if is_folder else item.stat().st_size
        entries.append(Entry(item.name, path, is_folder, size))
    return entries
