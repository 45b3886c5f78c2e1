"""The nouns of this room. All frozen and plain, so that they can be stored and drawn.

Code values are on the 10-bit scale throughout ("codes"), whatever the file's depth.
"""

from .detail import HEALTHY_TRANSFER, DetailCurve, DetailFindings, DetailFit
from .eyes import EyesFindings, EyeShift, EyesMoment, ParallaxUse
from .file import (
    CHROMATICITY_BINS,
    CHROMATICITY_TOP,
    VECTOR_BINS,
    Bars,
    CodeUse,
    ColourUse,
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
    Misplaced,
    ToneFindings,
    WavePair,
)
from .pair import Astray, Difference, FrameLikeness, FramePair, PairSurvey, Registration
from .reading import DEFAULT_FRAMES, Arrangement, Move, Progress, Reading, Source, coding_of
from .sphere import Horizon, SphereFindings, SphereMoment, SphereSigns, SphereViews
from .time import TimeEvent, TimeFindings

__all__ = [
    "CHROMATICITY_BINS",
    "CHROMATICITY_TOP",
    "DEFAULT_FRAMES",
    "HEALTHY_TRANSFER",
    "MOVED_CODES",
    "VECTOR_BINS",
    "WAVE_COLUMNS",
    "WAVE_LEVELS",
    "Act",
    "ActFit",
    "Arrangement",
    "Astray",
    "Bars",
    "CodeUse",
    "ColourUse",
    "DepthUse",
    "DetailCurve",
    "DetailFindings",
    "DetailFit",
    "Difference",
    "EyeShift",
    "EyesFindings",
    "EyesMoment",
    "FileSurvey",
    "Fit",
    "FrameLikeness",
    "FramePair",
    "GamutUse",
    "Horizon",
    "LightLevels",
    "Misplaced",
    "Move",
    "PairSurvey",
    "ParallaxUse",
    "Progress",
    "Reading",
    "Registration",
    "Source",
    "SphereFindings",
    "SphereMoment",
    "SphereSigns",
    "SphereViews",
    "TimeEvent",
    "TimeFindings",
    "ToneFindings",
    "WavePair",
    "coding_of",
]
