"""The form of a bag: RFC 8493, its tag files and its manifests."""

import unicodedata
from collections.abc import Iterable, Mapping
from pathlib import PurePosixPath

DECLARATION = "bagit.txt"
INFO = "bag-info.txt"
PAYLOAD = "data"
ALGORITHM = "sha256"
KNOWN = ("sha512", "sha256", "sha1", "md5")
"""Algorithms that manifests are read in: RFC 8493, 2.4."""
DECLARED = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n"


def manifest_name(algorithm: str = ALGORITHM, *, tags: bool = False) -> str:
    """Return the name of a manifest, of the payload or of tag files."""
    return f"{'tag' if tags else ''}manifest-{algorithm}.txt"


def manifest_text(digests: Mapping[str, str]) -> str:
    """Return a manifest's lines: digest and path, CR, LF and % encoded (RFC 8493, 2.1.3)."""
    return "".join(f"{digests[path]}  {_encoded(path)}\n" for path in sorted(digests))


def manifest_lines(text: str) -> list[tuple[str, str]]:
    """Return (path, digest) of each line, digests in lower case.

    Raises ValueError with the number of a line that is none.
    """
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        digest, _, path = line.strip().partition(" ")
        path = path.lstrip(" *")  # an asterisk is what other tools write for binary files
        if not path or not all(sign in "0123456789abcdefABCDEF" for sign in digest):
            raise ValueError(number)
        found.append((_decoded(path), digest.lower()))
    return found


def is_safe(path: str) -> bool:
    """Return whether a path of a manifest stays in the bag (RFC 8493, 5.3)."""
    parts = PurePosixPath(path).parts
    return (
        bool(parts) and not path.startswith(("/", "~")) and ".." not in parts and "\\" not in path
    )


def is_plain(path: str) -> bool:
    """Return whether every tool reads a path alike: some leave % encoding in manifests as it is."""
    return "%" not in path and path.isprintable()


def info_text(fields: Iterable[tuple[str, str]]) -> str:
    """Return bag-info.txt: a label, a colon and a value on each line, line breaks made blanks."""
    return "".join(f"{label}: {' '.join(value.split())}\n" for label, value in fields)


def oxum(sizes: Iterable[int]) -> str:
    """Return Payload-Oxum: bytes and number of payload files."""
    listed = list(sizes)
    return f"{sum(listed)}.{len(listed)}"


def same_name(path: str) -> str:
    """Return a path as names are compared: file systems may compose letters otherwise."""
    return unicodedata.normalize("NFC", path)


def _encoded(path: str) -> str:
    return path.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


def _decoded(path: str) -> str:
    for coded, sign in (("%0D", "\r"), ("%0d", "\r"), ("%0A", "\n"), ("%0a", "\n"), ("%25", "%")):
        path = path.replace(coded, sign)
    return path
