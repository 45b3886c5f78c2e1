"""The page of one's tokens: made, shown once, ended."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_http_methods, require_POST

from ..people.rights import account_of
from .forms import TokenForm
from .models import ApiToken
from .tokens import end_token, make_token


@never_cache
@require_http_methods(["GET", "POST"])
def tokens(request: HttpRequest) -> HttpResponse:
    """Show one's tokens; make one, and show it this once."""
    form, made = TokenForm(request.POST or None), ""
    if request.method == "POST" and form.is_valid():
        data = form.cleaned_data
        _, made = make_token(request.user, data["name"], data["scope"], data["days"])
        form = TokenForm()
    rows = ApiToken.objects.filter(user=account_of(request.user))
    context = {"tokens": rows, "form": form, "made": made}
    status = 422 if form.errors else 200
    return render(request, "account/tokens.html", context, status=status)


@require_POST
def end(request: HttpRequest, token_id: int) -> HttpResponse:
    """End one of one's tokens."""
    end_token(get_object_or_404(ApiToken, pk=token_id, user=request.user), by=request.user)
    return redirect("tokens:tokens")
