"""The database itself refuses to change or delete what was done."""

from django.db import migrations

REFUSE = """
CREATE TRIGGER history_is_never_changed BEFORE UPDATE ON history_event
BEGIN SELECT RAISE(ABORT, 'history is appended to, never edited'); END;
CREATE TRIGGER history_is_never_deleted BEFORE DELETE ON history_event
BEGIN SELECT RAISE(ABORT, 'history is appended to, never edited'); END;
"""
ALLOW = """
DROP TRIGGER IF EXISTS history_is_never_changed;
DROP TRIGGER IF EXISTS history_is_never_deleted;
"""


class Migration(migrations.Migration):
    dependencies = [("history", "0001_initial")]
    operations = [migrations.RunSQL(REFUSE, ALLOW)]
