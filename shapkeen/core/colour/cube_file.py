"""Look-up tables as `.cube` text: common practice, no source.

A size line, an optional domain, then rows of three numbers; of a lattice red is fastest. Comments
begin with #.
"""

from collections.abc import Iterable, Iterator

import numpy as np

from .lookup import LookUpTable

SIZES = {"LUT_1D_SIZE": 1, "LUT_3D_SIZE": 3}
MOST = {1: 65536, 3: 256}


def cube_text(table: LookUpTable, *, title: str, comments: Iterable[str] = ()) -> str:
    """Return a table as text. title and comments: one line each, what else breaks is left out."""
    values = table.values if table.kind == "1d" else table.values.transpose(2, 1, 0, 3)
    head = [f"# {_one_line(line)}" for line in comments]
    plain_title = _one_line(title).replace('"', "'")
    head += [
        f'TITLE "{plain_title}"',
        f"LUT_{table.kind.upper()}_SIZE {table.size}",
        "DOMAIN_MIN 0.0 0.0 0.0",
        "DOMAIN_MAX 1.0 1.0 1.0",
    ]
    rows = [f"{red:.6f} {green:.6f} {blue:.6f}" for red, green, blue in values.reshape(-1, 3)]
    return "\n".join([*head, *rows]) + "\n"


def _one_line(text: str) -> str:
    return " ".join(text.split())


def read_cube(text: str) -> LookUpTable:
    """Return the table that text holds.

    Raises ValueError, naming the line, for what is no table over 0..1.
    """
    size, side, rows = 0, 0, []
    for number, words in _lines(text):
        if words[0] in SIZES:
            side = SIZES[words[0]]
            size = _size(words, side, number)
        elif words[0] in ("DOMAIN_MIN", "DOMAIN_MAX", "LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):
            _check_domain(words, number)
        elif words[0] != "TITLE":
            rows.append(_row(words, number))
    if not side:
        raise ValueError("The table states no size: LUT_1D_SIZE or LUT_3D_SIZE is missing.")
    if len(rows) != size**side:
        raise ValueError(f"The table should hold {size**side} rows and holds {len(rows)}.")
    values = np.array(rows, np.float64)
    if side == 1:
        return LookUpTable(values)
    return LookUpTable(values.reshape(size, size, size, 3).transpose(2, 1, 0, 3))


def _lines(text: str) -> Iterator[tuple[int, list[str]]]:
    for number, line in enumerate(text.splitlines(), 1):
        words = line.split()
        if words and not words[0].startswith("#"):
            yield number, words


def _size(words: list[str], side: int, number: int) -> int:
    if len(words) != 2 or not words[1].isdigit() or not 2 <= int(words[1]) <= MOST[side]:
        raise ValueError(f"Line {number}: the size must be a number from 2 to {MOST[side]}.")
    return int(words[1])


def _check_domain(words: list[str], number: int) -> None:
    wanted = {"DOMAIN_MIN": [0.0] * 3, "DOMAIN_MAX": [1.0] * 3}.get(words[0], [0.0, 1.0])
    if _row(words[1:], number, len(wanted)) != wanted:
        raise ValueError(f"Line {number}: only tables over 0 to 1 can be read.")


def _row(words: list[str], number: int, count: int = 3) -> list[float]:
    try:
        row = [float(word) for word in words]
    except ValueError:
        row = []
    if len(row) != count or not np.isfinite(row).all():
        raise ValueError(f"Line {number}: {count} numbers should stand here.")
    return row
