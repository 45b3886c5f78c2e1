"""Reads a track's coded headers: from the configuration record and from the first samples.

H.264 and H.265 are runs of units (below); codecs whose every frame has a header of its own are
tables (prores.py …). `READERS` is the list.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from ...errors import UnreadableFileError
from ..coded import CodedHeaders, HeaderUnit
from ..model import Notice, Said, TraitValue
from . import h264, h265, nal
from .av1 import read_av1
from .bits import BitsEndError
from .model import StreamReading
from .prores import read_prores
from .sei import read_messages
from .vp9 import read_vp9


@dataclass(frozen=True, slots=True)
class Codec:
    """How one codec's units are told apart and read; a new one of its kind is one entry."""

    unit_type: Callable[[bytes], int]
    read_sps: Callable[[bytes], Iterator[tuple[str, TraitValue]]]
    header_bytes: int
    sps_type: int
    sei_types: frozenset[int]
    slices: range


CODECS = {
    "h264": Codec(
        unit_type=h264.unit_type,
        read_sps=h264.read_sps,
        header_bytes=h264.HEADER_BYTES,
        sps_type=h264.NAL_SPS,
        sei_types=frozenset({h264.NAL_SEI}),
        slices=h264.SLICES,
    ),
    "h265": Codec(
        unit_type=h265.unit_type,
        read_sps=h265.read_sps,
        header_bytes=h265.HEADER_BYTES,
        sps_type=h265.NAL_SPS,
        sei_types=frozenset({h265.NAL_SEI, h265.NAL_SUFFIX_SEI}),
        slices=h265.SLICES,
    ),
}
FACTS = ("profile", "level", "tier")
"""Stated by parameter sets, but about the coding and not about the picture."""


@dataclass(slots=True)
class _Reading:
    said: dict[str, Said] = field(default_factory=dict)
    facts: dict[str, str] = field(default_factory=dict)
    notices: list[Notice] = field(default_factory=list)

    def state(self, trait: str, value: TraitValue, where: str) -> None:
        if trait in FACTS:
            self.facts.setdefault(trait, str(value))
        elif trait not in self.said:
            self.said[trait] = Said(value=value, where=where)
        elif self.said[trait].value != value:
            text = f"{trait} differs from what {self.said[trait].where} states, which stands."
            self.notices.append(Notice("stream-differs", text, where))


def read_stream(coded: CodedHeaders) -> StreamReading:
    """Return what the coded headers say.

    Raises UnreadableFileError for a codec that is not read, or where no header can be read.
    """
    reader = READERS.get(coded.codec)
    if reader is None:
        raise UnreadableFileError(
            f"The codec {coded.codec} is not read yet.", code="unsupported-codec", where="stream"
        )
    return reader(coded)


def _read_units(coded: CodedHeaders) -> StreamReading:
    codec = CODECS[coded.codec]
    reading = _Reading()
    for unit in coded.config:
        _read_unit(unit, codec, reading)
    for sample in coded.samples:
        for unit in _header_units(sample, codec, coded.length_bytes):
            _read_unit(unit, codec, reading)
    if "raster" not in reading.said:
        raise UnreadableFileError(
            "No parameter set can be read in the coded picture, so no decoder could start. "
            "Export the file again.",
            code="no-parameter-set",
            where="stream",
        )
    unique = tuple(dict.fromkeys(reading.notices))
    return StreamReading(
        witness=reading.said,
        profile=reading.facts.get("profile"),
        level=reading.facts.get("level"),
        tier=reading.facts.get("tier"),
        notices=unique,
    )


def _header_units(sample: HeaderUnit, codec: Codec, length_bytes: int) -> Iterator[HeaderUnit]:
    """Yield a sample's units up to its first slice, behind which only picture data stands."""
    for data in nal.units_of_sample(sample.data, length_bytes):
        if codec.unit_type(data) in codec.slices:
            return
        yield HeaderUnit(data, sample.where)


def _read_unit(unit: HeaderUnit, codec: Codec, reading: _Reading) -> None:
    if len(unit.data) <= codec.header_bytes:
        return
    kind = codec.unit_type(unit.data)
    if kind == codec.sps_type:
        where = f"SPS ({unit.where})"
        try:
            for trait, value in codec.read_sps(nal.payload(unit.data)):
                reading.state(trait, value, where)
        except BitsEndError as error:
            text = f"The parameter set ends too soon: {error}."
            reading.notices.append(Notice("short-parameter-set", text, where))
    elif kind in codec.sei_types:
        said, notices = read_messages(nal.payload(unit.data)[codec.header_bytes :], unit.where)
        for trait, one in said.items():
            reading.state(trait, one.value, one.where)
        reading.notices += notices


READERS: dict[str, Callable[[CodedHeaders], StreamReading]] = {
    "h264": _read_units,
    "h265": _read_units,
    "prores": read_prores,
    "av1": read_av1,
    "vp9": read_vp9,
}
