"""Addresses of files that arrived."""

from django.urls import path

from . import views, watch_views

app_name = "arriving"
urlpatterns = [
    path("arrived/", views.arrived, name="arrived"),
    path("arrived/send/", views.send, name="send"),
    path("arrived/folder/", views.folder, name="folder"),
    path("arrived/paths/", views.paths, name="paths"),
    path("arrived/sample/", views.sample, name="sample"),
    path("title/<int:title_id>/watch/", watch_views.watches, name="watches"),
    path("title/<int:title_id>/watch/preview/", watch_views.preview, name="watch-preview"),
    path("watch/<int:watch_id>/change/", watch_views.change, name="watch-change"),
    path("arrived/<int:arrival_id>/put-away/", views.put_away, name="put-away"),
]
