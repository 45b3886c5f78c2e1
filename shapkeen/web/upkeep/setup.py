"""What an installation has and lacks, and what is better set otherwise on this machine."""

import ctypes.util
from collections.abc import Iterator

from django.conf import settings

from ...core.errors import CoreError
from ...core.measured.spans.cluster import connected, differing_words, machines_of
from ..config.conf import SURVEY_WORKERS, is_set
from .fitting import fit, machine_here, words_of
from .health import Check, checks


def everything() -> list[Check]:
    """Return every check of health, and of what other programs' parts are needed."""
    return [*checks(), *_parts(), *_cluster()]


def _cluster() -> Iterator[Check]:
    """Yield whether the cluster answers, and which of its workers cannot be used; None is asked
    for: nothing."""
    address = settings.CONF.cluster
    if not address:
        return
    try:
        with connected(address) as client:
            machines = machines_of(client)
    except CoreError as error:
        yield Check("cluster", False, f"{address}: {error.text}")
        return
    fit_ones = [one for one in machines if one.fits]
    told = [f"{one.address} has {differing_words(one.differs)}" for one in machines if not one.fits]
    words = f"{len(fit_ones)} workers at {address} measure as this machine does."
    left = f" Left out: {'; '.join(told)}." if told else ""
    yield Check("cluster", bool(fit_ones), words + left)


def _parts() -> Iterator[Check]:
    """Yield whether what other programs' files are read and written by is there."""
    import av

    codecs = {"libx264": "H.264", "libx265": "H.265", "libsvtav1": "AV1", "libvpx-vp9": "VP9"}
    away = [words for name, words in codecs.items() if name not in av.codecs_available]
    words = f"Encoders of {', '.join(away)} are missing: install av anew, from its own wheels."
    there = f"Encoders of {', '.join(codecs.values())} for versions and rehearsals."
    yield Check("encoders", not away, words if away else there)
    pango = ctypes.util.find_library("pangoft2-1.0")
    yield Check(
        "pdf",
        pango is not None,
        "Pango, for PDF reports."
        if pango
        else "Pango, so reports are made in every form but PDF: install libpangoft2-1.0-0.",
    )


def advice() -> Iterator[str]:
    """Yield what is better set otherwise on this machine."""
    conf, machine = settings.CONF, machine_here()
    fitting = fit(machine)
    yield f"{words_of(machine, fitting)}."
    jobs = conf.workers or fitting.jobs
    asked = jobs * (conf.survey_workers if is_set(SURVEY_WORKERS) else fitting.processes)
    if asked > 2 * machine.cores:
        fewer = max(machine.cores // jobs, 1)
        yield f"{SURVEY_WORKERS}={fewer}: the {asked} processes that are asked for wait for cores."
    if not conf.is_behind_tls and set(conf.hosts) - {"127.0.0.1", "localhost"}:
        yield "People come from elsewhere without TLS: see docs/running.md, then SHAPKEEN_ORIGINS."
    if conf.has_proxy and not conf.metrics_token:
        yield "Behind a proxy /metrics answers nobody until SHAPKEEN_METRICS_TOKEN is set."
