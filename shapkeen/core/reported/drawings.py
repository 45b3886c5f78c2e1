"""Which drawing proves a trait's verdict: trait name → what draws it."""

from collections.abc import Callable, Mapping

from ..colour.coding import Coding
from ..declared import TraitValue
from ..geometry.parallax import Screen
from ..judged import Comparison, plan_reading, promised_coding, tolerances
from ..judged.evidence import Evidence, is_full_range, tone_act
from ..judged.geometry import aspect_of, promised_bars, promised_crop, shown_ratio
from ..measured.model import coding_of
from ..promised import Trait
from .figures.broken import broken_figure
from .figures.detail import detail_figure
from .figures.eyes import eyes_figure
from .figures.gamut import gamut_figure
from .figures.light import light_figure
from .figures.shape import ShownPicture, shape_figure
from .figures.sphere import sphere_figure
from .figures.time import time_figure
from .figures.tone import tone_figure
from .figures.vector import vector_figure
from .figures.wave import wave_figure
from .hearing import loudness_drawn, sync_drawn

Drawn = tuple[str, str]
"""The drawing as SVG and its caption; both empty where there is nothing to draw."""
NOTHING: Drawn = ("", "")
SCREEN = Screen(width_mm=1220, distance_mm=2500)
"""An ordinary screen of 55 inches at home, until another one is chosen."""


def drawing_of(comparison: Comparison, trait: Trait) -> Drawn:
    """Return the drawing that proves a trait's verdict, and its caption; empty where none does."""
    name = DRAWN_BY.get(trait.name)
    return DRAWERS[name](comparison) if name else NOTHING


def _tone(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    if survey.tone is None:
        return NOTHING
    act = tone_act(survey)
    drawn = tone_figure(
        survey.tone,
        act=act.act if act else "identity",
        full_range=is_full_range(comparison.master),
    )
    return drawn, f"{survey.tone.blocks} flat blocks of {len(survey.pairs)} frames"


def _wave(comparison: Comparison) -> Drawn:
    if comparison.survey.wave is None:
        return NOTHING
    own = coding_of(plan_reading(comparison.master))
    coding: Coding = promised_coding(comparison.promise, comparison.master) or own
    drawn = wave_figure(comparison.survey.wave, coding)
    return drawn, "the frame that differs most; lines: black and white of limited range"


def _light(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    if survey.export_light is None:
        return NOTHING
    drawn = light_figure(
        survey.export_light,
        master=survey.master_statistics.light,
        promised_nits=_part(comparison.promise.value("content_light"), "max_cll"),
        peak_nits=_part(comparison.promise.value("mastering_display"), "max"),
    )
    return drawn, f"light of all {survey.export_statistics.frames} frames; thin: the master's"


def _gamut(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    master, export = survey.master_statistics.colours, survey.export_statistics.colours
    if master is None or export is None:
        return NOTHING
    return gamut_figure(master, export), _all_frames(comparison)


def _vector(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    master, export = survey.master_statistics.colours, survey.export_statistics.colours
    if master is None or export is None:
        return NOTHING
    matrix = comparison.promise.value("matrix")
    drawn = vector_figure(
        master,
        export,
        matrix=matrix if isinstance(matrix, int) else 1,
        full_range=is_full_range(comparison.master),
    )
    return drawn, _all_frames(comparison)


def _all_frames(comparison: Comparison) -> str:
    return f"colours of all {comparison.survey.export_statistics.frames} frames of the export"


def _detail(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    if survey.detail is None:
        return NOTHING
    drawn = detail_figure(survey.detail, size=survey.export_raster)
    return drawn, "structure that came through, from coarse to finest; dashed: all of it"


def _sphere(comparison: Comparison) -> Drawn:
    found = comparison.survey.sphere
    if found is None:
        return NOTHING
    drawn = sphere_figure(found, tolerances.SEAM_RATIO)
    return drawn, f"the seam behind the viewer and both poles made large, frame {found.worst_frame}"


def _eyes(comparison: Comparison) -> Drawn:
    found = comparison.survey.eyes
    if found is None or not found.moments:
        return NOTHING
    drawn = eyes_figure(found.moments, SCREEN)
    return drawn, (
        f"parallax, and the comfort zone of a screen {SCREEN.width_mm / 1000:g} m wide seen from "
        f"{SCREEN.distance_mm / 1000:g} m (1°, common practice); thin: the master's"
    )


def _time(comparison: Comparison) -> Drawn:
    timing = comparison.survey.timing
    if timing is None:
        return NOTHING
    return time_figure(timing), "each frame of the export beside its own of the master"


def _broken(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    sides = survey.export_statistics, survey.master_statistics
    export, master = (side.damage.stretches for side in sides)
    if not export and not master:
        return NOTHING
    frames = max(survey.export_frames or 1, survey.master_frames or 1)
    drawn = broken_figure(frames, export, master)
    return drawn, "frames from a broken picture to the next that needs no other"


def _shape(comparison: Comparison) -> Drawn:
    survey = comparison.survey
    place = survey.registration
    if place is None:
        return NOTHING
    width, height = survey.export_raster
    h, v = aspect_of(comparison.export)
    promised = comparison.promise.value("shown_shape")
    ratio = promised if isinstance(promised, int | float) else width / height
    evidence = Evidence(comparison.promise, comparison.master, comparison.export, survey)
    delivered_ratio = width * h / v / height
    drawn = shape_figure(
        _promised(evidence, ratio),
        ShownPicture(
            f"delivered {width}×{height}, pixel aspect {h}:{v}, {delivered_ratio:.2f}:1",
            delivered_ratio,
            left=place.left / width,
            top=place.top / height,
            width=place.width / width,
            height=place.height / height,
        ),
        circle=shown_ratio(evidence) or 1.0,
    )
    return drawn, "promised and delivered, as shown"


def _promised(evidence: Evidence, ratio: float) -> ShownPicture:
    """Return the promised frame, the master's picture lying in it as promised."""
    x, y, wide, high = promised_crop(evidence)
    across, down = evidence.survey.master_raster if evidence.survey else (wide, high)
    bars, raster = promised_bars(evidence), evidence.promise.value("raster")
    columns, lines = raster if isinstance(raster, tuple) else (1, 1)
    first, top = bars["left"] / columns, bars["top"] / lines
    share = 1 - first - bars["right"] / columns, 1 - top - bars["bottom"] / lines
    return ShownPicture(
        f"promised {ratio:.2f}:1",
        ratio,
        left=first - x / wide * share[0],
        top=top - y / high * share[1],
        width=across / wide * share[0],
        height=down / high * share[1],
    )


def _part(value: TraitValue | None, key: str) -> float | None:
    found = value.get(key) if isinstance(value, Mapping) else None
    return float(found) if isinstance(found, int | float) and found else None


DRAWERS: Mapping[str, Callable[[Comparison], Drawn]] = {
    "tone": _tone,
    "wave": _wave,
    "light": _light,
    "gamut": _gamut,
    "vector": _vector,
    "shape": _shape,
    "detail": _detail,
    "sphere": _sphere,
    "eyes": _eyes,
    "time": _time,
    "broken": _broken,
    "sound": loudness_drawn,
    "sync": sync_drawn,
}
"""Drawings by name; explained.py says how each is read."""
DRAWN_BY: Mapping[str, str] = {
    "tone": "tone",
    "transfer": "tone",
    "range": "wave",
    "content_light": "light",
    "mastering_display": "light",
    "gamut": "gamut",
    "primaries": "gamut",
    "matrix": "vector",
    "chroma": "vector",
    "shown_shape": "shape",
    "pixel_aspect": "shape",
    "framing": "shape",
    "raster": "shape",
    "detail": "detail",
    "projection": "sphere",
    "sphere_front": "sphere",
    "sphere_seam": "sphere",
    "stereo": "eyes",
    "eye_height": "eyes",
    "convergence": "eyes",
    "parallax": "eyes",
    "frames": "time",
    "frame_rate": "time",
    "intact": "broken",
    "sound": "sound",
    "sound_sync": "sync",
    "sound_length": "sound",
    "loudness": "sound",
    "loudness_range": "sound",
    "true_peak": "sound",
}
"""Trait → the drawing that proves its verdict."""
