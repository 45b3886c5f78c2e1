"""Stills on disk: made once by a child process, then served from the cache."""

import base64
import hashlib
import uuid
from pathlib import Path

from django.conf import settings

from ...core.errors import UnreadableFileError
from ..jobs.sandbox import ChildDiedError, run_child
from ..library.models import Reel

MOST = (1600, 900)
STILL_TIME_S = 60
MOST_FILES = 2000
"""About 2 GB of stills; the ones not used for longest are removed."""


def still_path(reel: Reel, frame: int, eyes: str) -> Path:
    """Return the file of a still, making it if need be; raises CoreError where it cannot be."""
    source = reel.locate()
    mark = source.stat()
    identity = f"{source}|{mark.st_size}|{mark.st_mtime_ns}|{frame}|{eyes}|{MOST}"
    path: Path = settings.CONF.still_dir / f"{hashlib.sha256(identity.encode()).hexdigest()}.png"
    if path.exists():
        path.touch()
        return path
    try:
        found = run_child(
            "still",
            path=str(source),
            frame=frame,
            eyes=eyes,
            width=MOST[0],
            height=MOST[1],
            time_s=STILL_TIME_S,
        )
    except ChildDiedError as error:
        raise UnreadableFileError(
            "The frame could not be decoded.", code="decoder-crashed", where=reel.name
        ) from error
    _write(path, base64.b64decode(found["png"]))
    return path


def _write(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{uuid.uuid4().hex}.part")
    try:
        part.write_bytes(data)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    _trim(path.parent)


def _trim(folder: Path) -> None:
    files = list(folder.glob("*.png"))
    if len(files) <= MOST_FILES:
        return
    for path in sorted(files, key=lambda item: item.stat().st_mtime)[: len(files) - MOST_FILES]:
        path.unlink(missing_ok=True)
