"""The nouns of this room. All frozen and plain, so that they can be stored and drawn.

Code values are on the 10-bit scale throughout ("codes"), whatever the file's depth.
"""

from .detail import HEALTHY_TRANSFER, DetailCurve, DetailFindings, DetailFit
from .eyes import ParallaxUse, StereoFindings, StereoMoment, ViewShift
from .file import (
    CHROMATICITY_BINS,
    CHROMATICITY_TOP,
    VECTOR_BINS,
    Bars,
    CodeUse,
    ColourUse,
    Damage,
    FileSurvey,
    GamutUse,
    LightLevels,
)
from .light import (
    MOVED_CODES,
    WAVE_COLUMNS,
    WAVE_LEVELS,
    Act,
    ActFit,
    DepthUse,
    Fit,
    FoldFindings,
    Misplaced,
    ToneFindings,
    WavePair,
)
from .pair import (
    SURVEY_FORM,
    Astray,
    Difference,
    FrameLikeness,
    FramePair,
    LikenessSummary,
    PairSurvey,
    Registration,
)
from .reading import DEFAULT_FRAMES, Move, Progress, Reading, Repacking, Source, coding_of
from .sphere import Horizon, SphereEnlargements, SphereFindings, SphereMoment, SphereSigns
from .time import TimeEvent, TimeFindings

__all__ = [
    "CHROMATICITY_BINS",
    "CHROMATICITY_TOP",
    "DEFAULT_FRAMES",
    "HEALTHY_TRANSFER",
    "MOVED_CODES",
    "SURVEY_FORM",
    "VECTOR_BINS",
    "WAVE_COLUMNS",
    "WAVE_LEVELS",
    "Act",
    "ActFit",
    "Astray",
    "Bars",
    "CodeUse",
    "ColourUse",
    "Damage",
    "DepthUse",
    "DetailCurve",
    "DetailFindings",
    "DetailFit",
    "Difference",
    "FileSurvey",
    "Fit",
    "FoldFindings",
    "FrameLikeness",
    "FramePair",
    "GamutUse",
    "Horizon",
    "LightLevels",
    "LikenessSummary",
    "Misplaced",
    "Move",
    "PairSurvey",
    "ParallaxUse",
    "Progress",
    "Reading",
    "Registration",
    "Repacking",
    "Source",
    "SphereEnlargements",
    "SphereFindings",
    "SphereMoment",
    "SphereSigns",
    "StereoFindings",
    "StereoMoment",
    "TimeEvent",
    "TimeFindings",
    "ToneFindings",
    "ViewShift",
    "WavePair",
    "coding_of",
]
