"""Jobs of release 0.1.0 had no priority, and 0001 was changed after it to make the column.

A table of that release, made anew by a later migration, got the column's name for a value: SQLite
takes a quoted name that it does not know for a text.
"""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("work", "0004_ended_at")]

    operations = [
        migrations.RunSQL(
            "UPDATE work_job SET priority = 0 WHERE typeof(priority) <> 'integer'",
            migrations.RunSQL.noop,
        )
    ]
