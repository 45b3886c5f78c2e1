"""How each kind of trait is judged: rule name → function from evidence to ruling."""

from collections.abc import Callable

from ..evidence import Evidence
from ..model import Ruling
from . import (
    aperture,
    carriage,
    colour,
    detail,
    eyes,
    light,
    loudness,
    shape,
    sound,
    sphere,
    tag,
    time,
    tone,
)

Rule = Callable[[Evidence, str], Ruling]

RULES: dict[str, Rule] = {
    "transfer": light.judge_transfer,
    "alternative_transfer": light.judge_alternative_transfer,
    "tone": tone.judge_tone,
    "range": light.judge_range,
    "bit_depth": light.judge_bit_depth,
    "mastering_display": light.judge_mastering_display,
    "content_light": light.judge_content_light,
    "colour_code": colour.judge_colour_code,
    "gamut": colour.judge_gamut,
    "chroma": colour.judge_chroma,
    "raster": shape.judge_raster,
    "pixel_aspect": shape.judge_pixel_aspect,
    "shown_shape": shape.judge_shown_shape,
    "framing": shape.judge_framing,
    "scan": shape.judge_scan,
    "clean_aperture": aperture.judge_clean_aperture,
    "detail": detail.judge_detail,
    "frame_rate": time.judge_frame_rate,
    "frames": time.judge_frames,
    "sound": sound.judge_sound,
    "sound_sync": sound.judge_sync,
    "sound_length": sound.judge_length,
    "sound_channels": sound.judge_channels,
    "sound_sampling": sound.judge_sampling,
    "loudness": loudness.judge_loudness,
    "loudness_range": loudness.judge_loudness_range,
    "true_peak": loudness.judge_true_peak,
    "sound_language": sound.judge_language,
    "intact": carriage.judge_intact,
    "index_first": carriage.judge_index_first,
    "level": carriage.judge_level,
    "tag": tag.judge_tag,
    "projection": sphere.judge_projection,
    "projection_bounds": sphere.judge_bounds,
    "pose": sphere.judge_pose,
    "sphere_front": sphere.judge_front,
    "sphere_seam": sphere.judge_seam,
    "stereo": eyes.judge_stereo,
    "eye_height": eyes.judge_eye_height,
    "eye_size": eyes.judge_eye_size,
    "convergence": eyes.judge_convergence,
    "parallax": eyes.judge_parallax,
    "eye_colour": eyes.judge_eye_colour,
    "eye_sharpness": eyes.judge_eye_sharpness,
    "eye_time": eyes.judge_eye_time,
}

__all__ = ["RULES", "Rule"]
