"""Making a version beside the general command-line encoder, with equal conversions and settings.

Both take turns on the same master and all cores; told are seconds of each and their ratio, and
the likeness (SSIM) of both results. Needs Debian's ffmpeg (5.1.9-0+deb12u1), which nothing else
does. Usage: python -m benchmarks.versions [FRAMES]
"""

import json
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import av
import numpy as np
from skimage.metrics import structural_similarity

from shapkeen.core.cured.versions import make_version, recipe_from_json
from tests.builders.media import HDR, SDR, Coding, coded, photo_frames, write

TURNS = 1
HD = (1920, 1080)
TAGS_HDR = "-color_primaries bt2020 -colorspace bt2020nc -color_range tv"
CASES = (
    ("coded again, H.264", "sdr", "h264", {}, "", "-c:v libx264 -preset medium -crf 18"),
    (
        "HD to UHD, H.264",
        "sdr",
        "h264",
        {"raster": {"value": [3840, 2160]}},
        "scale=3840:2160:flags=lanczos",
        "-c:v libx264 -preset medium -crf 18",
    ),
    (
        "HD to 1280×720, H.264",
        "sdr",
        "h264",
        {"raster": {"value": [1280, 720]}},
        "scale=1280:720:flags=lanczos",
        "-c:v libx264 -preset medium -crf 18",
    ),
    (
        "PQ to HLG, H.265",
        "hdr",
        "h265",
        {"transfer": {"value": 18, "from": 16}},
        "zscale=t=arib-std-b67:npl=1000",
        f"-c:v libx265 -preset medium -crf 18 -color_trc arib-std-b67 {TAGS_HDR}",
    ),
    ("coded again, H.265", "hdr", "h265", {}, "", "-c:v libx265 -preset medium -crf 18"),
)


def masters(frames: int) -> dict[str, Path]:
    pictures = photo_frames("rocket", HD, frames)
    sdr = [coded(p, matrix=1, depth=8) for p in pictures]
    hdr = [coded(p * 0.75, matrix=9, depth=10) for p in pictures]
    fast: Coding = SDR.with_options(crf="14", preset="veryfast")
    return {
        "sdr": write("versions-sdr", sdr, fast),
        "hdr": write("versions-hdr", hdr, replace(HDR, ending=".mov")),
    }


def ours(master: Path, codec: str, promise: dict, goal: Path) -> float:
    data = {
        "schema": "shapkeen.recipe/1",
        "name": "bench",
        "coding": {"codec": codec, "crf": 18, "preset": "medium"},
        "wrapper": "mp4",
        "promise": promise,
        "sound": "none",
    }
    started = time.monotonic()
    make_version(master, recipe_from_json(json.dumps(data)), goal)
    return time.monotonic() - started


def theirs(master: Path, filters: str, options: str, goal: Path) -> float:
    words = ["ffmpeg", "-v", "error", "-y", "-i", str(master)]
    words += ["-vf", filters] if filters else []
    started = time.monotonic()
    quiet = ["-x265-params", "log-level=error"] if "x265" in options else []
    call = [*words, *options.split(), *quiet, "-an", str(goal)]
    subprocess.run(call, check=True)  # noqa: S603  (our own words)
    return time.monotonic() - started


def likeness(one: Path, other: Path) -> float:
    with av.open(str(one)) as a, av.open(str(other)) as b:
        pairs = zip(a.decode(video=0), b.decode(video=0), strict=False)
        found = [
            structural_similarity(
                *(np.asarray(f.to_ndarray(format="gray"), float) for f in pair), data_range=255
            )
            for number, pair in enumerate(pairs)
            if number % 24 == 0
        ]
    return float(min(found))


def main() -> None:
    if shutil.which("ffmpeg") is None:
        sys.exit("Install Debian's ffmpeg: it is what versions are held against.")
    frames = int(sys.argv[1]) if len(sys.argv) > 1 else 96
    made = masters(frames)
    print("| version | ours, s | command line, s | ratio | SSIM |\n| --- | --- | --- | --- | --- |")
    for name, kind, codec, promise, filters, options in CASES:
        times: tuple[list[float], list[float]] = ([], [])
        for _ in range(TURNS):
            with tempfile.TemporaryDirectory() as folder:
                goals = Path(folder) / "ours.mp4", Path(folder) / "theirs.mp4"
                times[0].append(ours(made[kind], codec, promise, goals[0]))
                times[1].append(theirs(made[kind], filters, options, goals[1]))
                alike = likeness(*goals)
        one, other = (statistics.median(each) for each in times)
        print(f"| {name} | {one:.1f} | {other:.1f} | {one / other:.2f} | {alike:.3f} |", flush=True)


if __name__ == "__main__":
    main()
