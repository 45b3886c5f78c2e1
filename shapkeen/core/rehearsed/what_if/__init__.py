"""What if it were sent otherwise: larger, with more bits, sharpened, in another codec."""

from .trying import Outcome, try_variants
from .variants import (
    Question,
    Variant,
    estimate_s,
    question_from,
    question_object,
    variants_of,
)
from .worth import Worth, worth_of

__all__ = [
    "Outcome",
    "Question",
    "Variant",
    "Worth",
    "estimate_s",
    "question_from",
    "question_object",
    "try_variants",
    "variants_of",
    "worth_of",
]
