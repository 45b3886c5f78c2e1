"""What containers say in their own fields. Never looks into coded picture headers."""

from .detect import read_wrapper
from .model import WrapperReading

__all__ = ["WrapperReading", "read_wrapper"]
