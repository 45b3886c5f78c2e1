"""The Look page as an application."""

from django.apps import AppConfig


class LookConfig(AppConfig):
    """Draws the moments that are looked at first as soon as a survey is done."""

    name = "shapkeen.web.look"

    def ready(self) -> None:
        """Register the work of drawing, and listen for finished surveys."""
        from ..bench.signals import measured
        from ..work.kinds import register
        from ..work.ready import have_loaded
        from . import works
        from .ahead import KIND, start_drawing

        register(KIND)
        have_loaded(works.load)
        measured.connect(start_drawing, dispatch_uid="draw ahead")
