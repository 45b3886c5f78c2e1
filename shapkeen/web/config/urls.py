"""Every address of the application."""

from django.contrib.auth import views as auth
from django.urls import include, path

urlpatterns = [
    path("log-in/", auth.LoginView.as_view(template_name="account/log_in.html"), name="login"),
    path("log-out/", auth.LogoutView.as_view(), name="logout"),
    path("", include("shapkeen.web.library.urls")),
    path("", include("shapkeen.web.work.urls")),
    path("", include("shapkeen.web.bench.urls")),
    path("", include("shapkeen.web.look.urls")),
    path("", include("shapkeen.web.plan.urls")),
]
handler404 = "shapkeen.web.library.views.not_found"
handler500 = "shapkeen.web.library.views.failed"
