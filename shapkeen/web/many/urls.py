"""Addresses of acts on many."""

from django.urls import path

from . import views

app_name = "many"
urlpatterns = [
    path("many/", views.ask, name="ask"),
    path("many/do/", views.do, name="do"),
]
