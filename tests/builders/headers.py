"""Parameter sets and messages of H.264 and H.265, written in the standards' order."""

from dataclasses import dataclass

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
) -> bytes:
    """Return a sequence parameter set unit, header included."""
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
        bits.flags(False, False, False, False)
    return with_prevention(b"\x67" + bits.bytes())


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
) -> bytes:
    """Return a sequence parameter set unit, header included."""
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
    bits.flags(False, True, True).flags(vui is not None or field_sequence)
    if vui is not None or field_sequence:
        (vui or Vui()).write_common(bits)
        bits.flags(False, field_sequence, False, False)
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
