"""From a click to the picture: a still out of the middle of a 3840×2160 10-bit H.265 file.

Groups of two seconds. Told are seconds until the asked frame of one file is there, until both
files' are (as a click on Look asks for), and of the next frame then; nothing was drawn ahead. Also
as ratios to decoding one picture. Usage: python -m benchmarks.stills
"""

import os
import statistics
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from django.conf import settings

from benchmarks.clips import make
from benchmarks.compare import decode

GROUP, COUNT, ROUNDS = 48, 96, 6


def clicked(files: list[Any], frame: int) -> float:
    """Return the seconds until these files' stills are there."""
    from shapkeen.web.look import stills

    started = time.monotonic()
    with ThreadPoolExecutor(len(files)) as pool:
        for found in pool.map(lambda file: stills.still(file, frame, "toned"), files):
            found.close()
    return time.monotonic() - started


def main() -> None:
    """Print the table."""
    from shapkeen.web.look import neighbours

    with tempfile.TemporaryDirectory() as folder:
        paths = [Path(folder) / f"{name}.mp4" for name in ("master", "export")]
        for path, mbps, grain in zip(paths, (40, 14), (4.0, 3.0), strict=True):
            make(path, mbps=mbps, count=COUNT, grain=grain, group=GROUP)
        one_picture = decode(paths[1]) / COUNT
        files = [SimpleNamespace(locate=lambda path=path: path) for path in paths]
        clicked(files, 0)  # starts the children that wait from then on
        times: dict[str, list[float]] = {"one file": [], "both files": [], "a step on": []}
        for turn in range(ROUNDS):
            # Places all over a group; what lies beside them is not drawn yet.
            frame = GROUP + turn * GROUP // ROUNDS + 3
            for name, asked, step in (
                ("one file", files[1:], 0),
                ("both files", files, 0),
                ("a step on", files, 2),
            ):
                if not step:
                    neighbours.end_all()
                    settings.CONF = replace(settings.CONF, data_dir=Path(folder) / f"{name}{turn}")
                    time.sleep(2)
                times[name].append(clicked(asked, frame + step))
    print(f"a picture decoded: {one_picture * 1000:.0f} ms of CPU time")
    print("| from click to picture | middle | worst |\n| --- | --- | --- |")
    for name, seconds in times.items():
        told = [statistics.median(seconds), max(seconds)]
        print(
            f"| {name} | " + " | ".join(f"{s:.2f} s, {s / one_picture:.0f}×" for s in told) + " |"
        )


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as data:
        os.environ["SHAPKEEN_DATA"] = data
        os.environ["DJANGO_SETTINGS_MODULE"] = "shapkeen.web.config.settings"
        import django

        django.setup()
        main()
