"""Addresses of webhooks."""

from django.urls import path

from . import views

app_name = "hooks"
urlpatterns = [
    path("hooks/", views.hooks, name="hooks"),
    path("hooks/<int:hook_id>/", views.hook, name="hook"),
    path("hooks/<int:hook_id>/change/", views.change, name="change"),
    path("hooks/<int:hook_id>/calls/<int:call_id>/again/", views.again, name="again"),
]
