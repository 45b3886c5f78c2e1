"""Compressed JSON: how surveys, judgements and declarations are kept."""

import json
import zlib
from typing import Any


def to_bytes(plain: Any) -> bytes:
    """Return plain JSON values, compressed."""
    return zlib.compress(json.dumps(plain, separators=(",", ":")).encode(), level=6)


def from_bytes(data: bytes) -> Any:
    """Return the values that bytes hold; raises ValueError for damage."""
    try:
        return json.loads(zlib.decompress(data))
    except zlib.error as error:
        raise ValueError("What was kept is damaged: measure again.") from error
