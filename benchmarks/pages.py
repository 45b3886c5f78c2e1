"""How fast pages answer with a full library: 200 titles, 1 000 exports, one of 100 minutes.

Data are made through the ORM from one measured pair of the demo; times are of the server alone,
over Django's test client. Usage: python -m benchmarks.pages [TITLES]
"""

import json
import os
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from copy import copy
from dataclasses import replace
from pathlib import Path
from typing import Any

TITLES, DELIVERIES = 200, 5
LONG_FRAMES = 100 * 60 * 24
TIMES = 15
GOAL_MS = 100.0


def main() -> None:
    """Make the library, ask for every page some times, print the middle and the worst time."""
    titles = int(sys.argv[1]) if len(sys.argv) > 1 else TITLES
    with tempfile.TemporaryDirectory() as folder:
        os.environ["SHAPKEEN_DATA"] = folder
        os.environ["SHAPKEEN_HOSTS"] = "testserver,127.0.0.1"
        os.environ["DJANGO_SETTINGS_MODULE"] = "shapkeen.web.config.settings"
        import django

        django.setup()
        _run(Path(folder), titles)


def _run(folder: Path, titles: int) -> None:
    from django.contrib.staticfiles.storage import staticfiles_storage
    from django.core.management import call_command
    from django.test import Client

    from shapkeen.web.people.rights import make_person

    call_command("migrate", verbosity=0)
    call_command("collectstatic", interactive=False, verbosity=0)
    assert staticfiles_storage  # noqa: S101  (the manifest is read at the first page)
    user = make_person("ada", "a-long-enough-one", administrator=True)
    pages = _fill(folder, user, titles)
    client = Client()
    client.force_login(user)
    nothing = _times(lambda: client.get("/log-in/"))
    print(f"{'page':<42} {'middle':>9} {'worst':>9} {'÷ log-in':>9}")
    for name, address in pages:
        spent = _times(lambda address=address: client.get(address))
        ratio = statistics.median(spent) / statistics.median(nothing)
        told = "met" if max(spent) < GOAL_MS else "MISSED"
        print(
            f"{name:<42} {statistics.median(spent):6.1f} ms {max(spent):6.1f} ms {ratio:9.1f}   "
            f"goal {GOAL_MS:.0f} ms: {told}"
        )
    _judge_again()


def _times(ask: Callable[[], Any]) -> list[float]:
    spent = []
    for _ in range(TIMES + 1):
        started = time.perf_counter()
        answer = ask()
        spent.append((time.perf_counter() - started) * 1000)
        assert answer.status_code == 200, answer.status_code  # noqa: S101
    return spent[1:]  # the first one fills caches of templates


def _fill(folder: Path, user: Any, titles: int = TITLES) -> list[tuple[str, str]]:
    """Fill the library with so many titles; return the pages to ask for."""
    from shapkeen.core.compared import survey_files
    from shapkeen.demo.features import FEATURES
    from shapkeen.demo.shipped import place_footage
    from shapkeen.web.bench import services
    from shapkeen.web.library.models import Attempt, Delivery, Title
    from shapkeen.web.library.services import read_file
    from shapkeen.web.library.views import TITLES_A_PAGE

    footage = folder / "footage"
    place_footage(footage)
    feature = FEATURES[0]
    export = feature.exports[1].file
    made = survey_files(footage / feature.master, footage / export)
    long_one = replace(made, survey=_lengthened(made.survey))
    read = [read_file("footage", name) for name in (feature.master, export)]
    attempts = []
    for number in range(titles):
        title = Title.objects.create(name=f"Title {number:03}", master=read[0].keep(user))
        for at in range(DELIVERIES):
            delivery = Delivery.objects.create(title=title, name=f"Delivery {at}")
            delivery.refresh_digest()
            attempt = Attempt.objects.create(delivery=delivery, number=1, reel=read[1].keep(user))
            attempts.append(Attempt.objects.with_context().get(pk=attempt.pk))
            _keep(attempts[-1], long_one if not number and not at else made)
    for attempt in attempts[:2]:
        assert services.judge(attempt) is not None  # noqa: S101
    _judge_alike(attempts[1], attempts[2:])
    title = attempts[0].delivery.title.get_absolute_url()
    long_attempt, short = attempts[0].pk, attempts[-1].pk
    return [
        ("Shelf, first page", "/"),
        ("Shelf, last page", f"/?page={-(-titles // TITLES_A_PAGE)}"),
        ("Shelf, typed, many found", "/?part=titles&q=title"),
        ("Shelf, typed, few found", "/?part=titles&q=title+17+delivery+3"),
        ("Shelf, typed, none found", "/?part=titles&q=nothing-like-it"),
        ("Shelf, by cause and day", "/?cause=gamut+converted&since=30"),
        ("News", "/news/"),
        ("News, as asked by every page", "/news/tell/"),
        ("Title", title),
        ("Title's deliveries, as polled", f"{title}?part=deliveries"),
        ("Bench", f"/attempt/{short}/"),
        ("Bench, 100 minutes", f"/attempt/{long_attempt}/"),
        ("Bench, 100 minutes, a slip open", f"/attempt/{long_attempt}/?open=tone"),
        ("Bench, 100 minutes, detail open", f"/attempt/{long_attempt}/?open=detail"),
        ("Look, 100 minutes (no goal)", f"/attempt/{long_attempt}/look/"),
    ]


def _lengthened(survey: Any) -> Any:
    """Return a survey with the series of 100 minutes; what is drawn of light as long."""
    from shapkeen.core.measured import LikenessSeries

    row = survey.series[0]
    rows = LikenessSeries.of(
        replace(row, master_frame=n, export_frame=n, delta_e=(row.delta_e or 1) + n % 97 / 100)
        for n in range(LONG_FRAMES)
    )
    return replace(survey, series=rows, master_frames=LONG_FRAMES, export_frames=LONG_FRAMES)


def _keep(attempt: Any, made: Any) -> None:
    """Keep a survey of an attempt, as a worker would."""
    from django.conf import settings

    from shapkeen.core.compared import survey_key
    from shapkeen.core.judged import read_pair_by
    from shapkeen.core.judged.form import declaration_to_bytes
    from shapkeen.core.measured import SURVEY_FORM
    from shapkeen.core.measured.survey.form import drawn_to_bytes, series_to_bytes, survey_to_bytes
    from shapkeen.core.promised import promise_from_master
    from shapkeen.web.bench.models import Survey, SurveySeries

    reading = read_pair_by(promise_from_master(made.master), made.master, made.export)
    master, export = (replace(state, path=f"{state.path} {attempt.pk}") for state in made.states)
    survey = Survey.objects.create(
        key=survey_key(master, export, reading, frames=settings.CONF.survey_frames),
        form=SURVEY_FORM,
        frames=settings.CONF.survey_frames,
        master=attempt.delivery.title.master,
        master_path=master.path,
        master_size=master.size_bytes,
        master_changed_ns=master.changed_ns,
        master_declaration=declaration_to_bytes(made.master),
        export=attempt.reel,
        export_path=export.path,
        export_size=export.size_bytes,
        export_changed_ns=export.changed_ns,
        export_declaration=declaration_to_bytes(made.export),
        findings=_bytes_of(made.survey, survey_to_bytes),
        read_s=made.read_s,
    )
    SurveySeries.objects.create(
        survey=survey,
        drawn=_bytes_of(made, lambda made: drawn_to_bytes(made.survey)),
        rows=_bytes_of(made.survey.series, series_to_bytes),
    )


def _judge_alike(judged: Any, others: list[Any]) -> None:
    """Judge attempts as one was judged: they are of the same files, by the same promise."""
    from shapkeen.web.bench.models import Judgement, Survey

    like = Judgement.objects.get(attempt=judged)
    surveys = dict(Survey.objects.values_list("export", "pk"))
    rows = []
    for attempt in others:
        row = copy(like)
        row.pk, row.attempt, row.survey_id = None, attempt, surveys[attempt.reel_id]
        row._state.adding = True
        rows.append(row)
    Judgement.objects.bulk_create(rows, batch_size=200)


_BYTES: dict[int, bytes] = {}


def _bytes_of(thing: Any, pack: Callable[[Any], bytes]) -> bytes:
    """Return a thing packed, once for each."""
    if id(thing) not in _BYTES:
        _BYTES[id(thing)] = pack(thing)
    return _BYTES[id(thing)]


def _judge_again() -> None:
    """Print how long a changed promise takes to be judged, on the longest export."""
    from shapkeen.web.library.models import Attempt
    from shapkeen.web.library.services import change_promise

    attempt = Attempt.objects.with_context().order_by("pk").first()
    assert attempt is not None  # noqa: S101
    spent = []
    for rate in (25, 30, 24, 25, 30):
        traits = {"frame_rate": {"value": [rate, 1]}}
        text = json.dumps({"schema": "shapkeen.promise/1", "traits": traits})
        started = time.perf_counter()
        change_promise(attempt.delivery, text, by=None)
        spent.append((time.perf_counter() - started) * 1000)
        judged = Attempt.objects.with_context().get(pk=attempt.pk)
        assert judged.out_of_date == []  # noqa: S101
    print(
        f"\nA changed promise, judged anew on 100 minutes: {statistics.median(spent):.0f} ms, "
        f"worst {max(spent):.0f} ms (goal 1 000 ms)"
    )


if __name__ == "__main__":
    main()
