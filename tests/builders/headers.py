"""Parameter sets and messages of H.264 and H.265, written in the standards' order."""

from dataclasses import dataclass

from shapkeen.core.declared.streams import prores, vc3
from shapkeen.core.declared.streams.nal import with_prevention

from .bits import BitWriter


@dataclass(frozen=True, kw_only=True)
class Vui:
    """Usability information; None leaves a part out."""

    aspect: tuple[int, int] | None = None
    aspect_idc: int | None = None
    full_range: bool | None = None
    colour: tuple[int, int, int] | None = None
    chroma_location: int | None = None
    timing: tuple[int, int] | None = None

    def write_common(self, bits: BitWriter) -> None:
        bits.flags(self.aspect is not None or self.aspect_idc is not None)
        if self.aspect_idc is not None:
            bits.u(8, self.aspect_idc)
        elif self.aspect is not None:
            bits.u(8, 255).u(16, self.aspect[0]).u(16, self.aspect[1])
        bits.flags(False)  # overscan
        bits.flags(self.full_range is not None)
        if self.full_range is not None:
            bits.u(3, 5).flags(self.full_range, self.colour is not None)
            for code in self.colour or ():
                bits.u(8, code)
        bits.flags(self.chroma_location is not None)
        if self.chroma_location is not None:
            bits.ue(self.chroma_location).ue(self.chroma_location)


DELAY_BITS = 10


def h264_sps(
    *,
    profile: int = 100,
    constraints: int = 0,
    level: int = 40,
    mbs: tuple[int, int] = (120, 68),
    crop: tuple[int, int, int, int] | None = (0, 0, 0, 4),
    chroma: int = 1,
    depth: int = 8,
    frame_only: bool = True,
    poc_type: int = 0,
    vui: Vui | None = None,
    buffers: bool = False,
    pic_struct: bool = False,
) -> bytes:
    """Return a sequence parameter set unit, header included.

    buffers: with hypothetical reference decoder parameters; pic_struct: with picture structures.
    """
    bits = BitWriter().u(8, profile).u(6, constraints).u(2, 0).u(8, level).ue(0)
    if profile in (100, 110, 122, 244):
        bits.ue(chroma)
        if chroma == 3:
            bits.flags(False)
        bits.ue(depth - 8).ue(depth - 8).flags(False, False)
    bits.ue(0).ue(poc_type)
    if poc_type == 0:
        bits.ue(2)
    elif poc_type == 1:
        bits.flags(False).se(-3).se(4).ue(2).se(1).se(-1)
    bits.ue(4).flags(False).ue(mbs[0] - 1)
    bits.ue(mbs[1] - 1 if frame_only else mbs[1] // 2 - 1).flags(frame_only)
    if not frame_only:
        bits.flags(False)
    bits.flags(True, crop is not None)
    for side in crop or ():
        bits.ue(side)
    bits.flags(vui is not None)
    if vui is not None:
        vui.write_common(bits)
        bits.flags(vui.timing is not None)
        if vui.timing is not None:
            bits.u(32, vui.timing[0]).u(32, vui.timing[1]).flags(True)
        bits.flags(buffers)
        if buffers:
            bits.ue(0).u(4, 3).u(4, 5).ue(780).ue(900).flags(False)
            bits.u(5, 23).u(5, DELAY_BITS - 1).u(5, DELAY_BITS - 1).u(5, 24)
        bits.flags(False)
        if buffers:
            bits.flags(False)
        bits.flags(pic_struct, False)
    return with_prevention(b"\x67" + bits.bytes())


def h264_timing(structure: int, *, buffers: bool = False) -> bytes:
    """Return a picture timing payload for such a parameter set."""
    bits = BitWriter()
    if buffers:
        bits.u(DELAY_BITS, 3).u(DELAY_BITS, 4)
    return bits.u(4, structure).flags(False).bytes()


def h264_field_slice(*, bottom: bool) -> bytes:
    """Return the first bytes of an IDR slice of one field."""
    bits = BitWriter().ue(0).ue(7).ue(0).u(4, 0).flags(True, bottom)
    return b"\x65" + bits.bytes() + bytes(4)


def h265_vps(*, timing: tuple[int, int] | None = None, layers: int = 1) -> bytes:
    """Return a video parameter set unit, header included."""
    bits = BitWriter().u(4, 0).flags(True, True).u(6, layers - 1).u(3, 0).flags(True).u(16, 0xFFFF)
    bits.u(2, 0).flags(False).u(5, 1).u(32, 0x60000000).flags(True, False, False, True)
    bits.u(43, 0).u(1, 0).u(8, 93).flags(True).ue(4).ue(2).ue(0).u(6, 0).ue(0)
    bits.flags(timing is not None)
    if timing is not None:
        bits.u(32, timing[0]).u(32, timing[1]).flags(False).ue(0)
    return with_prevention(b"\x40\x01" + bits.flags(False).bytes())


def h265_sps(
    *,
    profile: int = 2,
    extension: int = 0,
    level: int = 153,
    tier: bool = False,
    size: tuple[int, int] = (3840, 2160),
    window: tuple[int, int, int, int] | None = None,
    chroma: int = 1,
    depth: int = 10,
    layers: int = 1,
    source: tuple[bool, bool] = (True, False),
    reference_sets: tuple[tuple[int, int], ...] = (),
    vui: Vui | None = None,
    field_sequence: bool = False,
    field_info: bool = False,
    display_window: tuple[int, int, int, int] | None = None,
) -> bytes:
    """Return a sequence parameter set unit, header included.

    field_info: with structures in picture timing; display_window: left, right, top, bottom.
    """
    bits = BitWriter().u(4, 0).u(3, layers - 1).flags(True)
    bits.u(2, 0).flags(tier).u(5, profile).u(32, 1 << (31 - profile))
    bits.flags(*source).flags(False, True).u(9, extension).u(35, 0).u(8, level)
    if layers > 1:
        for _ in range(layers - 1):
            bits.flags(False, True)
        bits.u(2 * (9 - layers), 0)
        for _ in range(layers - 1):
            bits.u(8, level)
    bits.ue(0).ue(chroma)
    if chroma == 3:
        bits.flags(False)
    bits.ue(size[0]).ue(size[1]).flags(window is not None)
    for side in window or ():
        bits.ue(side)
    bits.ue(depth - 8).ue(depth - 8).ue(4).flags(False).ue(4).ue(2).ue(0)
    for code in (0, 3, 0, 3, 0, 0):
        bits.ue(code)
    bits.flags(False).flags(True, True).flags(False)
    bits.ue(len(reference_sets))
    for number, (negative, positive) in enumerate(reference_sets):
        if number:
            bits.flags(False)
        bits.ue(negative).ue(positive)
        for _ in range(negative + positive):
            bits.ue(0).flags(True)
    usable = bool(vui or field_sequence or field_info or display_window)
    bits.flags(False, True, True).flags(usable)
    if usable:
        (vui or Vui()).write_common(bits)
        bits.flags(False, field_sequence, field_info, display_window is not None)
        for side in display_window or ():
            bits.ue(side)
        timing = vui.timing if vui else None
        bits.flags(timing is not None)
        if timing is not None:
            bits.u(32, timing[0]).u(32, timing[1]).flags(False, False)
        bits.flags(False)
    bits.flags(False)
    return with_prevention(b"\x42\x01" + bits.bytes())


def sei(header: bytes, *messages: tuple[int, bytes]) -> bytes:
    """Return a message unit: H.264 header 06, H.265 header 4E01."""
    body = b""
    for number, payload in messages:
        for value in (number, len(payload)):
            body += b"\xff" * (value // 255) + bytes([value % 255])
        body += payload
    return with_prevention(header + body + b"\x80")


H264_SEI, H265_SEI = b"\x06", b"\x4e\x01"


def _unstopped(bits: BitWriter) -> bytes:
    """Return the bits padded with zeros: these headers end without a stop bit."""
    text = "".join(bits._bits)
    text += "0" * (-len(text) % 8)
    return int(text or "0", 2).to_bytes(len(text) // 8, "big")


def mpeg2_sequence(
    *,
    size: tuple[int, int] = (1920, 1080),
    aspect: int = 1,
    rate: int = 2,
    rate_extension: tuple[int, int] = (0, 0),
    profile_level: int = 0x44,
    chroma: int = 1,
    progressive: bool = True,
    colour: tuple[int, int, int] | None = None,
    display: tuple[int, int] | None = None,
    picture: tuple[int, bool, bool] | None = None,
) -> bytes:
    """Return sequence header, extensions, and the extension of one picture, behind start codes.

    picture: structure, top field first, progressive frame.
    """
    width, height = size
    head = BitWriter().u(12, width).u(12, height).u(4, aspect).u(4, rate)
    head.u(18, 40_000).u(1, 1).u(10, 112).u(3, 0)
    more = BitWriter().u(4, 1).u(8, profile_level).flags(progressive).u(2, chroma)
    more.u(2, width >> 12).u(2, height >> 12).u(12, 0).u(1, 1).u(8, 0).u(1, 0)
    more.u(2, rate_extension[0]).u(5, rate_extension[1])
    units = [b"\xb3" + _unstopped(head), b"\xb5" + _unstopped(more)]
    if colour or display:
        shown = BitWriter().u(4, 2).u(3, 5).flags(colour is not None)
        for code in colour or ():
            shown.u(8, code)
        shown.u(14, (display or size)[0] & 0x3FFF).u(1, 1).u(14, (display or size)[1] & 0x3FFF)
        units.append(b"\xb5" + _unstopped(shown))
    if picture:
        structure, top, whole = picture
        coding = BitWriter().u(4, 8).u(16, 0xFFFF).u(2, 0).u(2, structure).flags(top).u(5, 0)
        units += [b"\x00\x00\x08", b"\xb5" + _unstopped(coding.flags(False, True, whole, False))]
    return b"".join(b"\0\0\1" + unit for unit in units) + b"\0\0\1\x01\x22"


def mpeg4_layer(
    *,
    size: tuple[int, int] = (640, 360),
    aspect: int = 1,
    par: tuple[int, int] = (1, 1),
    rate: tuple[int, int] | None = (24, 1),
    colour: tuple[int, int, int] | None = None,
    interlaced: bool = False,
) -> bytes:
    """Return visual object sequence, visual object and layer, behind start codes."""
    visual = BitWriter().flags(False).u(4, 1).flags(colour is not None)
    if colour:
        visual.u(3, 5).flags(False, True)
        for code in colour:
            visual.u(8, code)
    layer = BitWriter().flags(False).u(8, 1).flags(True).u(4, 1).u(3, 1).u(4, aspect)
    if aspect == 15:
        layer.u(8, par[0]).u(8, par[1])
    layer.flags(True).u(2, 1).flags(False, False).u(2, 0).u(1, 1)
    resolution = rate[0] if rate else 90_000
    layer.u(16, resolution).u(1, 1).flags(rate is not None)
    if rate:
        layer.u(max((resolution - 1).bit_length(), 1), rate[1])
    layer.u(1, 1).u(13, size[0]).u(1, 1).u(13, size[1]).u(1, 1).flags(interlaced)
    layer.flags(True).u(1, 0).flags(False)
    units = (b"\xb0\xf5", b"\xb5" + _unstopped(visual), b"\x20" + _unstopped(layer))
    return b"".join(b"\0\0\1" + unit for unit in units) + b"\0\0\1\xb6\x10"


def vp8_frame(width: int, height: int, *, key: bool = True) -> bytes:
    """Return a frame's first bytes: the tag, and of a key frame start code and size."""
    tag = (0 if key else 1) | 1 << 4 | 5000 << 5
    head = tag.to_bytes(3, "little")
    if key:
        head += b"\x9d\x01\x2a" + width.to_bytes(2, "little") + height.to_bytes(2, "little")
    return head + bytes(20)


def prores_frame(**values: int) -> bytes:
    """Return a ProRes frame's header: 1920×1080, 4:2:2, square samples, 24/1.001."""
    stated = {"width": 1920, "height": 1080, "chroma": 2, "aspect": 1, "frame_rate": 1}
    head = {"frame_size": 99, "identifier": prores.IDENTIFIER, "header_size": 148}
    return prores.FRAME.write(**(head | stated | values))


VC3_FRAME = vc3.FRAME.write(
    header_size=0x280,
    version=3,
    field_flags=1,
    active_lines=1080,
    samples_per_line=1920,
    depth_code=2,
    compression_id=1271,
)
"""A VC-3 frame header: 1920×1080, 10 bits, 4:2:2, progressive, HQX."""
