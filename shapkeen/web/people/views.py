"""Logging in; and on an installation where nobody has an account, the way to the first one."""

from django.contrib.auth import get_user_model, login
from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_not_required
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from .forms import FirstAccountForm


def is_empty() -> bool:
    """Return whether nobody has an account yet."""
    return not get_user_model().objects.exists()


class LogInView(auth.LoginView):
    template_name = "account/log_in.html"

    def get(self, request: HttpRequest, *args: object, **kwargs: object) -> HttpResponse:
        """Show the log-in page; where nobody could log in, the page for the first account."""
        return redirect("first-account") if is_empty() else super().get(request, *args, **kwargs)


@login_not_required
@require_http_methods(["GET", "POST"])
def first_account(request: HttpRequest) -> HttpResponse:
    """Make the first account, and log in by it; closed for good as soon as there is one."""
    if not is_empty():
        return redirect("login")
    form = FirstAccountForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        with transaction.atomic():  # immediate: two that try meet here
            if not is_empty():
                return redirect("login")
            user = form.save(commit=False)  # its name and password
            user.is_staff = user.is_superuser = True
            user.save()
        login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return redirect("library:shelf")
    status = 422 if form.errors else 200
    return render(request, "account/first.html", {"form": form}, status=status)
