"""From linear light to coded files: planes of code values, and encoding with PyAV."""

from collections.abc import Iterable
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..core.colour import hlg, pq
from ..core.colour.matrix import ycbcr_from_rgb
from ..core.colour.primaries import between
from ..core.colour.quantisation import chroma_zero_span, luma_offset_span
from ..core.colour.sdr import bt1886_signal_from_light
from .canvas import Real
from .flags import flag_layout
from .recipes import Recipe
from .ticking import Wave, add_stream, coded

Codes = npt.NDArray[np.uint16]
Planes = tuple[Codes, Codes, Codes]
"""Y, Cb, Cr; chroma at half width and height (4:2:0)."""


def pq_signal(light: Real) -> Real:
    """Return R'G'B' of a PQ picture in BT.2020 for linear BT.2020 light in cd/m²."""
    return pq.signal_from_light(light).astype(np.float32)


def hlg_signal(light: Real) -> Real:
    """Return R'G'B' of an HLG picture in BT.2020 for display light on 1000 cd/m²."""
    scene = hlg.scene_from_display(light, peak_nits=1000.0)
    return np.clip(hlg.signal_from_scene(scene), 0.0, 1.0).astype(np.float32)


def sdr_signal(light: Real) -> Real:
    """Return R'G'B' of a graded SDR picture: a soft shoulder, BT.709 colours, BT.1886."""
    exposed = np.maximum(light @ between(9, 1).T, 0.0) * 1.6
    rolled = 100.0 * exposed / (exposed + 60.0) * 1.25
    return bt1886_signal_from_light(np.clip(rolled, 0.0, 100.0)).astype(np.float32)


def planes_from_signal(signal: Real, *, matrix: int, depth: int) -> Planes:
    """Return limited-range 4:2:0 code planes of an R'G'B' picture with even sides."""
    ycc = signal @ ycbcr_from_rgb(matrix).T.astype(np.float32)
    black, span = luma_offset_span(depth=depth, full_range=False)
    zero, chroma_span = chroma_zero_span(depth=depth, full_range=False)
    height, width = signal.shape[:2]
    halves = (width // 2, height // 2)
    quarters = cv2.resize(ycc[..., 1:], halves, interpolation=cv2.INTER_AREA)
    luma = np.floor(ycc[..., 0] * span + black + 0.5)
    chroma = np.floor(quarters * chroma_span + zero + 0.5)
    top = (1 << depth) - 1
    cut = [np.clip(p, 0, top).astype(np.uint16) for p in (luma, chroma[..., 0], chroma[..., 1])]
    return cut[0], cut[1], cut[2]


def frame_from_planes(planes: Planes, depth: int) -> VideoFrame:
    """Return a decoder frame holding these planes."""
    height, width = planes[0].shape
    frame = VideoFrame(width, height, "yuv420p10le" if depth == 10 else "yuv420p")
    kind = np.uint16 if depth == 10 else np.uint8
    for plane, codes in zip(frame.planes, planes, strict=True):
        rows = np.zeros((plane.height, plane.line_size // np.dtype(kind).itemsize), dtype=kind)
        rows[:, : codes.shape[1]] = codes
        plane.update(rows.tobytes())
    return frame


def encode(
    path: Path, frames: Iterable[Planes], recipe: Recipe, *, wave: Wave | None = None
) -> None:
    """Write a file beside its goal and rename it, so that no half file is ever found.

    wave: the sound beside the picture; as it is in a MOV, coded elsewhere.
    """
    part = path.with_name(f".{path.stem}.part{path.suffix}")
    flags = {"movflags": "+faststart"} if recipe.index_first else {}
    container = av.open(str(part), "w", options={**flags, **recipe.extra})
    stream: VideoStream | None = None
    sound: Any = None
    for number, planes in enumerate(frames):
        if stream is None:
            added = container.add_stream(recipe.codec, recipe.rate, dict(recipe.options))
            assert isinstance(added, VideoStream)  # noqa: S101  (recipes name video codecs)
            stream = added
            stream.height, stream.width = planes[0].shape
            stream.pix_fmt = "yuv420p10le" if recipe.depth == 10 else "yuv420p"
            context = stream.codec_context
            if recipe.codec == "libx265":
                context.codec_tag = "hvc1"
            if recipe.colour:
                context.color_primaries, context.color_trc = recipe.colour[:2]
                context.colorspace, context.color_range = recipe.colour[2:]
            if recipe.pixel_aspect:
                context.sample_aspect_ratio = recipe.pixel_aspect
            if wave is not None:
                sound = add_stream(container, pcm=path.suffix == ".mov")
        picture = frame_from_planes(planes, recipe.depth)
        picture.pts = number
        container.mux(stream.encode(picture))
    if stream is not None:
        container.mux(stream.encode())
    if sound is not None and wave is not None:
        for packet in coded(sound, wave):
            container.mux(packet)
    container.close()
    flag_layout(part, **recipe.layout)
    part.replace(path)
