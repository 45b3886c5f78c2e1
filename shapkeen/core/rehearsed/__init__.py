"""What receivers and viewers make of a file. For now: viewers' screens, for looking at stills.

`stills.render_still`, `heat.render_difference` and `probe.probe_moment` are imported from their
modules, for they bring the decoder along.
"""

from ..colour.codepoints import HDR_TRANSFERS

LIGHT_VIEWS = ("steps", "outside709", "outsidep3", "abovepeak", "belowblack")
"""Ways of looking that show light and gamut in place of a screen."""
HDR_DISPLAYS = ("toned", "peak600", "peak300", "plain", *LIGHT_VIEWS)
SDR_DISPLAYS = ("plain", "gamma22", "gamma196", "steps", "belowblack")
DISPLAYS = (
    *("plain", "toned", "peak600", "peak300", "gamma22", "gamma196"),
    *LIGHT_VIEWS,
)
"""Simulated displays; screen.py says what each of them shows."""
DISPLAY_WORDS = {
    "plain": "a screen that ignores tags",
    "toned": "a reference display, tone-mapped",
    "peak600": "a 600 cd/m² screen",
    "peak300": "a 300 cd/m² screen",
    "gamma22": "a player that assumes 2.2",
    "gamma196": "a player that assumes 1.96",
    "steps": "light in steps of cd/m²",
    "outside709": "only what BT.709 has not",
    "outsidep3": "only what P3 has not",
    "abovepeak": "only above the mastering peak",
    "belowblack": "only below black",
}


def displays_for(transfer: object) -> tuple[str, ...]:
    """Return the simulated displays for a picture of a transfer function, the reference first."""
    return HDR_DISPLAYS if transfer in HDR_TRANSFERS else SDR_DISPLAYS


def display_words(name: str, *, is_hdr: bool) -> str:
    """Return what a simulated display is called; SDR suits this screen as it is."""
    return "a reference display" if name == "plain" and not is_hdr else DISPLAY_WORDS[name]
