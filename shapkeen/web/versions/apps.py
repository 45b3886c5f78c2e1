"""Versions as an application: it makes deliveries from masters."""

from django.apps import AppConfig


class VersionsConfig(AppConfig):
    """Registers the work of making a version."""

    name = "shapkeen.web.versions"

    def ready(self) -> None:
        """Register the work."""
        from ..library.signals import purging, purging_title
        from ..work.kinds import SOON, Kind, register
        from . import making

        register(
            Kind(
                name=making.WORK,
                title="Making the version",
                unit="frames",
                run=making.run_make,
                find=making.find_version,
                priority=SOON,
                beginning="Reading the master",
                ending="Every frame coded; joining, tagging and proving",
                failed="This version could not be made",
                again="Make it again",
            )
        )
        purging.connect(making.forget_attempt, dispatch_uid="forget versions")
        purging_title.connect(making.forget_title, dispatch_uid="forget recipes")
