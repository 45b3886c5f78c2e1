"""Every operation of the API, version 1."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError

from ....core.errors import CoreError
from ..problems import problem
from .attempts import router as attempts
from .making import router as making
from .titles import router as titles
from .uploads import router as uploads

WORDS = """\
Titles, promises, plans, exports, jobs, judgements, cures, versions, rehearsals and reports, for
render scripts and other programs.

Every request carries a token: `Authorization: Bearer shk_…`; people make theirs under *Your
account*. Refusals are problem details (RFC 9457). `Idempotency-Key` makes a request that is sent
twice count once. Lists take `limit` and `offset`.
"""

api = NinjaAPI(
    title="Shapkeen",
    version="1",
    description=WORDS,
    urls_namespace="api",
    docs_url=None,
    openapi_url="openapi.json",
    openapi_extra={
        "components": {"securitySchemes": {"token": {"type": "http", "scheme": "bearer"}}},
        "security": [{"token": []}],
    },
)
api.add_router("", titles)
api.add_router("", attempts)
api.add_router("", making)
api.add_router("", uploads)


@api.exception_handler(CoreError)
def _core(_request: HttpRequest, error: CoreError) -> HttpResponse:
    """Say what the core refuses, with its code and place."""
    return problem(422, error.text, code=error.code, where=error.where)


@api.exception_handler(ValidationError)
def _invalid(_request: HttpRequest, error: ValidationError) -> HttpResponse:
    """Say which part of a request is wrong."""
    first: dict[str, Any] = error.errors[0] if error.errors else {}
    where = "/".join(str(one) for one in first.get("loc", ()))
    return problem(422, f"{first.get('msg', 'The request is wrong')}.", code="invalid", where=where)


@api.exception_handler(Http404)
def _missing(_request: HttpRequest, _error: Http404) -> HttpResponse:
    """Say that there is nothing."""
    return problem(404, "There is nothing at this address, or nothing that you may see.")
