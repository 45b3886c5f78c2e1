"""The Bench as an application: it measures and judges what the library holds."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    """Starts surveys of new attempts, and judges anew where a promise moved."""

    name = "shapkeen.web.bench"

    def ready(self) -> None:
        """Register the work of measuring, and listen to the library."""
        from ..library.models import Attempt
        from ..library.signals import attempt_added, promise_changed
        from ..work.kinds import SOON, Kind, register
        from ..work.ready import have_loaded
        from . import services, surveying, works
        from .cures import copies

        have_loaded(works.load)
        register(
            Kind(
                name=Attempt.WORK,
                title="Measuring",
                unit="frames",
                run=surveying.run_survey,
                find=surveying.find_attempt,
                find_many=surveying.find_attempts,
            )
        )
        register(
            Kind(
                name=copies.WORK,
                title="Writing a corrected copy",
                unit="bytes",
                run=copies.run_cure,
                find=copies.find_copy,
                priority=SOON,
                beginning="Reading the index",
                ending="Written; proving that no coded picture changed",
                failed="No corrected copy could be written",
                again="Write it again",
            )
        )
        attempt_added.connect(services.measure_added, dispatch_uid="measure added")
        promise_changed.connect(services.judge_changed, dispatch_uid="judge changed")
