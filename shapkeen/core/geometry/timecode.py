"""Times as editors write them: h:mm:ss:ff, counting whole frames, none dropped.

Source: SMPTE ST 12-1, non-drop-frame counting: 24000/1001 counts 24 frames to the second.
"""

from fractions import Fraction


def timecode_of(frame: int, rate: Fraction) -> str:
    """Return the time of a frame counted from 0, as h:mm:ss:ff."""
    seconds, rest = divmod(frame, counted(rate))
    return f"{seconds // 3600}:{seconds // 60 % 60:02}:{seconds % 60:02}:{rest:02}"


def frame_of(text: str, rate: Fraction) -> int:
    """Return the frame at a time such as 1:02:11, read from its end as frames, seconds, minutes.

    Raises ValueError where it is no such time, with what would be one.
    """
    parts = text.strip().split(":")
    if not 1 <= len(parts) <= 4 or not all(part.isdecimal() and len(part) < 8 for part in parts):
        raise ValueError(f"{text!r} is no time; write h:mm:ss:ff, or a number of frames")
    hours, minutes, seconds, frames = (0,) * (4 - len(parts)) + tuple(map(int, parts))
    if len(parts) > 1 and frames >= counted(rate):
        raise ValueError(f"{text!r} counts {frames} frames; a second has {counted(rate)}")
    return ((hours * 60 + minutes) * 60 + seconds) * counted(rate) + frames


def counted(rate: Fraction) -> int:
    """Return how many frames are counted to a second: the rate, rounded."""
    return max(round(rate), 1)
