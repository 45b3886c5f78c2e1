"""What the operations share: kinds of numbers, what they are refused by, finding and paging."""

from collections.abc import Callable
from typing import Annotated, Any

from django.db.models import QuerySet
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Path, Query

from ...library.models import Delivery, Title
from ..schemas import Problem

Number = Annotated[int, Path(ge=1, le=2**53)]
Limit = Annotated[int, Query(ge=1, le=500)]
Offset = Annotated[int, Query(ge=0, le=10**9)]
REFUSALS = {401: Problem, 403: Problem, 404: Problem, 422: Problem}


def paged(found: QuerySet[Any], limit: int, offset: int, told: Callable[[Any], Any]) -> Any:
    """Return one page of rows, and how many there are; only the page is read."""
    return {"count": found.count(), "items": [told(one) for one in found[offset : offset + limit]]}


def title_of(request: HttpRequest, title_id: int) -> Title:
    """Return a title that whoever asks may see; raises Http404."""
    visible = Title.objects.visible_to(request.user).select_related("master")
    return get_object_or_404(visible, pk=title_id)


def delivery_of(request: HttpRequest, delivery_id: int) -> Delivery:
    """Return a delivery that whoever asks may see; raises Http404."""
    visible = Delivery.objects.visible_to(request.user).select_related("title__master")
    return get_object_or_404(visible, pk=delivery_id)
