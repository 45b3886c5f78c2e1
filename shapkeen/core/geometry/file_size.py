"""Weight: sizes, bit rates and times. M = 10⁶ and G = 10⁹, as lines and disks are sold.

Source: definitions; its worked examples stand in the tests.
"""

from fractions import Fraction

from .framing import Size

CONTAINER_SHARE = 0.005
"""What a wrapper adds: 0.1 to 1 % (common practice)."""
LINE_EFFICIENCY = 0.9
"""What a line really carries of its stated rate (common practice)."""


def size_bytes(bit_rate: float, seconds: float) -> float:
    """Return bytes of so many bits a second over so many seconds, without a wrapper."""
    return bit_rate * seconds / 8


def most_bit_rate(most_bytes: float, seconds: float) -> float:
    """Return the largest bit rate whose file keeps to a size."""
    return most_bytes * 8 / seconds


def sending_s(count_bytes: float, line_rate: float, efficiency: float = 1.0) -> float:
    """Return seconds to send a file over a line of so many bits a second."""
    return count_bytes * 8 / (line_rate * efficiency)


def bits_a_pixel(bit_rate: float, raster: Size, rate: Fraction) -> float:
    """Return coded bits for each picture sample."""
    return bit_rate / (raster[0] * raster[1] * float(rate))


def encoding_s(frames: int, frames_a_second: float) -> float:
    """Return seconds to encode so many frames at a measured speed."""
    return frames / frames_a_second
