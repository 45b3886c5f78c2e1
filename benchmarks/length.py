"""Whether memory stays flat however long a film is: a pair of 200 000 frames in a process.

Twenty clips of moving photographs are encoded once, as master and as export, and their packets
are repeated, headers rewritten, until there are enough. Then both are surveyed as the command line
does, killed in the middle (signal 9) and begun again. Told: peak memory of the coordinating process
and of all of them, seconds, how much was not done twice, and what keeping and judging take. Run it
with two free cores and time. Usage: python -m benchmarks.length [FRAMES]
"""

import os
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

import av

from shapkeen.core.compared import judge_survey, survey_files
from shapkeen.core.declared import read_declaration
from shapkeen.core.measured.spans.run import processes
from shapkeen.core.measured.survey.form import drawn_to_bytes, series_to_bytes, survey_to_bytes

FRAMES, CLIP, SIZE = 200_000, 250, (320, 180)
MEGABYTE = 1 << 20


def clips(folder: Path, crf: str) -> Path:
    """Return one file of twenty clips, each a photograph under another moving window."""
    # Here alone: what makes pictures would be counted as what surveying them takes.
    from tests.builders.media import PHOTOS, SDR, coded, photo_frames, write

    planes = []
    for number in range(20):
        frames = photo_frames(
            PHOTOS[number % 4], (SIZE[0] + 8 * number, SIZE[1] + 4 * number), CLIP
        )
        planes += [
            coded(f[-SIZE[1] :, -SIZE[0] :], matrix=1, depth=8)
            for f in (frames if number % 8 < 4 else frames[::-1])
        ]
    coding = SDR.with_options(crf=crf, preset="veryfast", g="50", keyint_min="50")
    made = write(f"length-{crf}", planes, coding)
    return Path(made)


def repeated(given: Path, made: Path, count: int) -> None:
    """Write a file's packets again and again, until there are so many frames."""
    with av.open(str(given)) as source, av.open(str(made), "w") as goal:
        stream = source.streams.video[0]
        packets = [
            (packet.pts, packet.dts, bytes(packet), packet.is_keyframe)
            for packet in source.demux(stream)
            if packet.pts is not None
        ]
        each = round(1 / (stream.average_rate * stream.time_base))
        out = goal.add_stream_from_template(stream)
        for turn in range(-(-count // len(packets))):
            shift = turn * len(packets) * each
            for pts, dts, data, key in packets:
                packet = av.Packet(data)
                packet.stream, packet.time_base = out, stream.time_base
                packet.pts, packet.dts, packet.duration = pts + shift, dts + shift, each
                packet.is_keyframe = key
                goal.mux(packet)


def survey(master: Path, export: Path, folder: Path, goal: Path) -> None:
    """Survey a pair in this process, and keep what it gives as a server would."""
    started = time.monotonic()
    made = survey_files(master, export, pool=processes(2), folder=folder, progress=tell)
    measured = time.monotonic()
    for name, data in (
        ("survey", survey_to_bytes(made.survey)),
        ("drawn", drawn_to_bytes(made.survey)),
        ("series", series_to_bytes(made.survey.series)),
    ):
        (goal / name).write_bytes(data)
    declared = read_declaration(master), read_declaration(export)
    survival = judge_survey(*declared, made.survey).survival
    print(
        f"{made.survey.export_frames} frames in {measured - started:.0f} s, kept and judged in "
        f"{time.monotonic() - measured:.1f} s: {survival.overall}, causes "
        f"{[cause.id for cause in survival.causes]}",
        flush=True,
    )


def tell(done: int, total: int) -> None:
    print(f"done {done} {total}", flush=True)


def status(pid: int, field: str) -> int:
    """Return a field of a process's status in bytes; 0 where it is gone."""
    with suppress(OSError):
        for line in Path(f"/proc/{pid}/status").read_text().splitlines():
            if line.startswith(field):
                return int(line.split()[1]) * 1024
    return 0


def children(pid: int) -> Iterator[int]:
    with suppress(OSError):
        for child in Path(f"/proc/{pid}/task/{pid}/children").read_text().split():
            yield int(child)
            yield from children(int(child))


class Watched:
    """A survey in a process of its own, its memory looked at ten times a second."""

    def __init__(self, *words: str) -> None:
        """Start it."""
        command = [sys.executable, "-W", "ignore", "-m", "benchmarks.length", "survey", *words]
        self.process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)  # noqa: S603
        self.most = self.all = 0
        threading.Thread(target=self._look, daemon=True).start()

    def _look(self) -> None:
        while self.process.poll() is None:
            own = status(self.process.pid, "VmRSS")
            others = sum(status(child, "VmRSS") for child in children(self.process.pid))
            self.most, self.all = max(self.most, own), max(self.all, own + others)
            time.sleep(0.1)

    def until(self, share: float) -> tuple[float, list[str]]:
        """Return which share was done at first, and what else was said, up to a share done."""
        first, said = None, []
        for line in self.process.stdout or ():
            if not line.startswith("done "):
                said.append(line.strip())
                continue
            done, total = map(int, line.split()[1:])
            first = done / total if first is None else first
            if done >= share * total:
                break
        return first or 0.0, said

    def told(self) -> str:
        return (
            f"peak {self.most / MEGABYTE:.0f} MB coordinating, {self.all / MEGABYTE:.0f} MB in all"
        )


def main() -> None:
    """Make the pair, survey it, kill it, survey it again."""
    if sys.argv[1:2] == ["survey"]:
        survey(*map(Path, sys.argv[2:6]))
        return
    count = int(sys.argv[1]) if len(sys.argv) > 1 else FRAMES
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ.setdefault("SHAPKEEN_TEST_FOOTAGE", str(folder / "footage"))
        pair = []
        for side, crf in (("master", "12"), ("export", "22")):
            pair.append(folder / f"{side}.mp4")
            repeated(clips(folder, crf), pair[-1], count)
        words = [str(one) for one in (*pair, folder / "parts", folder)]
        first = Watched(*words)
        first.until(0.5)
        for child in list(children(first.process.pid)):
            with suppress(OSError):
                os.kill(child, signal.SIGKILL)
        first.process.send_signal(signal.SIGKILL)
        first.process.wait()
        print(f"killed at half: {first.told()}", flush=True)
        second = Watched(*words)
        known, said = second.until(2.0)
        second.process.wait()
        print(f"went on from {known:.0%}: {second.told()}")
        print(*said, sep="\n")


if __name__ == "__main__":
    main()
