"""Uploads on disk: parts as they come, and what became of each. Survives whatever ends the server.

A folder an upload: `meta.json`, `sent` with the bytes so far, `out` with the renditions.
"""

import hashlib
import json
import re
import time
import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.errors import UsageError

NAME = re.compile(r"[0-9a-f]{32}")
MOST_NAME = 200
CHUNK = 1 << 20


@dataclass(frozen=True, slots=True)
class Upload:
    """One upload: where it lies."""

    folder: Path

    @property
    def key(self) -> str:
        """Return what it is called in addresses."""
        return self.folder.name

    @property
    def file(self) -> Path:
        """Return the bytes so far; the ending of the name that was given is kept."""
        return self.folder / f"sent{Path(self.meta['name']).suffix.lower()}"

    @property
    def out(self) -> Path:
        """Return where renditions go."""
        return self.folder / "out"

    @property
    def meta(self) -> dict[str, Any]:
        """Return what is known of it."""
        found: dict[str, Any] = json.loads((self.folder / "meta.json").read_text("utf-8"))
        return found

    def note(self, **more: Any) -> None:
        """Keep more of what is known; whole or not at all."""
        whole = self.folder / f".{uuid.uuid4().hex}"
        known = self.meta if (self.folder / "meta.json").exists() else {}
        whole.write_text(json.dumps({**known, **more}, ensure_ascii=False), "utf-8")
        whole.replace(self.folder / "meta.json")

    @property
    def offset(self) -> int:
        """Return how many bytes came."""
        try:
            return self.file.stat().st_size
        except FileNotFoundError:
            return 0

    @property
    def is_whole(self) -> bool:
        """Return whether all came."""
        return bool(self.offset == self.meta["size"])

    def digest(self) -> str:
        """Return the SHA-256 of what came, as hexadecimal digits."""
        made = hashlib.sha256()
        with self.file.open("rb") as file:
            while part := file.read(CHUNK):
                made.update(part)
        return made.hexdigest()


class Store:
    """All uploads of one service."""

    def __init__(self, folder: Path) -> None:
        """Take a folder, which is made where there is none."""
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def begin(self, name: object, size: object, sha256: object = None) -> Upload:
        """Return a new upload of so many bytes; raises UsageError for what cannot be one."""
        if not isinstance(name, str) or not 0 < len(name) <= MOST_NAME or "/" in name:
            raise _refuse("Give the file's name, without folders.", "name")
        if type(size) is not int or size <= 0:
            raise _refuse("Give its size in bytes, a whole number above 0.", "size")
        if sha256 is not None and not (isinstance(sha256, str) and len(sha256) == 64):
            raise _refuse("SHA-256 is 64 hexadecimal digits.", "sha256")
        made = Upload(self.folder / uuid.uuid4().hex)
        made.folder.mkdir()
        made.note(name=name, size=size, sha256=sha256, state="receiving", begun=time.time())
        return made

    def find(self, key: str) -> Upload | None:
        """Return an upload by its key."""
        if not NAME.fullmatch(key) or not (self.folder / key / "meta.json").exists():
            return None
        return Upload(self.folder / key)

    def all(self) -> list[Upload]:
        """Return every upload, the oldest first."""
        found = [self.find(path.name) for path in self.folder.iterdir()]
        return sorted((one for one in found if one), key=lambda one: one.meta["begun"])


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-upload", where=where)
