"""Uploads in parts, which go on where they broke off."""

from typing import Annotated, Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Query, Router

from .. import uploads as kept
from ..models import Upload
from ..schemas import UploadIn, UploadOut
from .shared import REFUSALS, Number

router = Router(tags=["uploads"])
BYTES = {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}


def _own(request: HttpRequest, upload_id: int) -> Upload:
    return get_object_or_404(Upload, pk=upload_id, user=request.user)


@router.post("/uploads", url_name="uploads", response={201: UploadOut, **REFUSALS})
def begin(request: HttpRequest, body: UploadIn) -> Any:
    """Begin an upload: name and size first, then its parts in order."""
    return 201, kept.begin(request.user, body.name, body.size_bytes)


@router.get("/uploads/{upload_id}", url_name="upload", response={200: UploadOut, **REFUSALS})
def upload(request: HttpRequest, upload_id: Number) -> Any:
    """Return how much is here: the next part begins there."""
    return _own(request, upload_id)


@router.put(
    "/uploads/{upload_id}",
    url_name="upload",
    response={200: UploadOut, **REFUSALS},
    openapi_extra={"requestBody": {"required": True, "content": BYTES}},
)
def add_part(
    request: HttpRequest, upload_id: Number, offset: Annotated[int, Query(ge=0, le=2**53)]
) -> Any:
    """Send the bytes that follow; offset: how many came before them."""
    return kept.add_part(_own(request, upload_id), offset, request)


@router.delete("/uploads/{upload_id}", url_name="upload", response={204: None, **REFUSALS})
def forget(request: HttpRequest, upload_id: Number) -> Any:
    """Take back an upload that is not wanted any more."""
    kept.forget(_own(request, upload_id))
    return 204, None
