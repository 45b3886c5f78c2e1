"""Figures for whoever watches many machines, in Prometheus' text form; read at each asking."""

import shutil
from collections.abc import Iterator
from typing import Any

from django.conf import settings
from django.db.models import Count, DurationField, ExpressionWrapper, F, Min, Sum
from django.utils import timezone
from prometheus_client import CollectorRegistry, generate_latest
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily
from prometheus_client.registry import Collector

from ..bench.models import Judgement, Survey
from ..library.models import Attempt, Title
from ..work.models import Job
from . import health

PREFIX = "shapkeen"
Family = GaugeMetricFamily | CounterMetricFamily


class Figures(Collector):
    """Every family of figures, each from one question to the database or the disk."""

    def collect(self) -> Iterator[Family]:
        """Yield the families."""
        yield from _jobs()
        yield from _judged()
        yield from _seconds()
        yield from _disk()
        yield _health()


def _jobs() -> Iterator[Family]:
    now = gauge("jobs", "Work by kind and state", "kind", "state")
    ended = counter("jobs_failed", "Work that failed, by kind", "kind")
    for row in Job.objects.values("kind", "state").annotate(count=Count("pk")).order_by():
        if row["state"] in (Job.State.WAITING, Job.State.RUNNING):
            now.add_metric([row["kind"], row["state"]], row["count"])
        elif row["state"] == Job.State.FAILED:
            ended.add_metric([row["kind"]], row["count"])
    oldest = Job.objects.filter(state=Job.State.WAITING).aggregate(at=Min("created_at"))["at"]
    waited = (timezone.now() - oldest).total_seconds() if oldest else 0.0
    yield now
    yield ended
    yield gauge("oldest_waiting_seconds", "How long the oldest work waits", value=waited)


def _judged() -> Iterator[Family]:
    verdicts = gauge("attempts", "Judged attempts by verdict", "verdict")
    present = Judgement.objects.filter(attempt__binned_at=None)
    for row in present.values("overall").annotate(count=Count("pk")).order_by():
        verdicts.add_metric([row["overall"]], row["count"])
    yield verdicts
    yield gauge("titles", "Titles", value=Title.objects.filter(binned_at=None).count())


def _seconds() -> Iterator[Family]:
    spent = counter("job_seconds", "Seconds that finished work took, by kind", "kind")
    ended = counter("jobs_done", "Work that was finished, by kind", "kind")
    took = ExpressionWrapper(F("ended_at") - F("started_at"), DurationField())
    done = Job.objects.filter(state=Job.State.DONE).exclude(started_at=None)
    for row in done.values("kind").annotate(took=Sum(took), count=Count("pk")).order_by():
        spent.add_metric([row["kind"]], row["took"].total_seconds())
        ended.add_metric([row["kind"]], row["count"])
    stages = gauge("surveys", "Surveys that are kept, by stage", "stage")
    for kept in Survey.objects.values("stage").annotate(count=Count("pk")).order_by():
        stages.add_metric([kept["stage"]], kept["count"])
    yield from (spent, ended, stages)


def _disk() -> Iterator[Family]:
    usage = shutil.disk_usage(settings.CONF.data_dir)
    yield gauge("disk_free_bytes", "Free where data is kept", value=usage.free)
    database = settings.CONF.database
    size = database.stat().st_size if database.exists() else 0
    yield gauge("database_bytes", "Size of the database file", value=size)
    waiting = Attempt.objects.filter(judgement=None, binned_at=None).count()
    yield gauge("attempts_unjudged", "Attempts without a verdict", value=waiting)


def _health() -> Family:
    well = gauge("well", "1 where a check of /readyz is well", "check")
    for one in health.checks():
        well.add_metric([one.name], float(one.is_well))
    return well


def gauge(name: str, words: str, *labels: str, value: Any = None) -> GaugeMetricFamily:
    """Return a family of what goes up and down."""
    return GaugeMetricFamily(f"{PREFIX}_{name}", words, value=value, labels=labels or None)


def counter(name: str, words: str, *labels: str) -> CounterMetricFamily:
    """Return a family of what only grows, while nothing is deleted."""
    return CounterMetricFamily(f"{PREFIX}_{name}", words, labels=labels or None)


def text() -> bytes:
    """Return all figures as text."""
    registry = CollectorRegistry(auto_describe=False)
    registry.register(Figures())
    return generate_latest(registry)
