"""What the pixels show: decoding, pairing, and measures of light, tone, shape and detail.

The nouns are here; `survey.survey_pair` is imported from its module, for it brings the decoder
and OpenCV along, and pages that only show findings do without those.
"""

from .model import (
    DEFAULT_FRAMES,
    Act,
    ActFit,
    Bars,
    CodeUse,
    ColourUse,
    DepthUse,
    Difference,
    FileSurvey,
    Fit,
    FrameLikeness,
    FramePair,
    GamutUse,
    LightLevels,
    Misplaced,
    PairSurvey,
    Progress,
    Reading,
    Registration,
    Source,
    TimeEvent,
    TimeFindings,
    ToneFindings,
    WavePair,
)

__all__ = [
    "DEFAULT_FRAMES",
    "Act",
    "ActFit",
    "Bars",
    "CodeUse",
    "ColourUse",
    "DepthUse",
    "Difference",
    "FileSurvey",
    "Fit",
    "FrameLikeness",
    "FramePair",
    "GamutUse",
    "LightLevels",
    "Misplaced",
    "PairSurvey",
    "Progress",
    "Reading",
    "Registration",
    "Source",
    "TimeEvent",
    "TimeFindings",
    "ToneFindings",
    "WavePair",
]
