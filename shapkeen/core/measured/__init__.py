"""What the pixels show: decoding, pairing, and measures of light, tone, shape and detail."""

from .model import (
    Bars,
    CodeUse,
    DepthUse,
    Difference,
    Fit,
    FramePair,
    LightLevels,
    PairSurvey,
    Reading,
    Registration,
    Source,
    ToneFindings,
)
from .survey import survey_pair

__all__ = [
    "Bars",
    "CodeUse",
    "DepthUse",
    "Difference",
    "Fit",
    "FramePair",
    "LightLevels",
    "PairSurvey",
    "Reading",
    "Registration",
    "Source",
    "ToneFindings",
    "survey_pair",
]
