"""Look-up tables as one line of text, so that a promise or a recipe can hold them.

Form: kind, size, and the entries in steps of 1/65535, red, green, blue, compressed (zlib, base64).
"""

import base64
import binascii
import zlib
from functools import lru_cache

import numpy as np

from .lookup import LookUpTable

STEPS = 65535
MOST_SIZE = {"1d": 65536, "3d": 65}
MOST_TEXT = 2_000_000


def packed(table: LookUpTable) -> str:
    """Return a table as text; what lies outside 0..1 is cut, to 1/65535.

    Raises ValueError where it is larger than MOST_SIZE.
    """
    if not 2 <= table.size <= MOST_SIZE[table.kind]:
        raise ValueError(f"A table has 2 to {MOST_SIZE[table.kind]} entries a side.")
    steps = np.rint(np.clip(table.values, 0.0, 1.0) * STEPS).astype("<u2")
    data = base64.b64encode(zlib.compress(steps.tobytes(), 9)).decode()
    return f"{table.kind}:{table.size}:{data}"


@lru_cache(maxsize=8)
def unpacked(text: str) -> LookUpTable:
    """Return the table that a text holds; raises ValueError for what is none."""
    kind, _, rest = text[:MOST_TEXT].partition(":")
    size, _, data = rest.partition(":")
    if kind not in MOST_SIZE or not size.isdecimal() or not 2 <= int(size) <= MOST_SIZE[kind]:
        raise ValueError("a table as Shapkeen packs it")
    side = int(size)
    count = side * 3 if kind == "1d" else side**3 * 3
    try:
        unzip = zlib.decompressobj()
        raw = unzip.decompress(base64.b64decode(data, validate=True), count * 2)
    except (binascii.Error, zlib.error, ValueError) as error:
        raise ValueError("a table as Shapkeen packs it") from error
    if len(raw) != count * 2:
        raise ValueError("a table as Shapkeen packs it")
    values = np.frombuffer(raw, "<u2").astype(np.float64) / STEPS
    return LookUpTable(values.reshape((side, 3) if kind == "1d" else (side, side, side, 3)))
