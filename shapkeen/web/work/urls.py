"""Addresses of running work."""

from django.urls import path

from . import views

app_name = "work"
urlpatterns = [
    path("alive/", views.alive, name="alive"),
    path("job/<int:job_id>/progress/", views.progress, name="progress"),
    path("job/<int:job_id>/stop/", views.stop, name="stop"),
    path("job/<int:job_id>/again/", views.again, name="again"),
]
