"""What a corrected copy costs beside a plain one, and whether a kill ever leaves half a copy.

A ProRes clip is repeated until the file has so many gigabytes. `cp` and `cure` take turns on one
disk; told are both times and their ratio: a cure reads both files once more to prove that no coded
picture changed. Then cures are killed (signal 9) at random moments: a copy must be whole or absent,
and what is left behind must hinder nobody. Usage: python -m benchmarks.cure [GIGABYTES] [KILLS]
"""

import os
import shutil
import signal
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import av
import numpy as np

from shapkeen.core.cured import cure_file
from shapkeen.core.declared import read_declaration
from tests.builders.media import Coding, sdr_planes, write

TURNS, FRAMES_A_SECOND = 3, 24
WISHES = {"transfer": 16, "primaries": 9, "matrix": 9}
CALL = ("cure", "--set", "transfer=16", "--set", "primaries=9", "--set", "matrix=9", "--out")
PRORES = Coding(codec="prores_ks", options=(), pix_fmt="yuv422p10le", ending=".mov", flags=())


def large(folder: Path, size: float) -> Path:
    """Return a MOV of so many bytes: one clip's packets again and again."""
    clip = write("cure-clip", sdr_planes("coffee", depth=10, chroma="4:2:2"), PRORES)
    path = folder / "large.mov"
    with av.open(str(clip)) as source, av.open(str(path), "w") as goal:
        stream = source.streams.video[0]
        packets = [bytes(packet) for packet in source.demux(stream) if packet.size]
        out = goal.add_stream_from_template(stream)
        each = round(1 / (FRAMES_A_SECOND * stream.time_base))
        done = number = 0
        while done < size:
            packet = av.Packet(packets[number % len(packets)])
            packet.stream, packet.time_base = out, stream.time_base
            packet.pts = packet.dts = number * each
            packet.duration, packet.is_keyframe = each, True
            goal.mux(packet)
            done, number = done + len(packets[number % len(packets)]), number + 1
    return path


def copies(path: Path, folder: Path) -> None:
    """Print how long plain and corrected copies take."""
    plain, cured = [], []
    for turn in range(TURNS):
        begun = time.monotonic()
        subprocess.run(["cp", "--reflink=never", path, folder / "plain.mov"], check=True)  # noqa: S603, S607
        with (folder / "plain.mov").open("rb") as file:
            os.fsync(file.fileno())
        plain.append(time.monotonic() - begun)
        (folder / "plain.mov").unlink()
        begun = time.monotonic()
        made = cure_file(path, folder / f"cured-{turn}.mov", WISHES)
        cured.append(time.monotonic() - begun)
        if not made.complete:
            raise RuntimeError(made.left)
        (folder / f"cured-{turn}.mov").unlink()
    size = path.stat().st_size / 1e9
    ratio = statistics.median(cured) / statistics.median(plain)
    print(
        f"{size:.1f} GB: cp and fsync {statistics.median(plain):.1f} s, cure with its proof "
        f"{statistics.median(cured):.1f} s: {ratio:.2f} times",
        flush=True,
    )


def kills(path: Path, folder: Path, count: int) -> None:
    """Print how cures ended that were killed at random moments."""
    goal, whole, absent = folder / "killed.mov", 0, 0
    begun = time.monotonic()
    cure_file(path, goal, WISHES)
    usual, size = time.monotonic() - begun, goal.stat().st_size
    goal.unlink()
    chance = np.random.default_rng(7)
    for _ in range(count):
        command = [sys.executable, "-W", "ignore", "-m", "shapkeen.cli.main", *CALL, goal, path]
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL)  # noqa: S603
        time.sleep(chance.uniform(0, 2 * usual + 1.5))
        process.send_signal(signal.SIGKILL)
        process.wait()
        if goal.exists():
            said = read_declaration(goal).wrapper["transfer"].value
            if goal.stat().st_size != size or said != WISHES["transfer"]:
                raise RuntimeError("half a copy stands under its name")
            whole += 1
            goal.unlink()
        else:
            absent += 1
    cure_file(path, goal, WISHES)
    left = [one.name for one in folder.iterdir() if one.name.startswith(".")]
    print(f"{count} kills: {whole} whole copies, {absent} none; left behind: {left or 'nothing'}")


def main() -> None:
    """Make the file, copy it both ways, then kill cures of it."""
    size = float(sys.argv[1]) if len(sys.argv) > 1 else 10
    count = int(sys.argv[2]) if len(sys.argv) > 2 else 200
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        path = large(folder, size * 1e9)
        copies(path, folder)
        if size > 1:
            small = folder / "small.mov"
            shutil.move(large(Path(tempfile.mkdtemp(dir=folder)), 1e9), small)
            path = small
        kills(path, folder, count)


if __name__ == "__main__":
    main()
