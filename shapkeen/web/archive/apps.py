"""Archives as an application."""

from django.apps import AppConfig


class ArchiveConfig(AppConfig):
    """Registers the work of writing and of verifying."""

    name = "shapkeen.web.archive"

    def ready(self) -> None:
        """Register the work."""
        from ..work.kinds import Kind, register
        from . import services

        register(
            Kind(
                name=services.WRITE,
                title="Writing the archive",
                unit="bytes",
                run=services.run_write,
                find=services.find_archive,
                beginning="Collecting what was used",
                ending="Written and verified",
                failed="This archive could not be written",
                again="Go on",
            )
        )
        register(
            Kind(
                name=services.VERIFY,
                title="Verifying the archive",
                unit="bytes",
                run=services.run_verify,
                find=services.find_archive,
                beginning="Reading the manifests",
                ending="Every file read",
                failed="This archive could not be verified",
                again="Verify again",
            )
        )
