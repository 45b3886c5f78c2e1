"""The whole way for one pair of files: declared → promised → measured → judged."""

from .judgement import judge_survey
from .pair import SurveyedPair, compare_files, survey_files
from .state import FileState, state_of, survey_key

__all__ = [
    "FileState",
    "SurveyedPair",
    "compare_files",
    "judge_survey",
    "state_of",
    "survey_files",
    "survey_key",
]
