"""The index: a row of words for each title, kept by the database itself.

Triggers write it, so that no way of saving can leave it behind: not the admin's shell, not a bulk
update, not an archive that comes back. It holds nothing of its own and can be made anew at any
time. Parts of words are found from three letters on, in any script, since its tokens are trigrams
(SQLite's FTS5).
"""

from collections.abc import Iterator

from django.db import connections

TABLE = "search_words"
COLUMNS = ("names", "files", "causes", "remarks")
LEAST_LETTERS = 3
"""A trigram index knows no shorter ones."""

_LINE = "char(10)"
_ATTEMPTS = (
    "library_attempt a JOIN library_delivery d ON d.id = a.delivery_id "
    "WHERE d.title_id = t.id AND a.binned_at IS NULL AND d.binned_at IS NULL"
)
_ROW = f"""
INSERT INTO {TABLE}(rowid, names, files, causes, remarks)
SELECT t.id,
  t.name || {_LINE} || t.note || {_LINE} || coalesce((
    SELECT group_concat(d.name, {_LINE}) FROM library_delivery d
    WHERE d.title_id = t.id AND d.binned_at IS NULL), ''),
  (SELECT r.path FROM library_reel r WHERE r.id = t.master_id) || {_LINE} || coalesce((
    SELECT group_concat(r.path, {_LINE}) FROM library_reel r
    WHERE r.id IN (SELECT a.reel_id FROM {_ATTEMPTS})), ''),
  coalesce((
    SELECT group_concat(b.value, {_LINE}) FROM bench_judgement j, json_each(j.broken) b
    WHERE j.attempt_id IN (SELECT a.id FROM {_ATTEMPTS})), ''),
  coalesce((
    SELECT group_concat(m.text, {_LINE}) FROM signoff_remark m
    WHERE m.attempt_id IN (SELECT a.id FROM {_ATTEMPTS})), '')
FROM library_title t"""  # noqa: S608  (names of tables are our own, here and below)

_OF_ATTEMPT = (
    "SELECT d.title_id FROM library_attempt a JOIN library_delivery d ON d.id = a.delivery_id "
    "WHERE a.id = {row}.attempt_id"
)
_OF_REEL = (
    "SELECT id FROM library_title WHERE master_id = {row}.id UNION "
    "SELECT d.title_id FROM library_attempt a JOIN library_delivery d ON d.id = a.delivery_id "
    "WHERE a.reel_id = {row}.id"
)
_OF_DELIVERY = "SELECT d.title_id FROM library_delivery d WHERE d.id = {row}.delivery_id"
SOURCES = {
    "library_title": (("name", "note", "master_id"), "SELECT {row}.id"),
    "library_reel": (("path",), _OF_REEL),
    "library_delivery": (("name", "title_id", "binned_at"), "SELECT {row}.title_id"),
    "library_attempt": (("delivery_id", "reel_id", "binned_at"), _OF_DELIVERY),
    "bench_judgement": (("broken",), _OF_ATTEMPT),
    "signoff_remark": (("text",), _OF_ATTEMPT),
}
"""Table → the columns whose words are found, and which titles a row belongs to."""


def _triggers() -> Iterator[tuple[str, str]]:
    """Yield the name and the making of every trigger."""
    for table, (columns, titles) in SOURCES.items():
        for event, row in (
            ("INSERT", "NEW"),
            ("UPDATE", "NEW"),
            ("UPDATE", "OLD"),
            ("DELETE", "OLD"),
        ):
            of = f" OF {', '.join(columns)}" if event == "UPDATE" else ""
            name = f"search_{table}_{event.lower()}_{row.lower()}"
            found = titles.format(row=row)
            anew = f"DELETE FROM {TABLE} WHERE rowid IN ({found}); {_ROW} WHERE t.id IN ({found});"  # noqa: S608
            yield name, f"CREATE TRIGGER {name} AFTER {event}{of} ON {table} BEGIN {anew} END"


def take_down(using: str) -> None:
    """Drop the triggers."""
    with connections[using].cursor() as cursor:
        for name, _ in _triggers():
            cursor.execute(f"DROP TRIGGER IF EXISTS {name}")


def put_up(using: str) -> None:
    """Make table and triggers, and write every title's words anew; nothing while tables lack."""
    connection = connections[using]
    if not set(SOURCES) <= set(connection.introspection.table_names()):
        return
    take_down(using)
    with connection.cursor() as cursor:
        cursor.execute(f"DROP TABLE IF EXISTS {TABLE}")
        columns = ", ".join(COLUMNS)
        cursor.execute(f"CREATE VIRTUAL TABLE {TABLE} USING fts5({columns}, tokenize='trigram')")
        for _, making in _triggers():
            cursor.execute(making)
        cursor.execute(_ROW)
