"""An export that came back, held against the settings sheet it was to be made by.

Editing programs silently put other settings back when one is changed; the file tells which.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ..declared import Declaration, TraitValue
from ..promised import trait_by_name
from ..promised.planning import Setting, Sheet
from ..promised.planning.sheet import STATED
from .equivalence import equivalent
from .evidence import specified
from .model import BENT, KEPT, LOST, Survival

AS_SET, OTHERWISE, SILENT = "as set", "otherwise", "not told"
RATE_SHARE = 0.5
"""By how much a bit rate may miss its setting: variable rates wander (common practice)."""


@dataclass(frozen=True, slots=True)
class SettingCheck:
    """One setting of the sheet and what came back.

    state: as set, otherwise, or not told by the file. found: in words. like_master: whether it
    came back as the master has it, so that the setting was not made at all.
    """

    setting: Setting
    state: str
    found: str = ""
    like_master: bool = False


@dataclass(frozen=True, slots=True)
class Came:
    """What came back, and the master that it was made from."""

    export: Declaration
    master: Declaration
    survival: Survival | None


Found = tuple[str, str]
"""State, and what was found in words."""


def check_settings(
    sheet: Sheet, export: Declaration, master: Declaration, survival: Survival | None = None
) -> tuple[SettingCheck, ...]:
    """Return every setting of the sheet that a file can tell, and what came back."""
    came = Came(export, master, survival)
    return tuple(_checked(setting, came) for setting in sheet.settings if setting.fact)


def _checked(setting: Setting, came: Came) -> SettingCheck:
    state, found = _found(setting, came)
    as_master = False
    if state == OTHERWISE:
        as_master = _found(setting, Came(came.master, came.master, None))[1] == found
    return SettingCheck(setting, state, found, as_master)


def _found(setting: Setting, came: Came) -> Found:
    reader = READERS.get(setting.fact)
    return reader(setting.wanted, came) if reader else _trait(setting, came)


def _trait(setting: Setting, came: Came) -> Found:
    """Return what both witnesses say; where they differ, players choose differently."""
    trait = trait_by_name(setting.fact)
    stream, wrapper = came.export.stream, came.export.wrapper
    said = [specified(stream, setting.fact, wrapper), specified(wrapper, setting.fact, stream)]
    spoken = [value for value in said if value is not None]
    if trait is None or not spoken:
        return _silence(setting)
    words = " and ".join(dict.fromkeys(trait.show(value) for value in spoken))
    if setting.wanted == STATED:
        return AS_SET, words
    wanted = _frozen(setting.wanted)
    right = all(value == wanted or equivalent(setting.fact, value, wanted) for value in spoken)
    return (AS_SET if right else OTHERWISE), words


def _silence(setting: Setting) -> Found:
    """Return what silence means: square samples go without saying, all else must be stated."""
    if setting.fact == "pixel_aspect":
        return (AS_SET if setting.wanted == [1, 1] else OTHERWISE), "1:1 by silence"
    if setting.fact in ("scan", "range", "bit_depth", "chroma", "raster", "frame_rate"):
        return SILENT, ""
    return OTHERWISE, "not stated"


def _frozen(value: Any) -> TraitValue:
    return tuple(value) if isinstance(value, list) else value


def _equal(words: str, *, right: bool) -> Found:
    return (AS_SET if right else OTHERWISE), words


def _video(name: str) -> Callable[[Any, Came], Found]:
    def read(wanted: Any, came: Came) -> Found:
        value = getattr(came.export.video, name)
        return _equal(str(value), right=value == wanted) if value is not None else (SILENT, "")

    return read


def _wrapper(wanted: Any, came: Came) -> Found:
    wrapper = came.export.file.wrapper
    return _equal(wrapper, right=wrapper in wanted)


def _frames(wanted: Any, came: Came) -> Found:
    count = came.export.video.frame_count
    return _equal(f"{count} frames", right=count == wanted) if count else (SILENT, "")


def _bit_rate(wanted: Any, came: Came) -> Found:
    """Return the bit rate found; only more than was asked proves another setting."""
    rate = came.export.video.bit_rate
    if not rate:
        return SILENT, ""
    words = f"{rate / 1e6:.3g} Mb/s"
    if rate > wanted * (1 + RATE_SHARE):
        return OTHERWISE, words
    return (AS_SET if rate >= wanted * (1 - RATE_SHARE) else SILENT), words


def _index_first(wanted: Any, came: Came) -> Found:
    first = came.export.file.index_first
    if first is None:
        return SILENT, ""
    return _equal("first" if first else "last", right=first == wanted)


def _most_bytes(wanted: Any, came: Came) -> Found:
    size = came.export.file.size_bytes
    return _equal(f"{size / 1e6:.1f} MB", right=size <= wanted)


def _sound_codec(wanted: Any, came: Came) -> Found:
    audio = came.export.audio
    if not audio:
        return OTHERWISE, "no sound"
    codec = audio[0].codec or ""
    return _equal(codec, right=codec.startswith(wanted))


def _sound_form(wanted: Any, came: Came) -> Found:
    audio = came.export.audio
    if not audio or not audio[0].sample_rate_hz:
        return SILENT, ""
    found = [audio[0].sample_rate_hz, audio[0].channels]
    return _equal(f"{found[0]} Hz, {found[1]} channels", right=found == wanted)


def _judged(trait: str) -> Callable[[Any, Came], Found]:
    """Return a reader of what only comparing shows: the trait's verdict."""

    def read(_wanted: Any, came: Came) -> Found:
        verdicts = came.survival.verdicts if came.survival else ()
        verdict = next((v for v in verdicts if v.trait == trait), None)
        if verdict is None or verdict.verdict not in (KEPT, BENT, LOST):
            return SILENT, ""
        return _equal(verdict.why, right=verdict.verdict == KEPT)

    return read


READERS: dict[str, Callable[[Any, Came], Found]] = {
    "codec": _video("codec"),
    "profile": _video("profile"),
    "wrapper": _wrapper,
    "frames": _frames,
    "bit_rate": _bit_rate,
    "index_first": _index_first,
    "most_bytes": _most_bytes,
    "sound_codec": _sound_codec,
    "sound_form": _sound_form,
    **{name: _judged(name) for name in ("framing", "loudness", "true_peak", "loudness_range")},
}
"""Facts that are no traits → how they are read."""
