"""Uploads: written beside their goal under a temporary name, so that no half file is found.

A full disk or an over-large file ends the upload with a clear message; nothing stays.
"""

import contextlib
import errno
import os
import shutil
import uuid
import weakref
from collections.abc import Collection, Mapping
from pathlib import Path
from typing import Any, BinaryIO

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile
from django.core.files.uploadhandler import FileUploadHandler, StopUpload

PART_ENDING = ".part"
CHUNK_BYTES = 1024 * 1024
MOST_NAME_BYTES, MOST_ENDING = 180, 12
"""File systems take 255 bytes, and one sign may take four."""


class ReelFile(UploadedFile):  # type: ignore[type-arg]  # generic in the stubs only
    """A received file that lies under its temporary name until it is kept."""

    def __init__(self, path: Path, name: str, size: int) -> None:
        super().__init__(file=None, name=name, size=size)
        self.path = path

    def keep(self, folder: Path) -> Path:
        """Give the file its own name in `folder`, a number added if that is taken."""
        folder.mkdir(parents=True, exist_ok=True)
        stem, ending = _short_name(self.name or "upload")
        for number in range(1, 1000):
            goal = folder / (f"{stem}{ending}" if number == 1 else f"{stem}-{number}{ending}")
            try:
                # Taken first: two uploads of one name cannot meet.
                os.close(os.open(goal, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
            except FileExistsError:
                continue
            try:
                self._move(goal)
            except OSError:
                goal.unlink(missing_ok=True)
                raise
            return goal
        raise OSError(errno.EEXIST, "a thousand files of that name are here already")

    def _move(self, goal: Path) -> None:
        """Put the file in the place of its reserved name, across file systems too."""
        try:
            self.path.replace(goal)
        except OSError as error:
            if error.errno != errno.EXDEV:
                raise
            shutil.copyfile(self.path, goal)
            with goal.open("rb+") as file:
                os.fsync(file.fileno())
            self.path.unlink()

    def close(self) -> None:
        """Remove what was not kept."""
        self.path.unlink(missing_ok=True)


class ReelUploadHandler(FileUploadHandler):
    """Streams an upload to the disk it will stay on; the request learns why it failed."""

    chunk_size = CHUNK_BYTES

    def handle_raw_input(
        self,
        input_data: Any,
        META: Mapping[str, str],  # noqa: N803  (Django's own name)
        content_length: int | None,
        boundary: str,
        encoding: str | None = None,
    ) -> None:
        """Refuse at once what says that it is too large."""
        self._limit = settings.CONF.upload_limit_bytes
        self._is_too_large = bool(content_length and content_length > self._limit + CHUNK_BYTES)
        self._written = 0
        self._part: Path | None = None
        self._out: BinaryIO | None = None

    def new_file(self, *args: Any, **kwargs: Any) -> None:
        """Open the temporary file."""
        super().new_file(*args, **kwargs)
        if self._is_too_large:
            self._fail(too_large(self._limit))
        folder = settings.CONF.upload_dir
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self._part = folder / f".{uuid.uuid4().hex}{PART_ENDING}"
            # However the request ends, a connection that breaks included: what was kept by then
            # has another name.
            weakref.finalize(self, self._part.unlink, missing_ok=True)
            self._out = self._part.open("xb")
        except OSError as error:
            self._fail(write_failure(error))

    def receive_data_chunk(self, raw_data: bytes, start: int) -> None:
        """Write one piece."""
        assert self._out is not None  # noqa: S101  (opened in new_file)
        self._written += len(raw_data)
        if self._written > self._limit:
            self._fail(too_large(self._limit))
        try:
            self._out.write(raw_data)
        except OSError as error:
            self._fail(write_failure(error))

    def file_complete(self, file_size: int) -> ReelFile | None:
        """Bring everything to the disk and hand the file over."""
        assert self._out is not None and self._part is not None  # noqa: S101  (as above)
        try:
            self._out.flush()
            os.fsync(self._out.fileno())
            self._out.close()
        except OSError as error:
            self._fail(write_failure(error))
        return ReelFile(self._part, self.file_name or "upload", file_size)

    def upload_interrupted(self) -> None:
        """Remove the half file when the browser went away."""
        self._clean()

    def _fail(self, why: str) -> None:
        self._clean()
        if self.request is not None:
            self.request.META["shapkeen.upload_failure"] = why
        # The rest is read and thrown away, so that the browser gets to see the answer.
        raise StopUpload(connection_reset=False)

    def _clean(self) -> None:
        if self._out is not None:
            with contextlib.suppress(OSError):
                self._out.close()  # flushing to a full disk fails once more
        if self._part is not None:
            self._part.unlink(missing_ok=True)


def _short_name(name: str) -> tuple[str, str]:
    """Return stem and ending, so short that any file system takes them with a number added."""
    stem, ending = Path(name).stem, Path(name).suffix
    short = stem.encode(errors="replace")[:MOST_NAME_BYTES].decode(errors="ignore")
    return short or "upload", ending if len(ending) < MOST_ENDING else ""


def copy_in(source: Path) -> str:
    """Return the name of a copy of a file among those that lie only here; never over another.

    Raises OSError; nothing is left behind then.
    """
    folder = settings.CONF.upload_dir
    folder.mkdir(parents=True, exist_ok=True)
    part = folder / f".{uuid.uuid4().hex}{PART_ENDING}"
    try:
        with source.open("rb") as file, part.open("xb") as out:
            shutil.copyfileobj(file, out, CHUNK_BYTES)
            out.flush()
            os.fsync(out.fileno())
        return ReelFile(part, source.name, part.stat().st_size).keep(folder).name
    finally:
        part.unlink(missing_ok=True)


def write_failure(error: OSError) -> str:
    """Return in words why an upload could not be kept."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return "The disk is full, so the upload was thrown away. Make room, then send it again."
    return f"The upload could not be written ({error.strerror}). Nothing was kept."


def too_large(limit: int) -> str:
    return (
        f"The file is larger than the limit of {limit / 1e9:.1f} GB for uploads. "
        "Put it into a media root instead."
    )


def remove_leftovers(known: Collection[str]) -> int:
    """Delete uploads of an earlier life that were never acknowledged; returns how many.

    known: the names of those that belong to something. Call when no server runs.
    """
    folder = settings.CONF.upload_dir
    parts = [
        path
        for path in (folder.iterdir() if folder.is_dir() else ())
        if path.is_file() and path.name not in known
    ]
    for part in parts:
        part.unlink(missing_ok=True)
    return len(parts)


def text_of(sent: Any) -> str:
    """Return the text of a small file that was sent; raises UnicodeDecodeError where it is none."""
    path = getattr(sent, "path", None)  # what is sent is put on disk at once
    data: bytes = path.read_bytes() if path else sent.read()
    return data.decode("utf-8")
