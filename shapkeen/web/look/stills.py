"""Stills, moments, parallax and proxies: made by a child process, kept by work.made."""

import base64
import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path
from typing import IO, Any

from ..bench.services import comparison_of
from ..library.models import Attempt, Reel
from ..work.boundary import run_child
from ..work.made import is_kept, keep_made, kept, made, only_one
from . import works
from .neighbours import Order, draw_around, neighbours_of

MOST = (1600, 900)
WHOLE = (8192, 4320)
"""For looking at single samples."""
STILL_TIME_S = 60
PROXY_TIME_S = 240


def _state(source: Path) -> str:
    status = source.stat()
    return f"{source}|{status.st_size}|{status.st_mtime_ns}"


def _key(*told: object) -> str:
    return hashlib.sha256("|".join(map(str, told)).encode()).hexdigest()


def _still(source: Path, frame: int, display: str, most: tuple[int, int]) -> str:
    return _key("still", _state(source), frame, display, most)


def still(reel: Reel, frame: int, display: str, *, whole: bool = False) -> IO[bytes]:
    """Return a still, opened, made if need be; raises CoreError where it cannot be.

    whole: with every sample, not made smaller for the page.
    """
    source = reel.locate()
    key = _still(source, frame, display, WHOLE if whole else MOST)
    found = kept(key)
    if found is None:
        if whole:
            draw(reel, [frame], display, whole=True)
        else:
            draw_around(_order(source, frame, display))
        found = kept(key)
    return found or made(key, lambda _: _drawn(source, [frame], display, whole=whole))


def _order(source: Path, frame: int, display: str) -> Order:
    """Return what is to be drawn where a frame is asked for: itself, and what lies beside it."""

    def key(number: int) -> str:
        return _still(source, number, display, MOST)

    def is_drawn(number: int) -> bool:
        return is_kept(key(number))

    return Order(
        source,
        display,
        (frame, *neighbours_of(frame, is_drawn)),
        _request(source, display, MOST),
        is_drawn,
        lambda number, png: keep_made(lambda _: {key(number): png}),
    )


def _request(source: Path, display: str, most: tuple[int, int]) -> dict[str, Any]:
    """Return what a child that draws is told beside the numbers of frames."""
    return {
        "path": str(source),
        "display": display,
        "width": most[0],
        "height": most[1],
        "time_s": STILL_TIME_S,
    }


def draw(reel: Reel, frames: Sequence[int], display: str, *, whole: bool = False) -> None:
    """Draw the stills of rising frames that are not there yet; raises CoreError."""
    source, most = reel.locate(), WHOLE if whole else MOST
    # One at a time for a file: whoever waits finds most of what it wants drawn already.
    with only_one(f"stills of {source}"):
        wanted = [n for n in frames if not is_kept(_still(source, n, display, most))]
        if wanted:
            keep_made(lambda _: _drawn(source, wanted, display, whole=whole))


def _drawn(
    source: Path, frames: Sequence[int], display: str, *, whole: bool
) -> Mapping[str, bytes]:
    most = WHOLE if whole else MOST
    found = run_child(works.stills, frames=list(frames), **_request(source, display, most))
    return {
        _still(source, frame, display, most): base64.b64decode(png)
        for frame, png in zip(frames, found["pngs"], strict=True)
    }


def _moment_keys(attempt: Attempt, numbers: tuple[int, int]) -> tuple[str, str]:
    delivery = attempt.delivery
    states = (_state(delivery.title.master.locate()), _state(attempt.reel.locate()))
    # By the survey too: it says where the master's picture lies in the export's.
    survey = attempt.judged.survey_id if attempt.judged else None
    told = (*states, numbers, delivery.promise_digest, survey)
    return _key("moment", *told), _key("difference", *told)


def moment(attempt: Attempt, numbers: tuple[int, int]) -> IO[bytes]:
    """Return one moment's samples, opened, made if need be; raises CoreError.

    numbers: of the master's and of the export's frame.
    """
    keys = _moment_keys(attempt, numbers)
    return made(keys[0], lambda folder: _moment(attempt, numbers, keys, folder))


def difference(attempt: Attempt, numbers: tuple[int, int]) -> IO[bytes]:
    """Return one moment's difference picture, opened, made if need be; raises CoreError."""
    keys = _moment_keys(attempt, numbers)
    return made(keys[1], lambda folder: _moment(attempt, numbers, keys, folder))


def _moment(
    attempt: Attempt, numbers: tuple[int, int], keys: tuple[str, str], folder: Path
) -> Mapping[str, bytes | Path]:
    delivery, comparison = attempt.delivery, comparison_of(attempt)
    survey = comparison.survey if comparison else None
    goal = folder / "moment.npz"
    found = run_child(
        works.moment,
        master=str(delivery.title.master.locate()),
        export=str(attempt.reel.locate()),
        promises=delivery.promise_layers(),
        frames=numbers,
        place=asdict(survey.registration) if survey and survey.registration else None,
        raster=survey.export_raster if survey else (1, 1),
        of_master=survey.master_raster if survey else (1, 1),
        goal=str(goal),
        time_s=STILL_TIME_S,
    )
    return {keys[0]: goal, keys[1]: base64.b64decode(found["png"])}


def parallax(reel: Reel, frame: int, stereo: str) -> IO[bytes]:
    """Return one frame's parallax, opened, made if need be; raises CoreError."""
    source = reel.locate()
    key = _key("parallax", _state(source), frame, stereo)

    def make(_folder: Path) -> Mapping[str, bytes]:
        found = run_child(
            works.parallax,
            path=str(source),
            frame=frame,
            stereo=stereo,
            time_s=STILL_TIME_S,
        )
        return {key: base64.b64decode(found["png"])}

    return made(key, make)


POSTER = (192, 108)


def poster(reel: Reel, frame: int, display: str) -> IO[bytes]:
    """Return a small still of a file, opened, made if need be; raises CoreError."""
    source = reel.locate()
    key = _still(source, frame, display, POSTER)

    def make(_folder: Path) -> Mapping[str, bytes]:
        found = run_child(works.stills, frames=[frame], **_request(source, display, POSTER))
        return {key: base64.b64decode(found["pngs"][0])}

    return made(key, make)


def pair(
    attempt: Attempt, numbers: tuple[int, int], display: str, side: str, *, whole: bool
) -> IO[bytes]:
    """Return one side of a telling pair, opened, made if need be; raises CoreError.

    numbers: of the master's and of the export's frame. side: master or export.
    """
    keys = pair_keys(attempt, numbers, display, whole=whole)

    def make(_folder: Path) -> Mapping[str, bytes]:
        found = run_child(
            works.pair,
            master=str(attempt.delivery.title.master.locate()),
            export=str(attempt.reel.locate()),
            frames=numbers,
            display=display,
            whole=whole,
            time_s=STILL_TIME_S,
        )
        return dict(zip(keys, map(base64.b64decode, found["pngs"]), strict=True))

    return made(keys[0 if side == "master" else 1], make)


def pair_keys(
    attempt: Attempt, numbers: tuple[int, int], display: str, *, whole: bool
) -> tuple[str, str]:
    """Return the keys that both sides of a telling pair are kept by; raises UsageError."""
    files = attempt.delivery.title.master.locate(), attempt.reel.locate()
    told = (*map(_state, files), numbers, display, whole)
    return _key("pair master", *told), _key("pair export", *told)


def band(reel: Reel, frames: Sequence[int], display: str) -> IO[bytes]:
    """Return a film as a band, opened, made if need be; raises CoreError."""
    source = reel.locate()
    key = band_key(reel, frames, display)

    def make(_folder: Path) -> Mapping[str, bytes]:
        asked: dict[str, Any] = {"path": str(source), "frames": list(frames)}
        found = run_child(works.band, time_s=PROXY_TIME_S, display=display, **asked)
        return {key: base64.b64decode(found["png"])}

    return made(key, make)


def band_key(reel: Reel, frames: Sequence[int], display: str) -> str:
    """Return the key that a band is kept by; raises UsageError."""
    return _key("band", _state(reel.locate()), tuple(frames), display)


def proxy(
    attempt: Attempt, pairs: Sequence[tuple[int, int]], display: str, rate: Fraction
) -> IO[bytes]:
    """Return a proxy of these pairs of frames, opened, made if need be; raises CoreError."""
    master, export = attempt.delivery.title.master.locate(), attempt.reel.locate()
    told = (pairs[0], pairs[-1], len(pairs), display)
    key = _key("proxy", _state(master), _state(export), *told)

    def make(folder: Path) -> Mapping[str, Path]:
        goal = folder / "proxy.mp4"
        run_child(
            works.proxy,
            master=str(master),
            export=str(export),
            pairs=list(pairs),
            display=display,
            rate=str(rate),
            goal=str(goal),
            time_s=PROXY_TIME_S,
        )
        return {key: goal}

    return made(key, make)
