"""Registered user data (ITU-T T.35) with dynamic HDR, in H.26x messages and AV1 metadata."""

from ..layout import Layout, fields
from ..model import TraitValue
from .bits import BitReader
from .model import Stated

T35 = Layout(
    "user_data_registered_itu_t_t35",
    fields(itu_t_t35_country_code=8, itu_t_t35_provider_code=16),
    source="H.265 D.2.6",
)
DYNAMIC_HDR = {
    # country, provider, and the bytes behind them
    (0xB5, 0x003C, b"\0\1\4"): "st2094-40",
    (0xB5, 0x0031, b"GA94\x09"): "st2094-10",
    (0xB5, 0x003A, b""): "other",
    (0x26, 0x0004, b""): "other",
}
"""Source: SMPTE ST 2094-40 and -10 as carried; the two others from memory. Captions (provider
0031 with type code 03) and other user data are no HDR."""
LONGEST_START = 8


def state_dynamic_hdr(bits: BitReader) -> Stated:
    """State dynamic HDR by the provider's and the application's numbers."""
    head = bits.table(T35)
    rest = bits.bytes_left(LONGEST_START)
    numbers = head["itu_t_t35_country_code"], head["itu_t_t35_provider_code"]
    for (country, provider, start), kind in DYNAMIC_HDR.items():
        if (country, provider) == numbers and rest.startswith(start):
            value: TraitValue = (kind,)  # type: ignore[assignment]  # a list of words
            yield "dynamic_hdr", value
