"""Addresses of accounts."""

from django.urls import path

from . import views

app_name = "accounts"
urlpatterns = [
    path("people/", views.people, name="people"),
    path("people/add/", views.add, name="add"),
    path("people/<int:user_id>/", views.change, name="change"),
    path("account/", views.own, name="own"),
    path("account/password/", views.password, name="password"),
    path("account/session/<int:session_id>/end/", views.end_session, name="end-session"),
]
