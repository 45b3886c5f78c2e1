"""Addresses of Plan and of delivery specifications."""

from django.urls import path

from . import views
from .specification_views import (
    copy_specification,
    edit_specification,
    export_specification,
    import_specification,
    specification,
    specifications,
)

app_name = "plan"
urlpatterns = [
    path("title/<int:title_id>/plan/", views.plan, name="plan"),
    path("title/<int:title_id>/plans/", views.plans, name="plans"),
    path("title/<int:title_id>/plan/keep/", views.keep, name="keep"),
    path("title/<int:title_id>/plan/speed/", views.speed, name="speed"),
    path("title/<int:title_id>/still/<int:frame>.png", views.still, name="still"),
    path("delivery/<int:delivery_id>/sheet/", views.sheet, name="sheet"),
    path("specifications/", specifications, name="specifications"),
    path("specifications/import/", import_specification, name="import"),
    path("specifications/<slug:key>/", specification, name="specification"),
    path("specifications/<slug:key>/<int:version>/", specification, name="version"),
    path("specifications/<slug:key>/<int:version>/file/", export_specification, name="export"),
    path("specifications/<slug:key>/edit/", edit_specification, name="edit"),
    path("specifications/<slug:key>/copy/", copy_specification, name="copy"),
]
