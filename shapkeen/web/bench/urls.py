"""Addresses of the Bench."""

from django.urls import path

from . import differing, often, previewing, silence, views
from .cures import views as cures

app_name = "bench"
urlpatterns = [
    path("title/<int:title_id>/silence/", silence.silence, name="silence"),
    path("often/", often.often, name="often"),
    path("attempt/<int:attempt_id>/", views.bench, name="bench"),
    path("attempt/<int:attempt_id>/measure/", views.measure, name="measure"),
    path("attempt/<int:attempt_id>/cure/", cures.cure, name="cure"),
    path("attempt/<int:attempt_id>/table/", cures.table, name="table"),
    path("attempt/<int:attempt_id>/table/<slug:use>/", cures.take_table, name="take-table"),
    path("attempt/<int:attempt_id>/ready/", views.ready, name="ready"),
    path("delivery/<int:delivery_id>/preview/", previewing.preview, name="promise-preview"),
    path("title/<int:title_id>/preview/", previewing.preview_title, name="title-promise-preview"),
    path("attempt/<int:attempt_id>/differ/", differing.differ, name="differ"),
    path("attempt/<int:attempt_id>/trait/<slug:name>/", views.trait, name="trait"),
    path("file/<int:reel_id>/tags/", cures.tags, name="tags"),
    path("file/<int:reel_id>/", views.file, name="file"),
]
