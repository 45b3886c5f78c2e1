"""At the door of a receiving service: whether a file is taken, and for what."""

from .acceptance import Acceptance, accept
from .limits import Finding
from .recognition import Recognised, Recognition, meant_by_promise, recognise

__all__ = [
    "Acceptance",
    "Finding",
    "Recognised",
    "Recognition",
    "accept",
    "meant_by_promise",
    "recognise",
]
