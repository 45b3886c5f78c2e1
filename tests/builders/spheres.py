"""Spheres of photographs: six of them as a cube's faces, laid out by the FFmpeg libraries."""

from collections.abc import Sequence
from functools import lru_cache

import av
import cv2
import numpy as np

from .media import Planes, coded, photograph

FACES = ("astronaut", "coffee", "brick", "rocket", "grass", "chelsea")
OTHERS = ("camera", "coins", "gravel", "coffee", "moon", "page")
SIZE = (768, 384)
FRAMES = 8


def filtered(picture: np.ndarray, options: str) -> np.ndarray:
    """Return an RGB picture as the libraries' spherical filter lays it out."""
    graph = av.filter.Graph()
    height, width = picture.shape[:2]
    source = graph.add_buffer(width=width, height=height, format="gbrp", time_base="1/25")
    steps = [graph.add("v360", options), graph.add("format", "gbrp"), graph.add("buffersink")]
    for one, other in zip([source, *steps], steps, strict=False):
        one.link_to(other)
    graph.configure()
    graph.push(av.VideoFrame.from_ndarray(np.ascontiguousarray(picture), format="gbrp"))
    return graph.pull().to_ndarray(format="gbrp")


def _face(name: str, side: int, moved: float) -> np.ndarray:
    picture = photograph(name)
    if picture.ndim == 2:
        picture = np.repeat(picture[..., None], 3, axis=2)
    height, width = picture.shape[:2]
    room = min(height, width) * 0.9
    left, top = (width - room) * (0.3 + 0.4 * moved), (height - room) * 0.5
    matrix = np.array([[room / side, 0, left], [0, room / side, top]])
    flags = cv2.INTER_AREA | cv2.WARP_INVERSE_MAP
    return cv2.warpAffine(picture[..., :3], matrix, (side, side), flags=flags)


@lru_cache(maxsize=8)
def sphere_frames(
    faces: Sequence[str] = FACES, size: tuple[int, int] = SIZE, count: int = FRAMES
) -> tuple[np.ndarray, ...]:
    """Return sRGB frames 0..1 of a whole sphere; what is ahead and behind moves."""
    side = size[1] // 2
    made = []
    for number in range(count):
        part = number / max(count - 1, 1)
        drawn = [_face(n, side, part if i in (4, 5) else 0.5) for i, n in enumerate(faces)]
        cube = np.vstack([np.hstack(drawn[:3]), np.hstack(drawn[3:])])
        whole = filtered(cube, f"c3x2:e:w={size[0]}:h={size[1]}:interp=cubic")
        made.append(whole.astype(np.float32) / 255)
    return tuple(made)


def sphere_planes(faces: Sequence[str] = FACES, **more: object) -> list[Planes]:
    """Return BT.709 limited-range planes of a whole sphere."""
    return list(_sphere_planes(tuple(faces), **more))


@lru_cache(maxsize=4)
def _sphere_planes(faces: tuple[str, ...], **more: object) -> tuple[Planes, ...]:
    return tuple(coded(frame, matrix=1, depth=8) for frame in sphere_frames(faces, **more))


def through(planes: Sequence[Planes], options: str) -> list[Planes]:
    """Return planes as the spherical filter lays them out, each by itself; sides stay even."""
    made = []
    for item in planes:
        luma, *chroma = (_one(plane, options) for plane in item)
        made.append((luma, *chroma))
    return made


def _one(plane: np.ndarray, options: str) -> np.ndarray:
    three = np.repeat(plane.astype(np.uint8)[..., None], 3, axis=2)
    return filtered(three, options)[..., 1].astype(np.uint16)


def rolled(planes: Sequence[Planes], share: float) -> list[Planes]:
    """Return spheres turned by whole samples."""
    return [tuple(np.roll(p, round(p.shape[1] * share), axis=1) for p in item) for item in planes]


def yawed(planes: Sequence[Planes], degrees: float) -> list[Planes]:
    """Return spheres turned to the right by any angle, by each row's phases (shift theorem)."""

    def turned(plane: np.ndarray) -> np.ndarray:
        waves = np.fft.rfft(plane.astype(np.float64), axis=1)
        phases = np.exp(-1j * np.radians(degrees) * np.arange(waves.shape[1]))
        drawn = np.fft.irfft(waves * phases, plane.shape[1], axis=1)
        return np.clip(np.round(drawn), 0, 255).astype(np.uint16)

    return [tuple(turned(plane) for plane in item) for item in planes]


def cut(planes: Sequence[Planes], *, across: int = 0, down: int = 0) -> list[Planes]:
    """Return planes without so many sixteenths at each side."""
    made = []
    for item in planes:
        parts = []
        for plane in item:
            y, x = plane.shape[0] * down // 16, plane.shape[1] * across // 16
            parts.append(np.ascontiguousarray(plane[y : len(plane) - y, x : plane.shape[1] - x]))
        made.append(tuple(parts))
    return made


def darker_edge(planes: Sequence[Planes], by: float) -> list[Planes]:
    """Return spheres whose left edge is darker by a share, fading out to the right."""
    fade = 1 - by * np.exp(-np.arange(planes[0][0].shape[1]) / 12)
    return [
        (np.clip(16 + (y - 16.0) * fade, 0, 255).astype(np.uint16), cb, cr) for y, cb, cr in planes
    ]


def torn(planes: Sequence[Planes], share: float = 1 / 96) -> list[Planes]:
    """Return spheres whose right half stands lower by a share of the height."""
    made = []
    for item in planes:
        halves = [np.hsplit(plane, 2) for plane in item]
        lower = [np.roll(right, round(len(right) * share), axis=0) for _, right in halves]
        made.append(tuple(np.hstack([left, r]) for (left, _), r in zip(halves, lower, strict=True)))
    return made
