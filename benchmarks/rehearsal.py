"""Rehearsing: renditions beside the general command-line encoder, and what each part costs.

Both take turns on the same pictures with equal settings; told are SSIM and seconds of each, and
their ratios. Needs Debian's ffmpeg (5.1.9-0+deb12u1). Usage: python -m benchmarks.rehearsal
[FRAMES]
"""

import shutil
import subprocess
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import numpy as np

from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import plan_reading
from shapkeen.core.measured import Source
from shapkeen.core.measured.decoded.metrics import quick_likeness
from shapkeen.core.rehearsed.ladder.coding import Settings, code, frames_of
from shapkeen.core.rehearsed.ladder.through_service import BT709
from shapkeen.core.rehearsed.rehearsal import rehearse
from shapkeen.core.rehearsed.stand_in import stand_in_named
from tests.builders.media import SDR, coded, photo_frames, write

HD, RATE = (1920, 1080), Fraction(24)
LIBRARIES = {"h264": "libx264", "vp9": "libvpx-vp9", "av1": "libsvtav1"}
BITS = {"h264": 4_000_000, "vp9": 3_200_000, "av1": 3_000_000}


def likeness(master: Path, made: Path, frames: int) -> float:
    sources = [Source(path, plan_reading(read_declaration(path))) for path in (master, made)]
    pairs = zip(*(frames_of(source, range(frames)) for source in sources), strict=True)
    return float(
        np.mean([quick_likeness(*(4 * f.luma.astype(np.float32) for f in p))[0] for p in pairs])
    )


def encoders(master: Path, folder: Path, frames: int) -> None:
    source = Source(master, plan_reading(read_declaration(master)))
    for codec, library in LIBRARIES.items():
        settings = Settings(
            codec=codec, bit_rate=BITS[codec], raster=HD, rate=RATE, depth=8, coding=BT709
        )
        ours, theirs = folder / f"{codec}.mp4", folder / f"{codec}-theirs.mp4"
        started = time.monotonic()
        pictures = ((f.luma, f.cb, f.cr) for f in frames_of(source, range(frames)))
        code(pictures, settings, ours)
        own = time.monotonic() - started
        words = [w for key, value in settings.options.items() for w in (f"-{key}:v", value)]
        call = ["ffmpeg", "-v", "error", "-y", "-i", str(master), "-c:v", library, *words]
        started = time.monotonic()
        subprocess.run([*call, "-an", str(theirs)], check=True, stderr=subprocess.DEVNULL)  # noqa: S603  (fixed words)
        other = time.monotonic() - started
        seen = [likeness(master, path, frames) for path in (ours, theirs)]
        print(
            f"{codec}: SSIM {seen[0]:.4f} ours, {seen[1]:.4f} theirs; "
            f"{own:.1f} s ÷ {other:.1f} s = {own / other:.2f}"
        )


def whole(master: Path, folder: Path, frames: int) -> None:
    for service in ("tidewater-club", "breakwater-stream"):
        out = folder / service
        out.mkdir()
        started = time.monotonic()
        found = rehearse(master, stand_in_named(service), out)
        spent = time.monotonic() - started
        shown = sum(len(one.numbers) for one in found.renditions)
        print(
            f"{service}: {len(found.renditions)} renditions of {frames} frames in {spent:.1f} s, "
            f"{spent / shown * 1000:.0f} ms a rendition's frame"
        )


def main() -> None:
    if shutil.which("ffmpeg") is None:
        sys.exit("Install Debian's ffmpeg: it is what renditions are held against.")
    frames = int(sys.argv[1]) if len(sys.argv) > 1 else 72
    master = write(
        "rehearsal-hd",
        [coded(p, matrix=1, depth=8) for p in photo_frames("rocket", HD, frames)],
        SDR,
    )
    with tempfile.TemporaryDirectory() as folder:
        encoders(master, Path(folder), frames)
        whole(master, Path(folder), frames)


if __name__ == "__main__":
    main()
