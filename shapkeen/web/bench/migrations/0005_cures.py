"""Copies are of files, not of attempts only; tables that were taken are remembered."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def to_files(apps, schema_editor):
    for copy in apps.get_model("bench", "CorrectedCopy").objects.select_related(
        "attempt__delivery", "made"
    ):
        copy.reel_id = copy.attempt.reel_id
        copy.title_id = copy.attempt.delivery.title_id
        copy.result_id = copy.made.reel_id if copy.made else None
        copy.save()


class Migration(migrations.Migration):
    dependencies = [
        ("bench", "0004_corrected_copy"),
        ("library", "0004_answers"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            "correctedcopy",
            "reel",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="copies",
                to="library.reel",
            ),
        ),
        migrations.AddField(
            "correctedcopy",
            "result",
            models.OneToOneField(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="copied_from",
                to="library.reel",
            ),
        ),
        migrations.AddField(
            "correctedcopy",
            "title",
            models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="+",
                to="library.title",
            ),
        ),
        migrations.RunPython(to_files, migrations.RunPython.noop),
        migrations.RemoveField("correctedcopy", "attempt"),
        migrations.RemoveField("correctedcopy", "made"),
        migrations.AlterField(
            "correctedcopy",
            "reel",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="copies",
                to="library.reel",
            ),
        ),
        migrations.AlterField(
            "correctedcopy",
            "title",
            models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE,
                related_name="+",
                to="library.title",
            ),
        ),
        migrations.CreateModel(
            name="TakenTable",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("use", models.CharField(max_length=10)),
                ("kind", models.CharField(max_length=4)),
                ("size", models.PositiveIntegerField()),
                ("undoes", models.JSONField(default=list)),
                ("before", models.FloatField()),
                ("after", models.FloatField()),
                ("unit", models.CharField(max_length=20)),
                ("taken_at", models.DateTimeField(auto_now_add=True)),
                (
                    "attempt",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="tables",
                        to="library.attempt",
                    ),
                ),
                (
                    "taken_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={"ordering": ["pk"]},
        ),
    ]
