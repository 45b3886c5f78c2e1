"""Addresses of the library."""

from django.urls import path

from . import views

app_name = "library"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("title/add/", views.add_title, name="add-title"),
    path("title/<int:title_id>/", views.title, name="title"),
    path("title/<int:title_id>/add-export/", views.add_export, name="add-export"),
    path("delivery/<int:delivery_id>/promise/", views.delivery_promise, name="delivery-promise"),
]
