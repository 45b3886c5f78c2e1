"""Reports as an application."""

from django.apps import AppConfig


class ReportsConfig(AppConfig):
    """Registers the work of making a report."""

    name = "shapkeen.web.reports"

    def ready(self) -> None:
        """Register the work, and hear of what is deleted for good."""
        from ..library.signals import purging, purging_title
        from ..work.kinds import SOON, Kind, register
        from . import services

        register(
            Kind(
                name=services.WORK,
                title="Making the report",
                unit="parts",
                run=services.run_report,
                find=services.find_report,
                priority=SOON,
                beginning="Looking up what is known",
                ending="Written; setting the pages",
                failed="This report could not be made",
                again="Make it again",
            )
        )
        purging.connect(services.forget_attempt, dispatch_uid="forget reports")
        purging_title.connect(services.forget_title, dispatch_uid="forget title reports")
