"""Stand-ins as JSON: read with care, so that a fault is told with its place."""

import json
import re
from collections.abc import Iterator
from pathlib import Path

from ...colour.codepoints import HDR_TRANSFERS
from ...colour.cube_file import read_cube
from ...colour.tone_maps import TONE_MAPS
from ...cured.versions.encoders import SPEEDS, encoder_of
from ...errors import UnreadableFileError, UsageError
from ...promised.json_text import strict_converter, structured
from ...promised.specification import KEY, NUMBERS, WRAPPERS
from .model import AS_SENT, TRAITS, Rung, StandIn, Value

SCHEMA = "shapkeen.stand-in/1"
SHIPPED = Path(__file__).with_name("shipped")
MAX_FILE_BYTES = 4 * 1024 * 1024
"""A table of 65³ as text takes most of it."""
LADDER_CODECS = ("h264", "h265", "vp9", "av1")
TEN_BITS = ("h265", "av1")
LEAST_LINES, MOST_LINES = 96, 4320
MOST_STAGES, MOST_STEPS = 12, 32
LEAST_BITS, MOST_BITS = 20_000, 500_000_000
MOST_DELAY_S = 30 * 24 * 3600.0
RATIOS = ("shape", "least_shape", "most_shape", "most_rate", "least_raster", "most_raster")


def _value(value: object, _kind: object) -> Value:
    if isinstance(value, list) and len(value) == 2 and all(type(one) is int for one in value):
        return (value[0], value[1])
    if value is None or isinstance(value, str) or type(value) is int:
        return value
    raise TypeError(f"{value!r} is no value of a trait")


_CONVERTER = strict_converter()
_CONVERTER.register_structure_hook(Value, _value)


def _refuse(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-stand-in", where=where)


def stand_in_from_json(text: str) -> StandIn:
    """Return the stand-in in a JSON text; raises UsageError saying what is wrong where."""
    made, _ = structured(
        text, StandIn, _CONVERTER, schema=SCHEMA, noun="stand-in", most_bytes=MAX_FILE_BYTES
    )
    for where, fault in _faults(made):
        raise _refuse(fault, where)
    return made


def read_stand_in_file(path: Path) -> StandIn:
    """Return the stand-in in a file; raises UnreadableFileError, UsageError."""
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise UnreadableFileError(
            f"The stand-in cannot be read ({error}).", code="unreadable", where=path.name
        ) from error
    return stand_in_from_json(text)


def _faults(made: StandIn) -> Iterator[tuple[str, str]]:
    yield from _broken_name(made)
    yield from _broken_door(made)
    yield from _broken_beliefs(made)
    yield from _broken_stages(made)
    for number, rung in enumerate(made.ladder):
        yield from _broken_rung(made, rung, f"ladder[{number}]")
    yield from _broken_ways(made)


def _broken_name(made: StandIn) -> Iterator[tuple[str, str]]:
    if not KEY.fullmatch(made.key) or len(made.key) > 60:
        yield "key", "A key is small letters, digits and hyphens, 60 at most."
    if not made.name.strip() or len(made.name) > 80:
        yield "name", "A name has 1 to 80 signs."
    if not 1 <= made.version <= 9999:
        yield "version", "A version is a whole number from 1."


def _broken_door(made: StandIn) -> Iterator[tuple[str, str]]:
    takes = made.takes
    if not takes.wrappers or not set(takes.wrappers) <= WRAPPERS:
        yield "takes.wrappers", f"At least one wrapper, of {', '.join(sorted(WRAPPERS))}."
    if not takes.codecs:
        yield "takes.codecs", "At least one codec must be taken."
    if not takes.light:
        yield "takes.light", "At least one kind of light must be taken: pq, hlg or sdr."
    for name in RATIOS:
        ratio = getattr(takes, name)
        if ratio and not all(0 < side < 2**31 for side in ratio):
            yield f"takes.{name}", f"Both numbers must be above 0; here stands {ratio}."
    for number, rate in enumerate(takes.rates):
        if not all(0 < side < 2**31 for side in rate):
            yield f"takes.rates[{number}]", f"Both numbers must be above 0; here stands {rate}."
    length = takes.length
    if length.least_s and length.most_s and length.least_s > length.most_s:
        yield "takes.length", "The least length is longer than the most."


def _broken_beliefs(made: StandIn) -> Iterator[tuple[str, str]]:
    for trait in TRAITS:
        if trait not in made.believes:
            yield f"believes.{trait}", "It must be said what the service believes of this trait."
    for trait, belief in made.believes.items():
        if trait not in TRAITS:
            yield f"believes.{trait}", f"Services recognise {', '.join(TRAITS)}."
        elif fault := _odd_value(trait, belief.silent):
            yield f"believes.{trait}.silent", fault


def _odd_value(trait: str, value: Value) -> str:
    if trait in ("transfer", "primaries", "matrix"):
        fits, form = type(value) is int and 0 <= value < 256, "a code point of H.273"
    elif trait == "range":
        fits, form = value in ("limited", "full"), "limited or full"
    elif trait == "pixel_aspect":
        fits = isinstance(value, tuple) and min(value) > 0
        form = "two whole numbers above 0"
    elif trait == "rotation":
        fits, form = value in (0, 90, 180, 270), "0, 90, 180 or 270 degrees"
    else:
        fits, form = value is None or isinstance(value, str), "a layout's name, or null"
    return "" if fits else f"Here stands {form}."


def _broken_stages(made: StandIn) -> Iterator[tuple[str, str]]:
    names = [stage.name for stage in made.stages]
    if not made.stages or not made.ladder:
        yield "stages", "A service has at least one stage and one step of its ladder."
    if len(set(names)) < len(names):
        yield "stages", "Two stages have one name."
    if len(made.stages) > MOST_STAGES or len(made.ladder) > MOST_STEPS:
        yield "ladder", f"At most {MOST_STAGES} stages and {MOST_STEPS} steps of the ladder."
    for number, stage in enumerate(made.stages):
        if not 0 <= stage.after_s <= MOST_DELAY_S or not 0 <= stage.times_length <= 1000:
            yield f"stages[{number}]", "A stage comes after 0 s to 30 days."


def _broken_rung(made: StandIn, rung: Rung, where: str) -> Iterator[tuple[str, str]]:
    if rung.stage not in [stage.name for stage in made.stages]:
        yield f"{where}.stage", f"There is no stage {rung.stage!r}."
    if rung.codec == AS_SENT:
        return
    if rung.codec not in LADDER_CODECS or encoder_of(rung.codec) is None:
        yield f"{where}.codec", f"Renditions are {', '.join(LADDER_CODECS)} or {AS_SENT!r}."
    if not LEAST_LINES <= rung.lines <= MOST_LINES:
        yield f"{where}.lines", f"A rendition has {LEAST_LINES} to {MOST_LINES} lines."
    for bits in (rung.bit_rate, rung.bit_rate_fast or rung.bit_rate):
        if not LEAST_BITS <= bits <= MOST_BITS:
            yield f"{where}.bit_rate", "A rendition has 20 kb/s to 500 Mb/s."
    if rung.preset not in SPEEDS:
        yield f"{where}.preset", f"Known are {', '.join(SPEEDS)}."
    if rung.branch == "hdr" and made.hdr is None:
        yield f"{where}.branch", "HDR renditions need an entry hdr."
    if rung.branch == "hdr" and rung.codec not in TEN_BITS:
        yield f"{where}.codec", f"HDR has ten bits; at hand they are {' or '.join(TEN_BITS)}."


def _broken_ways(made: StandIn) -> Iterator[tuple[str, str]]:
    picture = made.picture
    if not 0 <= picture.denoise <= 32:
        yield "picture.denoise", "0 to 32 codes of 8 bits."
    if not 0 <= picture.sharpen <= 3:
        yield "picture.sharpen", "0 to 3 times the fine detail."
    for name in ("crop", "most_rate"):
        ratio = getattr(picture, name)
        if ratio and not all(0 < side < 2**31 for side in ratio):
            yield f"picture.{name}", f"Both numbers must be above 0; here stands {ratio}."
    if made.sdr.tone_map != "BT.2390" and made.sdr.tone_map not in TONE_MAPS:
        yield "sdr.tone_map", f"Known are {', '.join(sorted({'BT.2390', *TONE_MAPS}))}."
    if not 100 <= made.sdr.peak_nits <= 10_000 or not 20 <= made.sdr.white_nits <= 1000:
        yield "sdr", "The peak is 100 to 10 000 cd/m², the white 20 to 1000 cd/m²."
    if made.hdr and made.hdr.transfer not in HDR_TRANSFERS:
        yield "hdr.transfer", "HDR renditions are PQ (16) or HLG (18)."
    if made.sdr.table:
        try:
            read_cube(made.sdr.table)
        except ValueError as error:
            yield "sdr.table", str(error)


def stand_in_to_json(stand_in: StandIn) -> str:
    """Return a stand-in as a file's text; what asks for nothing is left out."""
    data = _kept(_CONVERTER.unstructure(stand_in))
    text = json.dumps({"schema": SCHEMA, **data}, ensure_ascii=False, indent=1) + "\n"
    return NUMBERS.sub(lambda found: f"[{' '.join(found[1].split())}]", re.sub(r"\r", "", text))


def _kept(data: dict[str, object]) -> dict[str, object]:
    """Leave out what is empty; a belief's silence is kept, for it says something."""
    made: dict[str, object] = {}
    for key, value in data.items():
        item = _kept(value) if isinstance(value, dict) else value
        if isinstance(item, list | tuple):
            item = [_kept(one) if isinstance(one, dict) else one for one in item]
        if key == "witnesses" or (item is not None and item not in ([], "", {})):
            made[key] = item
    return made


def shipped_stand_ins() -> tuple[StandIn, ...]:
    """Return the stand-ins that ship with the application, by name."""
    texts = (path.read_text(encoding="utf-8") for path in sorted(SHIPPED.glob("*.json")))
    return tuple(sorted(map(stand_in_from_json, texts), key=lambda one: one.name))


def stand_in_named(name: str) -> StandIn:
    """Return a shipped stand-in by its name or key, or that of a file; raises CoreError."""
    known = shipped_stand_ins()
    wanted = name.casefold()
    found = next((s for s in known if wanted in (s.key, s.name.casefold())), None)
    if found is not None:
        return found
    if name.endswith(".json"):
        return read_stand_in_file(Path(name))
    raise UsageError(
        f"There is no service of that name. Known are {', '.join(s.name for s in known)}; a file "
        "of your own is named with its path, ending in .json.",
        code="unknown-service",
        where="--service",
    )
