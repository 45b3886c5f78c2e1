"""Files with sound beside a small picture: invented signals, coded as exports are."""

from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import numpy as np

from tests.builders import media

RATE = 48_000
LIBRARIES = {"pcm": "pcm_s24le", "aac": "aac", "opus": "libopus", "mp3": "libmp3lame"}


def speech(seconds: float, channels: int = 2, seed: int = 7) -> np.ndarray:
    """Return bursts of filtered noise with pauses, each channel its own but for a common part."""
    random = np.random.default_rng(seed)
    count = round(seconds * RATE)
    common = _bursts(random, count)
    lines = [0.35 * common + 0.65 * _bursts(random, count) for _ in range(channels)]
    wave = np.stack(lines)
    return (0.5 * wave / np.abs(wave).max()).astype(np.float32)


def _bursts(random: np.random.Generator, count: int) -> np.ndarray:
    noise = np.convolve(random.standard_normal(count), np.hanning(24) / 12, mode="same")
    steps = count // (RATE // 8) + 2
    loud = random.uniform(0, 1, steps) ** 2 * (random.uniform(0, 1, steps) > 0.3)
    return noise * np.interp(np.arange(count), np.arange(steps) * (RATE // 8), loud)


@lru_cache(maxsize=4)
def _pictures(frames: int, rate: int) -> Path:
    """Return a file of moving pictures alone, 160×96."""
    planes = media.photo_frames("coffee", (160, 96), frames)
    coded = [media.coded(frame, matrix=1, depth=8) for frame in planes]
    return media.write(f"sounding-{frames}-{rate}", coded, media.SDR.with_options(crf="12"))


def with_sound(
    name: str,
    wave: np.ndarray | None,
    *,
    codec: str = "aac",
    wrapper: str = "mp4",
    layout: str = "stereo",
    rate: int = RATE,
    late_s: float = 0.0,
    picture: Path | None = None,
    language: str = "",
    kbps: int = 128,
) -> Path:
    """Write a file with pictures, copied as they are coded, and with a wave, (channel, time).

    late_s: puts the sound's times so much later than the picture's. kbps: for two channels. Returns
    its path.
    """
    path = media.place(f"{name}.{wrapper}")
    pictures = picture or _pictures(8 * 24, 24)
    with av.open(str(pictures)) as source, av.open(str(path), "w") as out:
        own = out.add_stream_from_template(source.streams.video[0])
        sound = None
        if wave is not None:
            sound = out.add_stream(LIBRARIES[codec], rate=rate)
            sound.codec_context.layout = layout
            if codec != "pcm":
                sound.bit_rate = kbps * 1000 * max(len(wave) // 2, 1)
            if language:
                sound.metadata["language"] = language
        for packet in source.demux(video=0):
            if packet.dts is not None:
                packet.stream = own
                out.mux(packet)
        if sound is not None:
            _sound(out, sound, wave, layout, rate, late_s)
    return path


def _sound(out, stream, wave: np.ndarray, layout: str, rate: int, late_s: float) -> None:
    kind = stream.codec_context.format.name if stream.codec_context.format else "fltp"
    resampler = av.AudioResampler(format=kind, layout=layout, rate=rate)
    for at in range(0, wave.shape[1], RATE):
        part = np.ascontiguousarray(wave[:, at : at + RATE], np.float32)
        frame = av.AudioFrame.from_ndarray(part, format="fltp", layout=layout)
        frame.rate, frame.time_base = RATE, Fraction(1, RATE)
        frame.pts = at + round(late_s * RATE)
        for piece in resampler.resample(frame):
            out.mux(stream.encode(piece))
    for piece in resampler.resample(None):
        out.mux(stream.encode(piece))
    out.mux(stream.encode(None))
