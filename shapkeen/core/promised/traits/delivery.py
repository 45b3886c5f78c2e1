"""What time and carriage must keep."""

from .. import forms
from .trait import CARRIAGE, TIME, Trait

TIMES = (
    Trait(
        name="frame_rate",
        title="Frame rate",
        family=TIME,
        form=forms.RATE,
        unit="frames/s",
        rule="frame_rate",
        meaning="Frames a second. Changed, and movement stutters or sound drifts.",
    ),
    Trait(
        name="frames",
        title="Frames",
        family=TIME,
        form=forms.FRAMES,
        rule="frames",
        declared=False,
        meaning="Whether every frame of the master is there, from the first to the last, or from "
        "a mark in to a mark out.",
    ),
)
CARRIED = (
    Trait(
        name="intact",
        title="Intact",
        family=CARRIAGE,
        form=forms.PLAIN,
        rule="intact",
        declared=False,
        meaning="Whether every coded picture decodes without an error or a guess.",
    ),
    Trait(
        name="level",
        title="Level",
        family=CARRIAGE,
        form=forms.PLAIN,
        rule="level",
        declared=False,
        meaning="What decoders are told to be ready for. Exceeded, and some of them refuse.",
    ),
    Trait(
        name="index_first",
        title="Fast start",
        family=CARRIAGE,
        form=forms.one_of(True, False),
        rule="index_first",
        declared=False,
        meaning="Whether playback can begin before the whole file has arrived.",
    ),
)
