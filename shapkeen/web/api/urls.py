"""Addresses of the API, version 1, and of the page of one's tokens."""

from django.contrib.auth.decorators import login_not_required
from django.urls import URLPattern, include, path

from . import views
from .routes import api

_patterns, _app, _namespace = api.urls
for _one in _patterns:
    if isinstance(_one, URLPattern) and _one.name == "openapi-json":
        _one.callback = login_not_required(_one.callback)  # the description is no secret

pages = [
    path("account/tokens/", views.tokens, name="tokens"),
    path("account/tokens/<int:token_id>/end/", views.end, name="end"),
]
urlpatterns = [
    path("api/v1/", include((_patterns, _app), namespace=_namespace)),
    path("", include((pages, "tokens"), namespace="tokens")),
]
