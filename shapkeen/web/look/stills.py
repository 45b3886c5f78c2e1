"""Stills and moments on disk: made once by a child process, then served from the cache."""

import base64
import hashlib
import uuid
from collections.abc import Sequence
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path

from django.conf import settings

from ...core.errors import UnreadableFileError
from ..jobs.sandbox import ChildDiedError, run_child
from ..library.models import Attempt, Reel

MOST = (1600, 900)
WHOLE = (8192, 4320)
"""For looking at single samples."""
MOST_MOMENTS = 40
"""Up to 50 MB each at 3840 × 2160."""
STILL_TIME_S = 60
PROXY_TIME_S = 240
MOST_PROXIES = 200
"""A few MB each."""
MOST_FILES = 2000
"""About 2 GB of stills; the ones not used for longest are removed."""


def _identity(source: Path) -> str:
    mark = source.stat()
    return f"{source}|{mark.st_size}|{mark.st_mtime_ns}"


def _cached(identity: str, ending: str) -> Path:
    folder: Path = settings.CONF.still_dir
    return folder / f"{hashlib.sha256(identity.encode()).hexdigest()}.{ending}"


def _still(source: Path, frame: int, display: str, most: tuple[int, int]) -> Path:
    return _cached(f"{_identity(source)}|{frame}|{display}|{most}", "png")


def still_path(reel: Reel, frame: int, display: str, *, whole: bool = False) -> Path:
    """Return the file of a still, making it if need be; raises CoreError where it cannot be.

    whole: with every sample, not made smaller for the page.
    """
    path = _still(reel.locate(), frame, display, WHOLE if whole else MOST)
    if path.exists():
        path.touch()
        return path
    draw(reel, [frame], display, whole=whole)
    return path


def draw(reel: Reel, frames: Sequence[int], display: str, *, whole: bool = False) -> None:
    """Draw the stills of rising frames that are not there yet; raises CoreError."""
    source, most = reel.locate(), WHOLE if whole else MOST
    paths = {frame: _still(source, frame, display, most) for frame in frames}
    wanted = [frame for frame, path in paths.items() if not path.exists()]
    if not wanted:
        return
    try:
        found = run_child(
            "stills",
            path=str(source),
            frames=wanted,
            display=display,
            width=most[0],
            height=most[1],
            time_s=STILL_TIME_S,
        )
    except ChildDiedError as error:
        raise UnreadableFileError(
            "The frame could not be decoded.", code="decoder-crashed", where=reel.name
        ) from error
    for frame, png in zip(wanted, found["pngs"], strict=True):
        _write(paths[frame], base64.b64decode(png))


def moment_paths(attempt: Attempt, numbers: tuple[int, int]) -> tuple[Path, Path]:
    """Return the files of one moment's samples and of its difference picture, made if need be.

    numbers: of the master's and of the export's frame. Raises CoreError where they cannot be made.
    """
    delivery = attempt.delivery
    master, export = delivery.title.master.locate(), attempt.reel.locate()
    comparison = attempt.comparison()
    survey = comparison.survey if comparison else None
    place = asdict(survey.registration) if survey and survey.registration else None
    told = f"{numbers}|{delivery.promise_text}|{place}"
    identity = f"{_identity(master)}|{_identity(export)}|{told}"
    samples, drawn = _cached(identity, "npz"), _cached(f"{identity}|difference", "png")
    if samples.exists() and drawn.exists():
        samples.touch()
        return samples, drawn
    samples.parent.mkdir(parents=True, exist_ok=True)
    part = samples.with_name(f".{uuid.uuid4().hex}.part")
    try:
        found = run_child(
            "moment",
            master=str(master),
            export=str(export),
            promise=delivery.promise_text,
            origin=f"delivery {delivery.name}",
            frames=numbers,
            place=place,
            raster=survey.export_raster if survey else (1, 1),
            of_master=survey.master_raster if survey else (1, 1),
            goal=str(part),
            time_s=STILL_TIME_S,
        )
        part.replace(samples)
    except ChildDiedError as error:
        raise UnreadableFileError(
            "The frames could not be decoded.", code="decoder-crashed", where=attempt.reel.name
        ) from error
    finally:
        part.unlink(missing_ok=True)
    _write(drawn, base64.b64decode(found["png"]))
    return samples, drawn


def parallax_path(reel: Reel, frame: int, stereo: str) -> Path:
    """Return the file of one frame's parallax, making it if need be; raises CoreError."""
    source = reel.locate()
    path = _cached(f"{_identity(source)}|{frame}|{stereo}|depth", "png")
    if path.exists():
        path.touch()
        return path
    try:
        found = run_child(
            "depth", path=str(source), frame=frame, stereo=stereo, time_s=STILL_TIME_S
        )
    except ChildDiedError as error:
        raise UnreadableFileError(
            "The frame could not be decoded.", code="decoder-crashed", where=reel.name
        ) from error
    _write(path, base64.b64decode(found["png"]))
    return path


def proxy_path(
    attempt: Attempt, pairs: Sequence[tuple[int, int]], display: str, rate: Fraction
) -> Path:
    """Return the file of a proxy of these pairs of frames, made if need be; raises CoreError."""
    master, export = attempt.delivery.title.master.locate(), attempt.reel.locate()
    told = f"{pairs[0]}|{pairs[-1]}|{len(pairs)}|{display}|proxy"
    goal = _cached(f"{_identity(master)}|{_identity(export)}|{told}", "mp4")
    if goal.exists():
        goal.touch()
        return goal
    goal.parent.mkdir(parents=True, exist_ok=True)
    part = goal.with_name(f".{uuid.uuid4().hex}.part")
    try:
        run_child(
            "proxy",
            master=str(master),
            export=str(export),
            pairs=list(pairs),
            display=display,
            rate=str(rate),
            goal=str(part),
            time_s=PROXY_TIME_S,
        )
        part.replace(goal)
    except ChildDiedError as error:
        raise UnreadableFileError(
            "The frames could not be decoded.", code="decoder-crashed", where=attempt.reel.name
        ) from error
    finally:
        part.unlink(missing_ok=True)
    _trim(goal.parent)
    return goal


def _write(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_name(f".{uuid.uuid4().hex}.part")
    try:
        part.write_bytes(data)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
    _trim(path.parent)


def _trim(folder: Path) -> None:
    for kind, most in (("*.png", MOST_FILES), ("*.npz", MOST_MOMENTS), ("*.mp4", MOST_PROXIES)):
        files = list(folder.glob(kind))
        if len(files) > most:
            for path in sorted(files, key=_age)[: len(files) - most]:
                path.unlink(missing_ok=True)


def _age(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:  # another request removed it meanwhile
        return 0.0
