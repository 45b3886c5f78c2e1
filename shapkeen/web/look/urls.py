"""Addresses of Look."""

from django.urls import path, register_converter

from ...core.promised import TWO_EYES
from ...core.rehearsed import DISPLAYS
from . import immersive_views, shown_views, views


class SideConverter:
    """master or export."""

    regex = "master|export"

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


class DisplayConverter(SideConverter):
    """A simulated display."""

    regex = "|".join(DISPLAYS)


class StereoConverter(SideConverter):
    """How eyes share one picture."""

    regex = "|".join(sorted(TWO_EYES))


register_converter(SideConverter, "side")
register_converter(StereoConverter, "stereo")
register_converter(DisplayConverter, "display")

app_name = "look"
urlpatterns = [
    path("attempt/<int:attempt_id>/look/", views.look, name="look"),
    path(
        "attempt/<int:attempt_id>/still/<side:side>/<int:frame>/<display:display>.png",
        views.still,
        name="still",
    ),
    path(
        "attempt/<int:attempt_id>/difference/<int:master_frame>/<int:export_frame>.png",
        views.difference,
        name="difference",
    ),
    path(
        "attempt/<int:attempt_id>/pair/<slug:trait>/<side:side>.png", shown_views.pair, name="pair"
    ),
    path("title/<int:title_id>/poster.png", shown_views.poster, name="poster"),
    path("attempt/<int:attempt_id>/band/<side:side>.png", shown_views.band, name="band"),
    path("attempt/<int:attempt_id>/look/around/", immersive_views.around, name="around"),
    path("attempt/<int:attempt_id>/look/eyes/", immersive_views.both_eyes, name="eyes"),
    path("attempt/<int:attempt_id>/look/eyes/parallax/", immersive_views.parallax, name="parallax"),
    path(
        "attempt/<int:attempt_id>/look/eyes/keep/",
        immersive_views.keep_convergence,
        name="keep-convergence",
    ),
    path(
        "attempt/<int:attempt_id>/proxy/<int:first>/<display:display>.mp4",
        immersive_views.proxy,
        name="proxy",
    ),
    path(
        "attempt/<int:attempt_id>/depth/<side:side>/<int:frame>/<stereo:stereo>.png",
        immersive_views.depth,
        name="depth",
    ),
    path(
        "attempt/<int:attempt_id>/probe/<int:master_frame>/<int:export_frame>/",
        views.probe,
        name="probe",
    ),
    path(
        "attempt/<int:attempt_id>/scopes/<int:master_frame>/<int:export_frame>/",
        views.scopes,
        name="scopes",
    ),
]
