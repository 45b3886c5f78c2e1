"""Times as editors write them: h:mm:ss:ff, counting whole frames, none dropped.

Source: SMPTE ST 12-1, non-drop-frame counting: 24000/1001 counts 24 frames to the second.
"""

from dataclasses import dataclass
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


@dataclass(frozen=True, slots=True)
class StartTimecode:
    """The timecode of a file's first frame, as the file states it.

    frame: frames counted since 00:00:00:00. counted: frames to the second, a whole number.
    drop_frame: whether numbers are left out so that a clock of 30000/1001 frames stays true.
    """

    frame: int
    counted: int
    drop_frame: bool = False

    def at(self, frame: int) -> str:
        """Return the timecode of a frame of the file, counted from 0, as hh:mm:ss:ff.

        With a semicolon before the frames where numbers are dropped (SMPTE ST 12-1, 30 and 60
        frames: the first two or four of each minute, but of every tenth).
        """
        number = self.frame + frame
        number += _dropped(number, self.counted) if self.drop_frame else 0
        seconds, rest = divmod(number, self.counted)
        mark = ";" if self.drop_frame else ":"
        wide = len(str(self.counted - 1))
        clock = f"{seconds // 3600 % 24:02}:{seconds // 60 % 60:02}:{seconds % 60:02}"
        return f"{clock}{mark}{rest:0{max(wide, 2)}}"


def _dropped(frame: int, counted: int) -> int:
    """Return how many numbers were left out before a frame."""
    each = counted // 15  # two of 30, four of 60
    minute = counted * 60 - each
    ten_minutes = minute * 10 + each
    tens, rest = divmod(frame, ten_minutes)
    return each * (9 * tens + max(rest - each, 0) // minute)
