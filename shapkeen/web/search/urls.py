"""Addresses of kept searches."""

from django.urls import path

from . import views

app_name = "search"
urlpatterns = [
    path("searches/", views.keep, name="keep"),
    path("searches/<int:search_id>/forget/", views.forget, name="forget"),
]
