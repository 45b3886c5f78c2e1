"""Names of versions' files: a pattern, filled in with what is made."""

from collections.abc import Mapping
from string import Formatter

USUAL_PATTERN = "{name}"
FIELDS = ("name", "width", "height", "light", "codec", "rate", "specification")
MOST_SIGNS = 120
LONGEST_BYTES = 200
"""File systems take 255; a number and an ending come on top."""


def pattern_fault(pattern: str) -> str:
    """Return what is wrong with a pattern of file names; empty where nothing is."""
    try:
        parts = list(Formatter().parse(pattern))
    except ValueError:
        return "A brace { in a file name opens a field, and } closes it."
    for _, field, form, turn in parts:
        if field is not None and (field not in FIELDS or form or turn):
            return f"Fields of a file name are {', '.join(f'{{{name}}}' for name in FIELDS)}."
    if not pattern.strip() or len(pattern) > MOST_SIGNS:
        return f"A pattern of file names has 1 to {MOST_SIGNS} signs."
    return ""


def filled(pattern: str, values: Mapping[str, object]) -> str:
    """Return a file's name without its ending, in signs that every file system takes.

    pattern: one without a fault. values: by field.
    """
    text = pattern.format_map(values)
    kept = "".join(sign if sign.isalnum() or sign in "-_ .,()+" else "-" for sign in text)
    while len(kept.encode()) > LONGEST_BYTES:
        kept = kept[:-1]
    return kept.strip(" .") or "version"
