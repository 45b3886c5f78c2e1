"""Whoever had an account could do everything: they stay editors, and somebody administers."""

from django.conf import settings
from django.db import migrations


def give_roles(apps, schema_editor):
    User = apps.get_model(settings.AUTH_USER_MODEL)
    Grant = apps.get_model("people", "Grant")
    for user in User.objects.filter(grants=None):
        Grant.objects.create(user=user, role="editor")
    active = User.objects.filter(is_active=True).order_by("pk")
    if active.exists() and not active.filter(is_superuser=True).exists():
        User.objects.filter(pk=active.first().pk).update(is_superuser=True, is_staff=True)


class Migration(migrations.Migration):
    dependencies = [("people", "0001_initial")]
    operations = [migrations.RunPython(give_roles, migrations.RunPython.noop)]
