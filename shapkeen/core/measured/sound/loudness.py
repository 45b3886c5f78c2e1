"""Loudness: integrated, range and true peak, as ITU-R BS.1770-4 and EBU R 128 have them.

Measured by the FFmpeg libraries' `ebur128` filter.
"""

from contextlib import suppress
from dataclasses import dataclass
from fractions import Fraction
from math import log10
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.filter import Graph

from .reading import Part, read_sound

SILENT_LUFS = -70.0
"""What the gate leaves out, and what silence is told as: EBU Tech 3341."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Loudness:
    """Of a stretch of sound. range_lu: EBU Tech 3342. series: (seconds, momentary LUFS)."""

    integrated_lufs: float
    range_lu: float
    true_peak_dbtp: float
    series: tuple[tuple[float, float], ...] = ()


def measure_loudness(path: Path, part: Part, layout: str | None = None) -> Loudness:
    """Return the loudness of a part of a file's first sound track.

    layout: of channels, mixed down to; None for the track's own.

    Silence has SILENT_LUFS and a true peak of -inf. Raises av.FFmpegError where it cannot be read.
    """
    meter: Meter | None = None
    with av.open(str(path), metadata_errors="replace") as container:
        source = container.streams.audio[0]
        for block in read_sound(container, part, layout=layout):
            meter = meter or Meter(source.rate, layout or source.layout.name)
            meter.add(block)
    if meter is None:
        return Loudness(
            integrated_lufs=SILENT_LUFS, range_lu=0.0, true_peak_dbtp=-np.inf, series=()
        )
    return meter.result()


class Meter:
    """The filter, fed block by block; raises av.FFmpegError for channels it does not know."""

    def __init__(self, rate: int, layout: str) -> None:
        self._rate, self._layout, self._at = rate, layout, 0
        graph = Graph()
        self._source = graph.add_abuffer(
            sample_rate=rate, format="fltp", layout=layout, time_base=Fraction(1, rate)
        )
        meter = graph.add("ebur128", "peak=true:metadata=1:framelog=quiet")
        self._sink = graph.add("abuffersink")
        self._source.link_to(meter)
        meter.link_to(self._sink)
        graph.configure()
        self._graph = graph
        self._last: dict[str, Any] = {}
        self._series: list[tuple[float, float]] = []

    def add(self, block: Any) -> None:
        """Take the next samples, (channel, time)."""
        frame = AudioFrame.from_ndarray(
            np.ascontiguousarray(block, np.float32), format="fltp", layout=self._layout
        )
        frame.rate, frame.pts = self._rate, self._at
        frame.time_base = Fraction(1, self._rate)
        self._at += block.shape[1]
        self._source.push(frame)
        self._pull()

    def result(self) -> Loudness:
        """Return the loudness of all that was added."""
        with suppress(av.FFmpegError):
            self._source.push(None)
            self._pull()
        peak = float(self._last.get("lavfi.r128.true_peak", 0.0))
        return Loudness(
            integrated_lufs=float(self._last.get("lavfi.r128.I", SILENT_LUFS)),
            range_lu=float(self._last.get("lavfi.r128.LRA", 0.0)),
            true_peak_dbtp=20 * log10(peak) if peak > 0 else -np.inf,
            series=tuple(self._series),
        )

    def _pull(self) -> None:
        with suppress(av.error.BlockingIOError, av.error.EOFError):
            while True:
                told = self._sink.pull()
                self._last = dict(told.metadata) or self._last
                if "lavfi.r128.M" in self._last:
                    seconds = float((told.pts or 0) * (told.time_base or 0))
                    self._series.append((seconds, float(self._last["lavfi.r128.M"])))
