"""Addresses for whoever watches the installation."""

from django.urls import path

from . import views

app_name = "upkeep"
urlpatterns = [
    path("healthz", views.healthz, name="healthz"),
    path("readyz", views.readyz, name="readyz"),
    path("metrics", views.metrics, name="metrics"),
]
