"""H.265 profile, tier and level. Source: ITU-T H.265 7.3.3, A.3 and table A.2."""

from .bits import BitReader
from .model import Stated

PROFILES = {
    1: "Main",
    2: "Main 10",
    3: "Main Still Picture",
    5: "High Throughput",
    6: "Multiview Main",
    7: "Scalable Main",
    9: "Screen-Extended Main",
}
# Range extensions (profile 4): flags 12bit 10bit 8bit 422 420 mono intra one_picture
# lower_bit_rate → name.
RANGE_EXTENSIONS = {
    0b111111001: "Monochrome",
    0b110111001: "Monochrome 10",
    0b100111001: "Monochrome 12",
    0b000111001: "Monochrome 16",
    0b100110001: "Main 12",
    0b110100001: "Main 4:2:2 10",
    0b100100001: "Main 4:2:2 12",
    0b111000001: "Main 4:4:4",
    0b110000001: "Main 4:4:4 10",
    0b100000001: "Main 4:4:4 12",
    0b111110101: "Main Intra",
    0b110110101: "Main 10 Intra",
    0b100110101: "Main 12 Intra",
    0b110100101: "Main 4:2:2 10 Intra",
    0b100100101: "Main 4:2:2 12 Intra",
    0b111000101: "Main 4:4:4 Intra",
    0b110000101: "Main 4:4:4 10 Intra",
    0b100000101: "Main 4:4:4 12 Intra",
    0b000000101: "Main 4:4:4 16 Intra",
    0b111000111: "Main 4:4:4 Still Picture",
}
RANGE_EXTENSION_PROFILE = 4


def read_profile_tier_level(bits: BitReader, layers: int) -> Stated:
    """State profile, tier, level and scan; `layers` is how many sub-layers the set describes."""
    bits.u(2, "general_profile_space")
    tier, profile_idc = bits.flag("general_tier_flag"), bits.u(5, "general_profile_idc")
    compatible = bits.u(32, "general_profile_compatibility_flags")
    progressive = bits.flag("general_progressive_source_flag")
    interlaced = bits.flag("general_interlaced_source_flag")
    bits.flag("general_non_packed_constraint_flag")
    bits.flag("general_frame_only_constraint_flag")
    extension = bits.u(9, "general_range_extension_flags")
    bits.skip(34 + 1)
    level_idc = bits.u(8, "general_level_idc")
    yield "profile", profile_name(profile_idc, compatible, extension)
    yield "tier", "high" if tier else "main"
    whole, tenth = divmod(level_idc, 30)
    yield "level", f"{whole}.{tenth // 3}" if tenth else str(whole)
    if progressive != interlaced:
        yield "scan", "progressive" if progressive else "interlaced"
    present = [(bits.flag(), bits.flag()) for _ in range(layers - 1)]
    if layers > 1:
        bits.skip(2 * (9 - layers))
    for has_profile, has_level in present:
        bits.skip(88 * has_profile + 8 * has_level)


def profile_name(profile_idc: int, compatible: int, extension: int) -> str:
    """Return the profile's name; `extension` holds the nine range extension flags."""
    if profile_idc == RANGE_EXTENSION_PROFILE:
        return RANGE_EXTENSIONS.get(extension, "Format Range Extensions")
    if profile_idc == 0:  # some writers give only the compatibility flags
        profile_idc = next((i for i in (1, 2, 3) if compatible >> (31 - i) & 1), 0)
    return PROFILES.get(profile_idc, str(profile_idc))
