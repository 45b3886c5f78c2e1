"""Addresses of running work."""

from django.urls import path

from . import views

app_name = "jobs"
urlpatterns = [
    path("attempt/<int:attempt_id>/progress/", views.progress, name="progress"),
    path("attempt/<int:attempt_id>/stop/", views.stop, name="stop"),
    path("attempt/<int:attempt_id>/again/", views.again, name="again"),
]
