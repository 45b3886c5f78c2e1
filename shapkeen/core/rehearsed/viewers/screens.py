"""Simulated screens: size, distance, light, and what they cannot do. Sizes: common practice."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal, Protocol

from ...geometry.framing import Size

Kind = Literal["flat", "headset", "glasses"]
MOST_LINES = 4320
LEAST_PEAK, MOST_PEAK = 300, 4000
"""Of HDR screens that can be chosen, in cd/m²."""
VIEW_DEG = 90.0
"""Across what a headset shows, and across the window that flat screens cut out of a sphere."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Screen:
    """One screen and its viewer.

    raster: its samples. width_m, distance_m: of the panel and of the eye before it; of a headset
    none. peak_nits: None for SDR screens. follows_tags: whether it looks at what the file says of
    light. most_lines: the largest rendition that it asks for. fills: how much of the picture may be
    cut off, as a share of a side, so that no bars are left.
    """

    key: str
    name: str
    raster: Size
    width_m: float = 0.0
    distance_m: float = 0.0
    peak_nits: int | None = None
    follows_tags: bool = True
    most_lines: int | None = None
    fills: float = 0.0
    kind: Kind = "flat"

    @property
    def is_hdr(self) -> bool:
        """Return whether it shows HDR."""
        return self.peak_nits is not None

    def with_peak(self, peak_nits: int) -> "Screen":
        """Return an HDR screen of another peak, as bright as there are; others stay as they are."""
        if not self.is_hdr:
            return self
        return replace(self, peak_nits=min(max(peak_nits, LEAST_PEAK), MOST_PEAK))


SCREENS = (
    Screen(
        key="phone-upright",
        name="phone, upright",
        raster=(1170, 2532),
        width_m=0.065,
        distance_m=0.33,
        peak_nits=800,
        most_lines=1080,
        fills=0.2,
    ),
    Screen(
        key="phone-turned",
        name="phone, turned",
        raster=(2532, 1170),
        width_m=0.141,
        distance_m=0.33,
        peak_nits=800,
        most_lines=1080,
    ),
    Screen(key="plain", name="plain screen", raster=(1920, 1080), width_m=0.53, distance_m=0.6),
    Screen(key="wide", name="wide screen", raster=(3440, 1440), width_m=0.80, distance_m=0.75),
    Screen(
        key="hdr",
        name="HDR screen",
        raster=(3840, 2160),
        width_m=1.43,
        distance_m=2.6,
        peak_nits=1000,
    ),
    Screen(
        key="old",
        name="old SDR screen",
        raster=(1366, 768),
        width_m=0.34,
        distance_m=0.5,
        follows_tags=False,
        most_lines=720,
    ),
    Screen(key="headset", name="headset", raster=(1920, 1920), kind="headset"),
    Screen(
        key="glasses",
        name="coloured glasses",
        raster=(1920, 1080),
        width_m=0.53,
        distance_m=0.6,
        kind="glasses",
    ),
)


def screen_named(key: str) -> Screen:
    """Return a screen; raises KeyError."""
    return {screen.key: screen for screen in SCREENS}[key]


class Offered(Protocol):
    """What is known of a rendition that a screen may choose."""

    @property
    def branch(self) -> str:
        """Return sdr or hdr."""

    @property
    def lines(self) -> int:
        """Return its lines."""

    @property
    def arrives_s(self) -> float:
        """Return after how many seconds it is there."""


def rendition_for(screen: Screen, offered: Sequence[Offered], at_s: float) -> int | None:
    """Return which rendition a screen shows at a time; None where none is there yet.

    HDR where the screen can and there is any; of these the smallest that has the screen's lines,
    else the largest; of equal ones the latest, which the service prefers.
    """
    there = [(place, one) for place, one in enumerate(offered) if one.arrives_s <= at_s]
    kinds = ("hdr", "sdr") if screen.is_hdr else ("sdr", "hdr")
    for branch in kinds:
        fitting = [(place, one) for place, one in there if one.branch == branch]
        if fitting:
            return _largest_needed(screen, fitting)
    return None


def _largest_needed(screen: Screen, fitting: Sequence[tuple[int, Offered]]) -> int:
    wanted = min(*screen.raster, screen.most_lines or MOST_LINES)
    enough = [one.lines for _, one in fitting if one.lines >= wanted]
    lines = min(enough) if enough else max(one.lines for _, one in fitting)
    return max((one for one in fitting if one[1].lines == lines), key=lambda one: one[1].arrives_s)[
        0
    ]
