"""What containers say, in their own fields. Never looks into coded headers."""

from .detect import outline_wrapper, read_wrapper
from .model import WrapperReading

__all__ = ["WrapperReading", "outline_wrapper", "read_wrapper"]
