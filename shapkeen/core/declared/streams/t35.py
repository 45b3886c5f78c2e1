"""Registered user data (ITU-T T.35) with dynamic HDR, in H.26x messages and AV1 metadata."""

from collections.abc import Iterator

from ..layout import Layout, fields
from ..model import TraitValue

T35 = Layout("user_data_registered_itu_t_t35", fields(country=8, provider=16), source="H.265 D.2.6")
DYNAMIC_HDR = {
    # country, provider, and the bytes behind them
    (0xB5, 0x003C, b"\0\1\4"): "st2094-40",
    (0xB5, 0x0031, b"GA94\x09"): "st2094-10",
    (0xB5, 0x003A, b""): "other",
    (0x26, 0x0004, b""): "other",
}
"""Source: SMPTE ST 2094-40 and -10 as carried; the two others from memory. Captions (provider
0031 with type code 03) and other user data are no HDR."""


def state_dynamic_hdr(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State dynamic HDR by the provider's and the application's numbers."""
    head = T35.read(data)
    rest = data[T35.size_bytes :]
    for (country, provider, start), kind in DYNAMIC_HDR.items():
        if (country, provider) == (head["country"], head["provider"]) and rest.startswith(start):
            value: TraitValue = (kind,)  # type: ignore[assignment]  # a list of words
            yield "dynamic_hdr", value
