"""Asking the index: which titles hold a word, and what a remark with it says."""

from collections.abc import Sequence

from django.db import connection
from django.db.models.expressions import RawSQL

from .index import COLUMNS, LEAST_LETTERS, TABLE

QUOTED_TOKENS = 60
"""Of a remark, around the word: tokens are trigrams, so as many letters and two."""


def titles_with(word: str) -> RawSQL:
    """Return the ids of titles in whose names, files, causes or remarks a word stands.

    Parts of words count, capitals do not.
    """
    if len(word) >= LEAST_LETTERS:
        return _ids(f"{TABLE} MATCH %s", [_phrase(word)])
    like = f"%{word.replace('!', '!!').replace('%', '!%').replace('_', '!_')}%"
    anywhere = " OR ".join(f"{column} LIKE %s ESCAPE '!'" for column in COLUMNS)
    return _ids(anywhere, [like] * len(COLUMNS))


def _ids(where: str, given: list[str]) -> RawSQL:
    # What people type comes in `given` alone.
    return RawSQL(f"SELECT rowid FROM {TABLE} WHERE {where}", given)  # noqa: S608, S611


def remarks_with(words: Sequence[str], titles: Sequence[int]) -> dict[int, str]:
    """Return what remarks with all of the words say, cut to the place, by title."""
    long_ones = [word for word in words if len(word) >= LEAST_LETTERS]
    if not long_ones or not titles:
        return {}
    places = ", ".join(["%s"] * len(titles))
    asked = f"remarks : ({' AND '.join(map(_phrase, long_ones))})"
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT rowid, snippet({TABLE}, {COLUMNS.index('remarks')}, '', '', '…', %s) "  # noqa: S608
            f"FROM {TABLE} WHERE {TABLE} MATCH %s AND rowid IN ({places})",
            [QUOTED_TOKENS, asked, *titles],
        )
        return dict(cursor.fetchall())


def _phrase(word: str) -> str:
    """Return a word as FTS5 takes it literally."""
    return '"' + word.replace('"', '""') + '"'
