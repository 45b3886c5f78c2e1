"""Addresses of reports."""

from django.urls import path

from . import views

app_name = "reports"
urlpatterns = [
    path("attempt/<int:attempt_id>/report/", views.ask, name="ask"),
    path("title/<int:title_id>/report/", views.ask_title, name="ask-title"),
    path("report/<int:report_id>/", views.report, name="report"),
    path("report/<int:report_id>/file/", views.file, name="file"),
]
