"""Titles, their deliveries and promises, and the exports that are brought in."""

import json
from collections.abc import Callable
from typing import Annotated, Any

from django.db import IntegrityError
from django.http import HttpRequest
from ninja import Query, Router

from ....core.errors import CoreError, UsageError
from ...library import asking, finding, services
from ...library.asking import Asked
from ...library.finding import ShelfForm
from ...library.models import Attempt, Delivery, Title
from ...people.rights import account_of
from ..models import Upload
from ..schemas import (
    AttemptOut,
    AttemptsOut,
    DeliveriesOut,
    ExportIn,
    PromiseIn,
    PromiseOut,
    TitleIn,
    TitleOut,
    TitlesOut,
)
from ..told import attempt_told, attempts_told, delivery_told, title_told
from ..uploads import finish
from .shared import REFUSALS, Limit, Number, Offset, delivery_of, paged, title_of

router = Router(tags=["titles"])


@router.get("/titles", url_name="titles", response={200: TitlesOut, **REFUSALS})
def titles(
    request: HttpRequest,
    q: Annotated[str, Query(max_length=120)] = "",
    verdict: Annotated[str, Query(pattern="^(|kept|bent|lost|unproven)$")] = "",
    cause: Annotated[str, Query(max_length=80)] = "",
    delivery: Annotated[str, Query(max_length=80)] = "",
    limit: Limit = 100,
    offset: Offset = 0,
) -> Any:
    """List titles: words of q stand in names, files, causes or remarks; the rest in one attempt."""
    asked = {"q": q, "verdict": verdict, "cause": cause, "delivery": delivery}
    found = finding.found(Title.objects.visible_to(request.user), ShelfForm(asked))
    return paged(found.select_related("master"), limit, offset, title_told)


@router.post("/titles", url_name="titles", response={201: TitleOut, **REFUSALS})
def make_title(request: HttpRequest, body: TitleIn) -> Any:
    """Make a title with its master."""
    if Title.objects.filter(name=body.name, binned_at=None).exists():
        raise UsageError("There is a title of that name.", code="name-taken", where="name")

    def make(root: str, path: str) -> Title:
        return services.create_title(body.name, body.note, root, path, by=request.user)

    try:
        made = _with_file(request, body, make)
    except IntegrityError as error:
        words = "There is a title of that name, made this moment."
        raise UsageError(words, code="name-taken", where="name") from error
    return 201, title_told(made)


def _with_file(
    request: HttpRequest, body: TitleIn | ExportIn, use: Callable[[str, str], Any]
) -> Any:
    """Return what use makes of a body's file; an upload that it makes nothing of is thrown away."""
    root, path = _place(request, body)
    try:
        return use(root, path)
    except (CoreError, IntegrityError):
        services.discard_upload(root, path)
        raise


def _place(request: HttpRequest, body: TitleIn | ExportIn) -> tuple[str, str]:
    """Return root and path of the file that a body names: on a media root, or uploaded."""
    if body.upload_id is not None:
        upload = Upload.objects.filter(user=account_of(request.user), pk=body.upload_id).first()
        if upload is None:
            raise UsageError("There is no such upload of yours.", code="gone", where="upload_id")
        return finish(upload)
    if not body.root or not body.path:
        words = "Name root and path of a file, or the upload_id of one that was sent."
        raise UsageError(words, code="no-file", where="path")
    if body.root == "uploads":
        raise UsageError("What was sent is named by its upload_id.", code="no-root", where="root")
    return body.root, body.path


@router.get("/titles/{title_id}", url_name="title", response={200: TitleOut, **REFUSALS})
def title(request: HttpRequest, title_id: Number) -> Any:
    """Return one title."""
    return title_told(title_of(request, title_id))


@router.get(
    "/titles/{title_id}/deliveries",
    url_name="deliveries",
    response={200: DeliveriesOut, **REFUSALS},
)
def deliveries(
    request: HttpRequest, title_id: Number, limit: Limit = 100, offset: Offset = 0
) -> Any:
    """List the deliveries of a title."""
    found = title_of(request, title_id).deliveries.filter(binned_at=None)
    return paged(found, limit, offset, delivery_told)


@router.post(
    "/titles/{title_id}/exports", url_name="exports", response={201: AttemptOut, **REFUSALS}
)
def add_export(request: HttpRequest, title_id: Number, body: ExportIn) -> Any:
    """Bring in an export: the next attempt of its delivery, measured at once."""
    found = title_of(request, title_id)

    def add(root: str, path: str) -> Attempt:
        return services.add_attempt(found, body.delivery, root, path, by=request.user)

    made = _with_file(request, body, add)
    return 201, attempt_told(Attempt.objects.with_context().get(pk=made.pk))


@router.get(
    "/titles/{title_id}/attempts", url_name="attempts", response={200: AttemptsOut, **REFUSALS}
)
def attempts(
    request: HttpRequest,
    title_id: Number,
    delivery: Annotated[str, Query(max_length=80)] = "",
    verdict: Annotated[str, Query(pattern="^(|kept|bent|lost|unproven)$")] = "",
    limit: Limit = 100,
    offset: Offset = 0,
) -> Any:
    """List the attempts of a title."""
    visible = Attempt.objects.visible_to(request.user).with_context()
    found = visible.filter(delivery__title=title_of(request, title_id))
    if delivery:
        found = found.filter(delivery__name=delivery)
    if verdict:
        found = found.filter(judgement__overall=verdict)
    found = found.order_by("delivery__name", "number")
    items = attempts_told(list(found[offset : offset + limit]))
    return {"count": found.count(), "items": items}


def _promise(asked: Asked) -> Any:
    text = asked.promise_text
    digest = asked.promise_digest if isinstance(asked, Delivery) else None
    return {"promise": json.loads(text) if text.strip() else None, "digest": digest}


def _text(asked: Asked, body: PromiseIn) -> str:
    """Return a promise as text; raises UsageError for what the master cannot keep."""
    text = json.dumps(body.promise, ensure_ascii=False, indent=1) if body.promise else ""
    asking.as_promised(asked, text)
    return text


@router.get(
    "/titles/{title_id}/promise", url_name="title-promise", response={200: PromiseOut, **REFUSALS}
)
def title_promise(request: HttpRequest, title_id: Number) -> Any:
    """Return what every delivery of a title must keep beyond its master."""
    return _promise(title_of(request, title_id))


@router.put(
    "/titles/{title_id}/promise", url_name="title-promise", response={200: PromiseOut, **REFUSALS}
)
def set_title_promise(request: HttpRequest, title_id: Number, body: PromiseIn) -> Any:
    """Say what every delivery must keep; all are judged by it."""
    found = title_of(request, title_id)
    services.change_title_promise(found, _text(found, body), by=request.user)
    return _promise(found)


@router.get(
    "/deliveries/{delivery_id}/promise",
    url_name="delivery-promise",
    response={200: PromiseOut, **REFUSALS},
)
def delivery_promise(request: HttpRequest, delivery_id: Number) -> Any:
    """Return what one delivery asks for."""
    return _promise(delivery_of(request, delivery_id))


@router.put(
    "/deliveries/{delivery_id}/promise",
    url_name="delivery-promise",
    response={200: PromiseOut, **REFUSALS},
)
def set_delivery_promise(request: HttpRequest, delivery_id: Number, body: PromiseIn) -> Any:
    """Say what one delivery asks for; its attempts are judged by it."""
    found = delivery_of(request, delivery_id)
    services.change_promise(found, _text(found, body), by=request.user)
    return _promise(found)
