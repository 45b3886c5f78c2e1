"""Addresses of the Bench."""

from django.urls import path

from . import silence, views

app_name = "bench"
urlpatterns = [
    path("title/<int:title_id>/silence/", silence.silence, name="silence"),
    path("attempt/<int:attempt_id>/", views.bench, name="bench"),
    path("attempt/<int:attempt_id>/measure/", views.measure, name="measure"),
    path("attempt/<int:attempt_id>/cure/", views.cure, name="cure"),
    path("attempt/<int:attempt_id>/ready/", views.ready, name="ready"),
    path("attempt/<int:attempt_id>/trait/<slug:name>/", views.trait, name="trait"),
    path("file/<int:reel_id>/", views.file, name="file"),
]
