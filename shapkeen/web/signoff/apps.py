"""Sign-off as an application: it takes digests of what the Bench has measured."""

from django.apps import AppConfig


class SignoffConfig(AppConfig):
    """Registers the taking of digests, and has it done after each survey."""

    name = "shapkeen.web.signoff"

    def ready(self) -> None:
        """Register the work, and listen to the Bench."""
        from ..bench.signals import measured
        from ..bench.surveying import find_attempt
        from ..work.kinds import LAST, Kind, register
        from . import digests

        register(
            Kind(
                name=digests.WORK,
                title="Taking the digests of both files",
                unit="bytes",
                run=digests.run_digests,
                find=find_attempt,
                priority=LAST,
                beginning="Opening the files",
                ending="Read to the end",
                failed="The digests could not be taken",
                again="Take them again",
            )
        )
        measured.connect(digests.take_after_measuring, dispatch_uid="take digests")
