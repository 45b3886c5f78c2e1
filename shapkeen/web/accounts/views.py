"""Pages of accounts: everybody's for administrators, one's own for everybody."""

from typing import Any

from django.contrib import messages
from django.contrib.auth import get_user_model, update_session_auth_hash
from django.contrib.auth.forms import PasswordChangeForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ...core.errors import UsageError
from ..history.services import Place, record
from ..people import presence
from ..people.models import Grant, Presence
from ..people.rights import people as everybody
from ..people.roles import ROLES, role_table
from . import services
from .forms import AccountForm, GrantForm

CHANGES = (services.CLOSE, services.OPEN, services.ADMINISTRATE, services.PLAIN)


@require_GET
def people(request: HttpRequest) -> HttpResponse:
    """Show every account with its roles, and the table of what roles may do."""
    return _people(request)


def _people(request: HttpRequest, form: AccountForm | None = None) -> HttpResponse:
    context = {
        "people": everybody(),
        "form": form or AccountForm(),
        "grant": GrantForm(),
        "roles": ROLES,
        "table": role_table(),
    }
    status = 422 if form is not None else 200
    return render(request, "accounts/people.html", context, status=status)


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Make an account."""
    form = AccountForm(request.POST)
    if not form.is_valid():
        return _people(request, form)
    made = services.make_account(form, by=request.user)
    messages.success(request, f"{made.get_username()} can log in now.")
    return redirect("accounts:people")


@require_POST
def change(request: HttpRequest, user_id: int) -> HttpResponse:
    """Close or open an account, give or take a role, end its sessions, or make it administer."""
    user = get_object_or_404(get_user_model(), pk=user_id)
    act = request.POST.get("act", "")
    try:
        if act in CHANGES:
            services.change(user, act, by=request.user)
        elif act == "give":
            form = GrantForm(request.POST)
            if form.is_valid():
                data = form.cleaned_data
                services.give(user, data["role"], data["title"], by=request.user)
        elif act == "take":
            grant = Grant.objects.filter(user=user, pk=_number(request.POST.get("grant"))).first()
            if grant is not None:
                services.take(grant, by=request.user)
        elif act == "password":
            made = services.new_password(user, by=request.user)
            told = f"Shown only now: {user.get_username()} logs in with {made}"
            messages.success(request, f"{told} and should change it then.")
        elif act == "log-out":
            ended = presence.end_all(user, but=request.session.session_key)
            record("sessions ended", Place(f"account {user}"), by=request.user)
            messages.success(request, f"{user.get_username()} was logged out in {ended} places.")
    except UsageError as error:
        messages.error(request, error.text)
    return redirect("accounts:people")


def _number(text: str | None) -> int:
    return int(text) if text and text.isascii() and text.isdecimal() and len(text) < 10 else 0


@require_GET
def own(request: HttpRequest) -> HttpResponse:
    """Show one's own account: roles, password, sessions."""
    return _own(request, PasswordChangeForm(_person(request)))


def _person(request: HttpRequest) -> Any:
    """Return who asks: somebody with an account, or the address would not have been reached."""
    return request.user


def _own(request: HttpRequest, form: PasswordChangeForm) -> HttpResponse:
    context = {
        "form": form,
        "sessions": presence.sessions_of(request.user),
        "here": request.session.session_key,
        "grants": Grant.objects.filter(user__username=request.user.get_username()).select_related(
            "title"
        ),
    }
    status = 422 if form.errors else 200
    return render(request, "accounts/own.html", context, status=status)


@require_http_methods(["POST"])
def password(request: HttpRequest) -> HttpResponse:
    """Change one's own password; every other session ends."""
    form = PasswordChangeForm(_person(request), request.POST)
    if not form.is_valid():
        return _own(request, form)
    user = form.save()
    update_session_auth_hash(request, user)
    presence.end_all(user, but=request.session.session_key)
    record("password changed", Place(f"account {user.get_username()}"), by=user)
    messages.success(request, "The password was changed; you were logged out everywhere else.")
    return redirect("accounts:own")


@require_POST
def end_session(request: HttpRequest, session_id: int) -> HttpResponse:
    """End one of one's own sessions."""
    found = get_object_or_404(Presence, pk=session_id, user_id=request.user.pk or 0)
    presence.end_session(found)
    return redirect("accounts:own")
