"""Addresses of the library."""

from django.urls import path

from . import promise_views, tidy_views, views

app_name = "library"
urlpatterns = [
    path("", views.shelf, name="shelf"),
    path("title/add/", views.add_title, name="add-title"),
    path("title/<int:title_id>/", views.title, name="title"),
    path("title/<int:title_id>/add-export/", views.add_export, name="add-export"),
    path(
        "delivery/<int:delivery_id>/promise/",
        promise_views.delivery_promise,
        name="delivery-promise",
    ),
    path("title/<int:title_id>/promise/", promise_views.title_promise, name="title-promise"),
    path("title/<int:title_id>/tidy/", tidy_views.tidy_title, name="tidy-title"),
    path("delivery/<int:delivery_id>/tidy/", tidy_views.tidy_delivery, name="tidy-delivery"),
    path("attempt/<int:attempt_id>/tidy/", tidy_views.tidy_attempt, name="tidy-attempt"),
    path("title/<int:title_id>/history/", tidy_views.history, name="history"),
    path("history/", tidy_views.house_history, name="house-history"),
    path("bin/", tidy_views.bin_page, name="bin"),
    path("bin/take-back/", tidy_views.take_back, name="take-back"),
    path("undo/<slug:key>/", tidy_views.undo, name="undo"),
    path("bin/empty/", tidy_views.empty_bin, name="empty-bin"),
]
