"""Pages of cures: look-up tables, and tags set by hand."""

from pathlib import Path
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ....core.errors import CoreError, UsageError
from ....core.measured import WHOLE
from ....core.reported.declared import declaration_from_object
from ...library.access import visible_attempt, visible_reel, whole_number
from ...library.models import Attempt, Reel
from .. import services
from .. import views as bench
from . import copies, tables
from . import tags as hand

SIZES = (17, 33, 65)
USUAL_SIZE = 33


@require_POST
def cure(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Have a corrected copy written, which becomes the next attempt."""
    attempt = visible_attempt(request, attempt_id)
    try:
        copies.ask(attempt, by=request.user)
    except UsageError as error:
        messages.error(request, error.text)
    return redirect(attempt)


@require_http_methods(["GET", "POST"])
def tags(request: HttpRequest, reel_id: int) -> HttpResponse:
    """Show what a file says, to be said otherwise; a copy is previewed, and written on demand."""
    reel = visible_reel(request, reel_id)
    attempt: Attempt | None = getattr(reel, "attempt", None)
    if attempt is None and not hasattr(reel, "title"):
        raise Http404  # of a master that another file replaced
    said = request.POST.dict()
    context: dict[str, Any] = {"reel": reel, "attempt": attempt}
    try:
        wishes = hand.wishes_of(said)
        if wishes and "write" in said:
            copies.ask_for(reel, wishes, by=request.user)
            return redirect(attempt or reel.title)
        context["preview"] = copies.preview(reel, wishes) if wishes else None
        if "write" in said:
            context["error"] = "Nothing was asked for: choose what the copy shall say."
    except CoreError as error:
        context["error"] = error.text
    if request.htmx:  # type: ignore[attr-defined]  # by its middleware
        return render(request, "bench/_tags_preview.html", context)
    return render(request, "bench/tags.html", context | _form(reel, said))


def _form(reel: Reel, said: dict[str, str]) -> dict[str, Any]:
    """Return the form with what was sent, so that a mistake costs nothing."""
    declared = declaration_from_object(reel.declaration)
    shown = services.file_shows(reel).whole
    return {
        "groups": hand.groups_of(declared, said, shown.light if shown else None),
        "kinds": hand.kinds_of(said),
        **copies.copy_of(reel),
    }


@require_GET
def table(request: HttpRequest, attempt_id: int) -> HttpResponse:
    """Show what look-up tables would take back, over the master and over the export."""
    attempt = visible_attempt(request, attempt_id)
    if attempt.judged is None:
        return bench.waiting(request, attempt, place="bench")
    if attempt.judged.stage != WHOLE:
        return redirect(attempt)  # provisional: its drift may be another's
    return render(request, "bench/table.html", _table_context(attempt, _size(request.GET)))


def _table_context(attempt: Attempt, size: int) -> dict[str, Any]:
    from ....core.cured.tables import NoTable
    from ....core.reported.bench import title_of
    from ....core.reported.figures.table import hues_figure, table_figure

    made = tables.tables_of(attempt, size=size)
    shown = [
        {"made": one, "refused": True}
        if isinstance(one, NoTable)
        else {
            "made": one,
            "undoes": [title_of(cause) for cause in one.undoes],
            "figures": [table_figure(one.table)]
            + ([hues_figure(one.table)] if one.table.kind == "3d" else []),
        }
        for one in made
    ]
    lattice = any(not isinstance(one, NoTable) and one.table.kind == "3d" for one in made)
    return {
        "attempt": attempt,
        "place": "bench",
        "shown": shown,
        "size": size,
        "sizes": SIZES if lattice else (),
        "tables": attempt.tables.select_related("taken_by"),
    }


@require_POST
def take_table(request: HttpRequest, attempt_id: int, use: str) -> HttpResponse:
    """Hand over a table as a file, and remember who took it."""
    attempt = visible_attempt(request, attempt_id)
    size = _size(request.POST)
    text = tables.taken(attempt, use, size=size, by=request.user)
    if text is None:
        messages.error(request, "There is no such table: what happened cannot be taken back.")
        return redirect("bench:table", attempt.pk)
    answer = HttpResponse(text, content_type="text/plain; charset=utf-8")
    name = f"{Path(attempt.reel.path).stem}-over-{'master' if use == 'source' else 'export'}.cube"
    answer.headers["Content-Disposition"] = _attachment(name)
    return answer


def _attachment(name: str) -> str:
    from django.utils.http import content_disposition_header

    return content_disposition_header(as_attachment=True, filename=name) or "attachment"


def _size(said: Any) -> int:
    size = whole_number(said.get("size", ""))
    return size if size in SIZES else USUAL_SIZE
