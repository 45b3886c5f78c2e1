"""Rehearsals as an application: it sends exports through stand-ins for receiving services."""

from django.apps import AppConfig


class RehearsalConfig(AppConfig):
    """Registers the work of rehearsing, and of trying what if."""

    name = "shapkeen.web.rehearsal"

    def ready(self) -> None:
        """Register the work."""
        from ..library.signals import purging
        from ..work.kinds import SOON, Kind, register
        from ..work.ready import have_loaded
        from . import making, works

        have_loaded(works.load)

        register(
            Kind(
                name=making.REHEARSE,
                title="Rehearsing",
                unit="steps",
                run=making.run_rehearsal,
                find=making.find_rehearsal,
                priority=SOON,
                beginning="Looking for the moments that matter",
                ending="Every rendition coded and measured",
                failed="This rehearsal could not be made",
                again="Rehearse again",
            )
        )
        register(
            Kind(
                name=making.TRY,
                title="Trying what if",
                unit="ways",
                run=making.run_trial,
                find=making.find_trial,
                priority=SOON,
                beginning="Coding the first way",
                ending="Every way tried",
                failed="These ways could not be tried",
                again="Try again",
            )
        )
        purging.connect(making.forget_attempt, dispatch_uid="forget rehearsals")
