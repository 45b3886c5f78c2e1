"""What goes into an archive: only what was used, with what a restored library needs to know."""

import json
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.archived import Item
from ...core.errors import CoreError
from ...core.judged.evidence import shown_rate
from ...core.promised import promise_to_json
from ...core.reported.declared import declaration_from_object
from ...core.reported.report import TitleReport, written
from ..bench.cures import tables
from ..bench.models import TakenTable
from ..library.models import Attempt, Delivery, Reel, Title
from ..reports.models import KeptReport
from ..reports.services import report_on
from ..signoff.models import Signature
from .described import described_title

LIBRARY = "library.json"
REPORT_BYTES = 1_100_000
"""Of an attempt's reports: two pictures, drawings, faces. The demo's take 0.7 to 1.6 MB."""
MEZZANINE_BITS = 1.2
"""Bits a picture sample: ten bits, 4:2:2, intra-coded so that nobody sees it; common practice."""


@dataclass(frozen=True, slots=True)
class Part:
    """One file that is, or could be, in an archive. kind: master, export, report, table, …

    why: that it is left out; empty where it goes in.
    """

    kind: str
    title: str
    path: str
    size_bytes: int
    source: Path | None
    why: str = ""


def plain(name: str) -> str:
    """Return a name that every file system and every manifest takes."""
    kept = "".join(
        sign if sign.isprintable() and sign not in '/\\%:*?"<>|~' else "_" for sign in name
    )
    return kept.strip(" .") or "_"


def parts_of(titles: list[Title], choices: Mapping[str, Any]) -> list[Part]:
    """Return every media file of some titles, with why some are left out."""
    return [part for title in titles for part in _parts(title, choices)]


def _parts(title: Title, choices: Mapping[str, Any]) -> Iterator[Part]:
    home = plain(title.name)
    why = "" if choices["masters"] else "masters are left out"
    yield _part("master", title, f"{home}/master", title.master, why)
    for delivery in deliveries_of(title):
        for attempt in attempts_of(delivery):
            folder = f"{home}/{plain(delivery.name)}/{attempt.number:03}"
            yield _part("export", title, folder, attempt.reel, _left_out(attempt, choices))


def deliveries_of(title: Title) -> list[Delivery]:
    """Return a title's deliveries, without the bin's."""
    return list(title.deliveries.filter(binned_at=None).select_related("title__master"))


def attempts_of(delivery: Delivery) -> list[Attempt]:
    """Return a delivery's attempts, without the bin's."""
    return list(delivery.attempts.filter(binned_at=None).with_context())


def _left_out(attempt: Attempt, choices: Mapping[str, Any]) -> str:
    signature = attempt.signatures.first()
    is_signed = signature is not None and signature.decision == Signature.SIGNED
    return "" if is_signed or choices["unsigned"] else "nobody signed it"


def _part(kind: str, title: Title, folder: str, reel: Reel, why: str) -> Part:
    try:
        source: Path | None = reel.locate()
        size = source.stat().st_size if source else 0
    except (CoreError, OSError):
        return Part(kind, title.name, f"{folder}/{plain(reel.name)}", 0, None, "it is gone")
    return Part(kind, title.name, f"{folder}/{plain(reel.name)}", size, source, why)


def items_of(titles: list[Title], choices: Mapping[str, Any]) -> list[Item]:
    """Return the payload of an archive of some titles."""
    parts = [part for part in parts_of(titles, choices) if part.source and not part.why]
    items = [Item(part.path, part.source) for part in parts if part.source]
    there = {part.path for part in parts}
    described = []
    for title in titles:
        items += _texts_of(title, choices)
        described.append(described_title(title, plain, there))
    library = {"schema": "shapkeen.archive/1", "titles": described}
    items.append(Item(LIBRARY, _json(library)))
    return _unique(items)


def _unique(items: list[Item]) -> list[Item]:
    """Return items with paths that are not alike: a number is put before what would be."""
    seen: set[str] = set()
    made = []
    for item in items:
        path, number = item.path, 1
        while path.casefold() in seen:
            number += 1
            folder, _, name = item.path.rpartition("/")
            path = f"{folder}/{number}-{name}" if folder else f"{number}-{name}"
        seen.add(path.casefold())
        made.append(Item(path, item.source))
    return made


def _texts_of(title: Title, choices: Mapping[str, Any]) -> Iterator[Item]:
    """Yield what was used beside pictures: promises, plans, recipes, tables, reports."""
    home = plain(title.name)
    used = {recipe.name: recipe for recipe in title.recipes.all()}  # the newest of each name
    for name, recipe in used.items():
        yield Item(f"{home}/recipes/{plain(name)}.json", recipe.text.encode())
    for delivery in deliveries_of(title):
        folder = f"{home}/{plain(delivery.name)}"
        try:
            promise = promise_to_json(delivery.effective_promise())
            yield Item(f"{folder}/promise.json", promise.encode())
        except CoreError:
            pass  # the master keeps none: its own text is in library.json
        plan = getattr(delivery, "kept_plan", None)
        if plan is not None:
            told = {"specification": json.loads(plan.specification), "sheet": plan.sheet}
            yield Item(f"{folder}/plan.json", _json(told))
        for attempt in attempts_of(delivery):
            if not _left_out(attempt, choices):
                yield from _of_attempt(attempt, f"{folder}/{attempt.number:03}", choices)


def _of_attempt(attempt: Attempt, folder: str, choices: Mapping[str, Any]) -> Iterator[Item]:
    if choices["tables"]:
        for taken in TakenTable.objects.filter(attempt=attempt):
            text = tables.text_of(attempt, taken.use, size=taken.size)
            if text:
                yield Item(f"{folder}/{taken.use}-{taken.kind}-{taken.pk}.cube", text.encode())
    if not choices["reports"]:
        return
    report = report_on(attempt)
    if report is not None:
        whole = TitleReport(str(attempt), (report,))
        for form in ("html", "json"):
            yield Item(f"{folder}/report.{form}", written(whole, form))
    for kept in KeptReport.objects.filter(attempt=attempt, form="pdf").exclude(size_bytes=0)[:1]:
        if kept.path.exists():
            yield Item(f"{folder}/report.pdf", kept.path)


@dataclass(frozen=True, slots=True)
class Saving:
    """What a smaller mezzanine copy of a master would take, as far as one can tell before."""

    name: str
    now_bytes: int
    then_bytes: int


def savings(titles: list[Title]) -> list[Saving]:
    """Return masters that a mezzanine copy would make smaller by a fifth and more."""
    found = []
    for title in titles:
        declared = declaration_from_object(title.master.declaration)
        raster = declared.stream.get("raster") or declared.wrapper.get("raster")
        rate, _ = shown_rate(declared)
        seconds = declared.video.duration_s
        if raster is None or not isinstance(raster.value, tuple) or not rate or not seconds:
            continue
        wide, high = raster.value
        bits = float(wide) * float(high) * float(rate) * seconds * MEZZANINE_BITS
        then = round(bits / 8)
        if then < 0.8 * title.master.size_bytes:
            found.append(Saving(title.master.name, title.master.size_bytes, then))
    return found


def _json(value: Any) -> bytes:
    return json.dumps(value, ensure_ascii=False, indent=1, sort_keys=True).encode()


def suggested_name(titles: list[Title], day: str) -> str:
    """Return a name for an archive of some titles."""
    stem = titles[0].name if len(titles) == 1 else f"{len(titles)} titles"
    return f"{re.sub(r'[^A-Za-z0-9]+', '-', stem).strip('-').lower() or 'titles'}-{day}"
