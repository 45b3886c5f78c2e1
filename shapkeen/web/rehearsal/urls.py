"""Addresses of rehearsals, trials and stand-ins."""

from django.urls import path, register_converter

from . import stand_in_views, trial_views, views


class SideConverter:
    """master, sent or rendition."""

    regex = "master|sent|rendition"

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: str) -> str:
        return value


class AgainstConverter(SideConverter):
    """master or sent."""

    regex = "master|sent"


register_converter(SideConverter, "shown_side")
register_converter(AgainstConverter, "against")

app_name = "rehearsal"
urlpatterns = [
    path("attempt/<int:attempt_id>/rehearse/", views.rehearse, name="rehearse"),
    path("rehearsal/<int:rehearsal_id>/", views.rehearsal, name="rehearsal"),
    path("rehearsal/<int:rehearsal_id>/again/", views.again, name="again"),
    path("rehearsal/<int:rehearsal_id>/look/", views.look, name="look"),
    path(
        "rehearsal/<int:rehearsal_id>/still/<shown_side:side>/<int:frame>.png",
        views.still,
        name="still",
    ),
    path(
        "rehearsal/<int:rehearsal_id>/pair/<against:side>/<int:first>.mp4", views.pair, name="pair"
    ),
    path("rehearsal/<int:rehearsal_id>/what-if/", trial_views.ask, name="what-if"),
    path("rehearsal/<int:rehearsal_id>/what-if/cost/", trial_views.cost, name="cost"),
    path("what-if/<int:trial_id>/<int:place>.png", trial_views.picture, name="trial-picture"),
    path("stand-ins/", stand_in_views.listing, name="stand-ins"),
    path("stand-ins/<slug:key>.json", stand_in_views.export, name="stand-in"),
]
