"""What this machine's encoders make: one entry a codec, with its profiles, ways and wrappers.

Settings are those of the encoders that the FFmpeg libraries bring; quality numbers are each
encoder's own.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

Options = dict[str, str]
SampleKinds = Mapping[tuple[str, int], str]
"""Chroma sampling and depth → the libraries' name of the samples' format."""

SPEEDS: tuple[str, ...] = (
    *("ultrafast", "superfast", "veryfast", "faster", "fast"),
    *("medium", "slow", "slower", "veryslow"),
)
"""From quick to careful, as several encoders call them."""
USUAL_SPEED = "medium"


@dataclass(frozen=True, slots=True)
class Quality:
    """Constant quality: the best, the worst and the usual number; smaller is better."""

    best: float
    worst: float
    usual: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Encoder:
    """One codec's encoder.

    library: its name in the libraries. profiles: the standard's name → kinds of samples. quality:
    None where the profile sets the size. two_passes: whether it can look at a picture twice.
    options: of a profile and a speed. tag: the four signs in MP4 and MOV, where they are not the
    usual ones. every_frame_whole: no picture needs another. span_wrapper: what holds a span of it.
    least: the smallest raster that it takes.
    """

    codec: str
    library: str
    profiles: Mapping[str, SampleKinds]
    wrappers: tuple[str, ...]
    quality: Quality | None = None
    two_passes: bool = False
    options: Callable[[str, str], Options]
    tag: str = ""
    every_frame_whole: bool = False
    span_wrapper: str = "matroska"
    least: tuple[int, int] = (16, 16)


P420_8, P420_10 = {("4:2:0", 8): "yuv420p"}, {("4:2:0", 10): "yuv420p10le"}
P422_8, P422_10 = {("4:2:2", 8): "yuv422p"}, {("4:2:2", 10): "yuv422p10le"}
P444_10 = {("4:4:4", 10): "yuv444p10le"}


def _h264(profile: str, speed: str) -> Options:
    names = {"High 10": "high10", "High 4:2:2": "high422"}
    return {"profile": names.get(profile, profile.lower()), "preset": speed}


def _h265(_profile: str, speed: str) -> Options:
    return {"preset": speed}


def _av1(_profile: str, speed: str) -> Options:
    return {"preset": str(12 - SPEEDS.index(speed))}


def _vp9(_profile: str, speed: str) -> Options:
    quickest = 8 - SPEEDS.index(speed)
    return {"deadline": "good", "cpu-used": str(min(quickest, 5)), "row-mt": "0"}


def _prores(profile: str, _speed: str) -> Options:
    numbers = {"422 LT": "1", "422": "2", "422 HQ": "3", "4444": "4"}
    return {"profile": numbers[profile]}


def _vc3(profile: str, _speed: str) -> Options:
    return {"profile": f"dnxhr_{profile.lower()}"}


def _ffv1(_profile: str, _speed: str) -> Options:
    return {"level": "3", "slicecrc": "1", "slices": "4", "g": "1"}


ENCODERS = (
    Encoder(
        codec="h264",
        library="libx264",
        profiles={
            "Main": P420_8,
            "High": P420_8,
            "High 10": P420_10,
            "High 4:2:2": P422_8 | P422_10,
        },
        wrappers=("mp4", "mov", "matroska"),
        quality=Quality(0, 51, 18),
        two_passes=True,
        options=_h264,
    ),
    Encoder(
        codec="h265",
        library="libx265",
        profiles={"Main": P420_8, "Main 10": P420_10, "Main 4:2:2 10": P422_10},
        wrappers=("mp4", "mov", "matroska"),
        quality=Quality(0, 51, 18),
        two_passes=True,
        options=_h265,
        tag="hvc1",
    ),
    Encoder(
        codec="av1",
        library="libsvtav1",
        profiles={"Main": P420_8 | P420_10},
        wrappers=("mp4", "matroska", "webm"),
        quality=Quality(1, 63, 24),
        options=_av1,
    ),
    Encoder(
        codec="vp9",
        library="libvpx-vp9",
        profiles={"0": P420_8},
        wrappers=("mp4", "matroska", "webm"),
        quality=Quality(0, 63, 20),
        options=_vp9,
    ),
    Encoder(
        codec="prores",
        library="prores_ks",
        profiles={"422 LT": P422_10, "422": P422_10, "422 HQ": P422_10, "4444": P444_10},
        wrappers=("mov", "matroska", "mxf"),
        options=_prores,
        every_frame_whole=True,
    ),
    Encoder(
        codec="vc3",
        library="dnxhd",
        profiles={"HQ": P422_8, "HQX": P422_10},
        wrappers=("mov", "mxf"),
        options=_vc3,
        every_frame_whole=True,
        span_wrapper="mov",
        least=(256, 120),
    ),
    Encoder(
        codec="ffv1",
        library="ffv1",
        profiles={
            "3": P420_8
            | P420_10
            | P422_8
            | P422_10
            | P444_10
            | {("4:4:4", 8): "yuv444p", ("4:2:0", 12): "yuv420p12le", ("4:2:2", 12): "yuv422p12le"}
        },
        wrappers=("matroska",),
        options=_ffv1,
        every_frame_whole=True,
    ),
)


def encoder_of(codec: str) -> Encoder | None:
    """Return the encoder of a codec; None where this machine has none."""
    return next((one for one in ENCODERS if one.codec == codec), None)


FORMATS = {"mp4": "mp4", "mov": "mov", "matroska": "matroska", "webm": "webm", "mxf": "mxf"}
"""Wrapper → the libraries' multiplexer."""
ENDINGS = {"mp4": ".mp4", "mov": ".mov", "matroska": ".mkv", "webm": ".webm", "mxf": ".mxf"}
SOUND_WRAPPERS = {
    "aac": ("mp4", "mov", "matroska"),
    "pcm": ("mov", "matroska", "mxf"),
    "opus": ("mp4", "matroska", "webm"),
}
COPIED_SOUND = {"webm": ("opus", "vorbis"), "mxf": ("pcm",)}
"""Wrapper → how names of the sound that it takes begin; the others take all that masters have."""
SOUND_LIBRARIES = {"aac": "aac", "pcm": "pcm_s24le", "opus": "libopus"}
