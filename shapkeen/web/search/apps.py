"""The full-text index as an application."""

from typing import Any

from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate


class SearchConfig(AppConfig):
    """Has the index made anew whenever tables were."""

    name = "shapkeen.web.search"

    def ready(self) -> None:
        """Listen to migrations, and to tests that empty the tables."""
        pre_migrate.connect(_take_down, sender=self)
        post_migrate.connect(_put_up, sender=self)


def _take_down(*, using: str, **_: Any) -> None:
    """Drop the triggers: while a table is made anew, those that read it would be errors."""
    from . import index

    index.take_down(using)


def _put_up(*, using: str, **_: Any) -> None:
    from . import index

    index.put_up(using)
