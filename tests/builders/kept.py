"""Files that tests make once: by content, shared by the processes of a run, and between runs.

Only what is encoded is kept between runs; what the code under test measures is not.
"""

import hashlib
import os
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from filelock import FileLock

FOLDER = Path(
    os.environ.get("SHAPKEEN_TEST_FOOTAGE") or Path(tempfile.gettempdir()) / "shapkeen-footage"
)


def kept(told: object, parts: list[bytes], ending: str, make: Callable[[Path], None]) -> Path:
    """Return a file made by `make` for what was told and these contents; made at most once."""
    digest = hashlib.blake2b(repr(told).encode(), digest_size=20)  # twice as fast as SHA-256
    for part in parts:
        digest.update(part)
    path = FOLDER / f"{digest.hexdigest()}{ending}"
    if path.exists():
        return path
    FOLDER.mkdir(parents=True, exist_ok=True)
    with FileLock(f"{path}.lock"):
        if not path.exists():
            beside = FOLDER / f"{path.stem}.{os.getpid()}.part{ending}"
            make(beside)
            beside.replace(path)
    return path


def copied(source: Path, goal: Path) -> Path:
    """Return a copy of a kept file under a name of the test's own."""
    shutil.copyfile(source, goal)
    return goal
