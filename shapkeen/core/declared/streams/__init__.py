"""What coded picture headers say of themselves. Never looks at boxes."""

from .model import StreamReading
from .reader import read_stream

__all__ = ["StreamReading", "read_stream"]
