"""The first look: how often it says what measuring every frame says, and how long it takes.

On every pair of the demo, or with a side of the trials (tests/sides.py) on every pair of those:
overall verdict and causes alike or not. With `uhd` on 3840×2160 10-bit H.265 of rising length,
seconds from call to verdict. Usage: python -m benchmarks.first_look [uhd | SIDE [KIND …]]
"""

import sys
import tempfile
import time
from collections.abc import Iterable, Iterator, Sequence
from pathlib import Path

from benchmarks.clips import RATE, looped, make
from shapkeen.core.compared import compare_files
from shapkeen.core.errors import CoreError
from shapkeen.core.promised import Promise, Promised
from shapkeen.demo.features import FEATURES, Export
from shapkeen.demo.shipped import place_footage
from tests.kinds import KINDS
from tests.sides import SIDES

LOOP_S, LENGTHS_S = 4, (8, 120, 1200)


def said(
    master: Path, export: Path, *, quick: bool, promise: Promise | None = None
) -> tuple[str, str, list[str], float]:
    """Return stage, overall verdict, causes and seconds of one comparison."""
    started = time.monotonic()
    try:
        found = compare_files(master, export, quick=quick, overrides=promise)
    except CoreError as error:
        return "", error.code, [], time.monotonic() - started
    causes = sorted(cause.id for cause in found.survival.causes)
    return found.survey.stage, found.survival.overall, causes, time.monotonic() - started


Pair = tuple[str, Path, Path, Promise | None]


def of_demo(folder: Path) -> Iterator[Pair]:
    """Yield name, master, export and promise of every pair of the demo."""
    place_footage(folder)
    for feature in FEATURES:
        for export in feature.exports:
            yield export.file, folder / feature.master, folder / export.file, promised(export)


def of_side(name: str, names: Sequence[str]) -> Iterator[Pair]:
    """Yield the same of every trial of a side, of these kinds or of all."""
    side = SIDES[name]
    for kind, (subjects, trials) in KINDS.items():
        if names and kind not in names:
            continue
        for subject in getattr(side, subjects):
            for trial in trials(subject, side):
                yield f"{kind} {trial.name}", trial.master(), trial.export(), trial.promise


def agreement(pairs: Iterable[Pair]) -> None:
    """Print where the two differ, and how often they agree."""
    alike = verdicts = count = 0
    for name, master, export, asked in pairs:
        first, whole = (said(master, export, quick=q, promise=asked) for q in (True, False))
        count += 1
        alike += first[2] == whole[2]
        verdicts += first[1] == whole[1]
        took = f"{first[3]:.1f} s, every frame {whole[3]:.1f} s"
        apart = "" if first[1:3] == whole[1:3] else f"; {first[:3]} against {whole[1:3]}"
        print(f"  {name}: {took}{apart}", flush=True)
    print(f"of {count} pairs: causes alike in {alike}, overall verdict in {verdicts}")


def promised(export: Export) -> Promise | None:
    """Return what the demo promises of an export in place of the master's values."""
    traits = {
        name: Promised(value=value, origin="the demo", explicit=True)
        for name, value in export.promise.items()
    }
    return Promise(traits=traits) if traits else None


def uhd() -> None:
    """Print the seconds that a first look takes, by length."""
    with tempfile.TemporaryDirectory() as folder:
        short = {}
        for name, mbps, grain in (("master", 100, 5.0), ("export", 14, 3.0)):
            short[name] = Path(folder) / f"{name}-loop.mp4"
            make(short[name], mbps=mbps, count=LOOP_S * RATE, grain=grain)
        said(short["master"], short["export"], quick=True)  # loads and compiles what there is
        for seconds in LENGTHS_S:
            files = [Path(folder) / f"{name}-{seconds}.mp4" for name in short]
            for name, path in zip(short, files, strict=True):
                looped(short[name], seconds // LOOP_S, path)
            stage, overall, causes, took = said(*files, quick=True)
            print(
                f"{seconds} s of 3840×2160: {took:.1f} s, {stage}, {overall} {causes}", flush=True
            )
            for path in files:
                path.unlink()


def main(words: Sequence[str]) -> None:
    """Measure what the words name."""
    if "uhd" in words:
        uhd()
    elif words:
        agreement(of_side(words[0], words[1:]))
    else:
        with tempfile.TemporaryDirectory() as folder:
            agreement(of_demo(Path(folder)))


if __name__ == "__main__":
    main(sys.argv[1:])
