"""Addresses of Look."""

from django.urls import path, register_converter

from ...core.promised import TWO_EYES
from ...core.rehearsed import EYES
from . import round_views, views


class SideConverter:
    """master or export."""

    regex = "master|export"

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


class EyesConverter(SideConverter):
    """One of the ways of looking."""

    regex = "|".join(EYES)


class StereoConverter(SideConverter):
    """How eyes share one picture."""

    regex = "|".join(sorted(TWO_EYES))


register_converter(SideConverter, "side")
register_converter(StereoConverter, "stereo")
register_converter(EyesConverter, "eyes")

app_name = "look"
urlpatterns = [
    path("attempt/<int:attempt_id>/look/", views.look, name="look"),
    path(
        "attempt/<int:attempt_id>/still/<side:side>/<int:frame>/<eyes:eyes>.png",
        views.still,
        name="still",
    ),
    path(
        "attempt/<int:attempt_id>/difference/<int:master_frame>/<int:export_frame>.png",
        views.difference,
        name="difference",
    ),
    path("attempt/<int:attempt_id>/look/around/", round_views.around, name="around"),
    path("attempt/<int:attempt_id>/look/eyes/", round_views.both_eyes, name="eyes"),
    path("attempt/<int:attempt_id>/look/eyes/parallax/", round_views.parallax, name="parallax"),
    path(
        "attempt/<int:attempt_id>/look/eyes/keep/",
        round_views.keep_convergence,
        name="keep-convergence",
    ),
    path(
        "attempt/<int:attempt_id>/proxy/<int:first>/<eyes:eyes>.mp4",
        round_views.proxy,
        name="proxy",
    ),
    path(
        "attempt/<int:attempt_id>/depth/<side:side>/<int:frame>/<stereo:stereo>.png",
        round_views.depth,
        name="depth",
    ),
    path(
        "attempt/<int:attempt_id>/probe/<int:master_frame>/<int:export_frame>/",
        views.probe,
        name="probe",
    ),
]
