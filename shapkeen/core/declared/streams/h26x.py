"""H.264 and H.265 as runs of units: parameter sets, messages, and the first slice's header."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from ..coded import CodedHeaders, HeaderUnit
from ..model import Notice
from . import h264, h265, nal
from .model import HeaderReader, Reading, StreamReading, no_header
from .sei import SHARED, Message, MessageReader, bound, read_messages

PICTURE_TIMING = 1
SLICE_HEAD_BYTES = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class Codec:
    """How one codec's units are told apart and read; a new one of its kind is one entry.

    sets: parameter sets by unit type, with the name shown as their place. The one of `sps_type`
    is what messages and slices refer to.
    """

    unit_type: Callable[[bytes], int]
    is_base: Callable[[bytes], bool]
    header_bytes: int
    sets: Mapping[int, tuple[str, HeaderReader]]
    sps_type: int
    sei_types: frozenset[int]
    slices: range
    messages: Mapping[int, Message]
    read_slice: MessageReader | None = None


CODECS = {
    "h264": Codec(
        unit_type=h264.unit_type,
        is_base=h264.is_base,
        header_bytes=h264.HEADER_BYTES,
        sets={
            h264.NAL_SPS: ("SPS", h264.read_sps),
            h264.NAL_SUBSET_SPS: ("subset SPS", h264.read_subset_sps),
        },
        sps_type=h264.NAL_SPS,
        sei_types=frozenset({h264.NAL_SEI}),
        slices=h264.SLICES,
        messages={
            **SHARED,
            PICTURE_TIMING: Message(PICTURE_TIMING, "SEI 1 picture timing", h264.read_pic_timing),
        },
        read_slice=h264.read_slice,
    ),
    "h265": Codec(
        unit_type=h265.unit_type,
        is_base=h265.is_base,
        header_bytes=h265.HEADER_BYTES,
        sets={h265.NAL_VPS: ("VPS", h265.read_vps), h265.NAL_SPS: ("SPS", h265.read_sps)},
        sps_type=h265.NAL_SPS,
        sei_types=frozenset({h265.NAL_SEI, h265.NAL_SUFFIX_SEI}),
        slices=h265.SLICES,
        messages={
            **SHARED,
            PICTURE_TIMING: Message(PICTURE_TIMING, "SEI 1 picture timing", h265.read_pic_timing),
        },
    ),
}


def read_h26x(coded: CodedHeaders) -> StreamReading:
    """Return what parameter sets, messages and the first slices say.

    Raises UnreadableFileError where no parameter set can be read.
    """
    run = _Run(CODECS[coded.codec], Reading())
    for unit in coded.config:
        run.read(unit)
    for sample in coded.samples:
        for unit in _header_units(sample, run.codec, coded.length_bytes):
            run.read(unit)
    if "raster" not in run.reading.said:
        raise no_header("parameter set", "no-parameter-set")
    return run.reading.finish()


def _header_units(sample: HeaderUnit, codec: Codec, length_bytes: int) -> Iterator[HeaderUnit]:
    """Yield a sample's units up to its first slice, behind which only picture data stands."""
    for data in nal.units_of_sample(sample.data, length_bytes):
        yield HeaderUnit(data, sample.where)
        if codec.unit_type(data) in codec.slices:
            return


@dataclass(slots=True)
class _Run:
    """One pass over the units, in their order; `sps` holds the last parameter set's fields."""

    codec: Codec
    reading: Reading
    sps: Mapping[str, int] | None = None

    def read(self, unit: HeaderUnit) -> None:
        codec = self.codec
        if len(unit.data) <= codec.header_bytes or not codec.is_base(unit.data):
            return
        kind = codec.unit_type(unit.data)
        body = nal.payload(unit.data)[codec.header_bytes :]
        if kind in codec.sets:
            name, read = codec.sets[kind]
            bits = self.reading.header(name, unit.where, body, read)
            if kind == codec.sps_type:
                self.sps = bits.named
                self._display_window(unit.where)
        elif kind in codec.sei_types:
            read_messages(body, unit.where, self.reading, messages=codec.messages, sps=self.sps)
        elif kind in codec.slices and codec.read_slice and self.sps:
            head = bound(codec.read_slice, self.sps)
            self.reading.header("slice header", unit.where, body[:SLICE_HEAD_BYTES], head)

    def _display_window(self, where: str) -> None:
        offsets = [(self.sps or {}).get(f"def_disp_win_{side}_offset", 0) for side in h265.SIDES]
        if any(offsets):
            left, right, top, bottom = offsets
            text = (
                "The stream proposes to show only a part of its picture (left, right, top, bottom "
                f"cut by {left}, {right}, {top}, {bottom} chroma samples). Few players obey."
            )
            self.reading.notices.append(Notice("display-window", text, f"SPS ({where})"))
