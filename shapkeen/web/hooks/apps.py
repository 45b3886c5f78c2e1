"""Webhooks as an application."""

from typing import Any

from django.apps import AppConfig


class HooksConfig(AppConfig):
    """Hears of what is added to the history, and of work that failed."""

    name = "shapkeen.web.hooks"

    def ready(self) -> None:
        """Listen."""
        from django.db.models.signals import post_save

        from ..history.models import Event
        from ..work.signals import failed
        from . import services

        def happened(instance: Event, created: bool, **_: Any) -> None:
            if created:
                services.tell_event(instance)

        post_save.connect(happened, sender=Event, weak=False, dispatch_uid="hooks")
        failed.connect(services.tell_failure, dispatch_uid="hooks")
