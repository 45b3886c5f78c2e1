"""Every address of the application."""

from django.contrib.auth import views as auth
from django.urls import include, path

from ..people import views as people

urlpatterns = [
    path("log-in/", people.LogInView.as_view(), name="login"),
    path("first-account/", people.first_account, name="first-account"),
    path("log-out/", auth.LogoutView.as_view(), name="logout"),
    path("", include("shapkeen.web.library.urls")),
    path("", include("shapkeen.web.work.urls")),
    path("", include("shapkeen.web.bench.urls")),
    path("", include("shapkeen.web.look.urls")),
    path("", include("shapkeen.web.plan.urls")),
    path("", include("shapkeen.web.versions.urls")),
    path("", include("shapkeen.web.rehearsal.urls")),
    path("", include("shapkeen.web.signoff.urls")),
    path("", include("shapkeen.web.reports.urls")),
    path("", include("shapkeen.web.archive.urls")),
    path("", include("shapkeen.web.arriving.urls")),
    path("", include("shapkeen.web.notices.urls")),
    path("", include("shapkeen.web.api.urls")),
    path("", include("shapkeen.web.upkeep.urls")),
    path("", include("shapkeen.web.accounts.urls")),
    path("", include("shapkeen.web.search.urls")),
    path("", include("shapkeen.web.many.urls")),
    path("", include("shapkeen.web.hooks.urls")),
]
handler404 = "shapkeen.web.library.views.not_found"
handler500 = "shapkeen.web.library.views.failed"
