"""AVI files."""

from .chunks import outline_avi, starts_avi
from .reader import read_avi

__all__ = ["outline_avi", "read_avi", "starts_avi"]
