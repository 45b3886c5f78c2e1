"""The Look page as an application."""

from django.apps import AppConfig


class LookConfig(AppConfig):
    """Draws the moments that are looked at first as soon as a survey is done."""

    name = "shapkeen.web.look"

    def ready(self) -> None:
        """Listen for finished surveys."""
        from ..bench.signals import measured
        from .ahead import draw_ahead

        measured.connect(draw_ahead, dispatch_uid="draw ahead")
