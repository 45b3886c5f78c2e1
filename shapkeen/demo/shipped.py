"""The demo's footage as it ships: small files, made by `make footage`.

Their digests stand in SHA256SUMS, which a test checks. What is not compressed in itself (Y4M) ships
compressed.
"""

import hashlib
import lzma
import shutil
import sys
import tempfile
import uuid
from pathlib import Path

SHIPPED = Path(__file__).parent / "shipped_footage"
SUMS = SHIPPED / "SHA256SUMS"
PACKED = ".xz"
BARE = frozenset({".y4m"})


def digest_of(path: Path) -> str:
    """Return a file's SHA-256 as hexadecimal digits."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def shipped_digests() -> dict[str, str]:
    """Return file name → digest, as they were when the footage was made."""
    rows = (line.split("  ", 1) for line in SUMS.read_text().splitlines())
    return {name: digest for digest, name in rows}


def place_footage(folder: Path) -> None:
    """Put into a folder what is not there yet. Half a file is never found under its name."""
    folder.mkdir(parents=True, exist_ok=True)
    for name in shipped_digests():
        source, goal = SHIPPED / name, folder / name.removesuffix(PACKED)
        if goal.exists():
            continue
        partial_path = folder / f".{uuid.uuid4().hex}.part"
        try:
            if name.endswith(PACKED):
                with lzma.open(source) as packed, partial_path.open("wb") as file:
                    shutil.copyfileobj(packed, file)
            else:
                shutil.copyfile(source, partial_path)
            partial_path.replace(goal)
        finally:
            partial_path.unlink(missing_ok=True)


def ship(made: Path) -> None:
    """Take over all that was made in a folder, and write the digests."""
    shutil.rmtree(SHIPPED, ignore_errors=True)
    SHIPPED.mkdir()
    for path in sorted(made.iterdir()):
        if path.suffix in BARE:
            with path.open("rb") as file, lzma.open(SHIPPED / f"{path.name}{PACKED}", "wb") as out:
                shutil.copyfileobj(file, out)
        else:
            shutil.copyfile(path, SHIPPED / path.name)
    files = sorted(SHIPPED.iterdir())
    SUMS.write_text("".join(f"{digest_of(path)}  {path.name}\n" for path in files))


def main() -> None:
    """Render and encode all of the footage anew, and ship it."""
    from .footage import make_footage

    with tempfile.TemporaryDirectory() as folder:
        make_footage(Path(folder), lambda text: print(f"  {text}", file=sys.stderr))
        ship(Path(folder))


if __name__ == "__main__":
    main()
