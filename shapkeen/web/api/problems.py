"""Refusals as problem details (RFC 9457), whoever refuses: a view, the guard, or Django."""

import json
from http import HTTPStatus
from typing import Any

from django.http import HttpResponse

MEDIA_TYPE = "application/problem+json"


def problem(status: int, detail: str, **more: Any) -> HttpResponse:
    """Return a refusal. more: members of its own, such as `code` and `where`."""
    told = {"type": "about:blank", "title": HTTPStatus(status).phrase, "status": status}
    told |= {"detail": detail, **{name: value for name, value in more.items() if value}}
    answer = HttpResponse(json.dumps(told), status=status, content_type=MEDIA_TYPE)
    if status == HTTPStatus.UNAUTHORIZED:
        answer["WWW-Authenticate"] = 'Bearer realm="Shapkeen"'
    return answer


WORDS = {
    400: "The request cannot be read.",
    403: "Your token, or your role, does not allow this.",
    404: "There is nothing at this address, or nothing that you may see.",
    405: "This address does not know that method.",
    413: "That is larger than what is taken.",
    500: "A fault of Shapkeen; the log tells more. Nothing is lost.",
}


def as_problem(answer: Any) -> Any:
    """Return an answer as a problem where it is a page that refuses something."""
    kind = answer.get("Content-Type", "")
    if answer.status_code < HTTPStatus.BAD_REQUEST or kind.startswith(MEDIA_TYPE):
        return answer
    made = problem(answer.status_code, WORDS.get(answer.status_code, "That was refused."))
    if answer.has_header("Allow"):
        made["Allow"] = answer["Allow"]
    return made
