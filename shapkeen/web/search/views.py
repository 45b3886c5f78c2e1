"""Keeping a search, and forgetting it."""

from urllib.parse import parse_qsl, urlencode

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.urls import reverse
from django.views.decorators.http import require_POST

from .models import MOST_KEPT, KeptSearch


class KeepForm(forms.Form):
    """A search with the name that it is kept under."""

    name = forms.CharField(max_length=60)
    query = forms.CharField(max_length=600)


def _shelf(query: str) -> HttpResponse:
    return redirect(f"{reverse('library:shelf')}?{query}")


@require_POST
def keep(request: HttpRequest) -> HttpResponse:
    """Keep what the Shelf was asked for; a search of that name is replaced."""
    form = KeepForm(request.POST)
    query = urlencode(
        parse_qsl(request.POST.get("query", "")[:600])
    )  # an address, and nothing else
    if not form.is_valid() or not query:
        messages.error(request, "Give the search a name of at most 60 letters.")
        return _shelf(query)
    mine = KeptSearch.objects.filter(by=request.user.pk)
    name = form.cleaned_data["name"]
    if mine.exclude(name=name).count() >= MOST_KEPT:
        messages.error(request, f"{MOST_KEPT} searches are kept already. Forget one first.")
        return _shelf(query)
    KeptSearch.objects.update_or_create(by_id=request.user.pk, name=name, defaults={"query": query})
    return _shelf(query)


@require_POST
def forget(request: HttpRequest, search_id: int) -> HttpResponse:
    """Forget a search of one's own."""
    get_object_or_404(KeptSearch, pk=search_id, by=request.user.pk).delete()
    return redirect("library:shelf")
