"""Addresses of archives."""

from django.urls import path

from . import views

app_name = "archive"
urlpatterns = [
    path("archives/", views.listing, name="listing"),
    path("archives/estimate/", views.estimate, name="estimate"),
    path("archive/<int:archive_id>/", views.archive, name="archive"),
    path("archive/<int:archive_id>/verify/", views.verify, name="verify"),
    path("disk-use/", views.disk_use, name="disk-use"),
]
