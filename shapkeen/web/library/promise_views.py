"""The page of a promise: a title's, for all deliveries, or one delivery's."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_http_methods

from ...core.errors import UsageError
from . import asking, services, undoing
from .asking import Asked
from .forms import PromiseForm
from .models import Delivery, Title


@require_http_methods(["GET", "POST"])
def delivery_promise(request: HttpRequest, delivery_id: int) -> HttpResponse:
    """Show and change what one delivery asks for beyond the master."""
    visible = Delivery.objects.visible_to(request.user)
    delivery = get_object_or_404(visible.select_related("title__master"), pk=delivery_id)
    return _promise_page(request, delivery)


@require_http_methods(["GET", "POST"])
def title_promise(request: HttpRequest, title_id: int) -> HttpResponse:
    """Show and change what every delivery of a title must keep."""
    visible = Title.objects.visible_to(request.user)
    title = get_object_or_404(visible.select_related("master"), pk=title_id)
    return _promise_page(request, title)


def _promise_page(request: HttpRequest, asked: Asked) -> HttpResponse:
    by_rows = request.method == "POST" and "promise_text" not in request.POST
    data = request.POST if request.method == "POST" and not by_rows else None
    form = PromiseForm(data, asked=asked)
    refusal = ""
    try:
        if by_rows:
            text = asking.text_of(request.POST, asked.promise_text)
            asking.as_promised(asked, text)
            return _saved(request, asked, text)
        if data is not None and form.is_valid():
            return _saved(request, asked, form.cleaned_data["promise_text"])
    except UsageError as error:
        refusal = error.text
        asked.refresh_from_db()
    context: dict[str, Any] = {
        "asked": asked,
        "title": asked if isinstance(asked, Title) else asked.title,
        "delivery": asked if isinstance(asked, Delivery) else None,
        "form": form,
        "families": asking.rows_of(asked, request.POST if by_rows else None),
        "refusal": refusal,
    }
    status = 422 if form.errors or refusal else 200
    return render(request, "library/ask_promise.html", context, status=status)


def _saved(request: HttpRequest, asked: Asked, text: str) -> HttpResponse:
    before = undoing.state_of("promise", asked)
    if isinstance(asked, Title):
        services.change_title_promise(asked, text, by=request.user)
        words, place = "every delivery was", reverse("library:title-promise", args=[asked.pk])
    else:
        services.change_promise(asked, text, by=request.user)
        words, place = "its attempts were", asked.get_absolute_url()
    words = f"The promise was saved, and {words} judged by it."
    undoing.offer(request, words, "promise", asked, before)
    return redirect(place)
