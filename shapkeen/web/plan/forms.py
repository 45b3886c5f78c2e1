"""What people fill in about plans and specifications."""

from collections.abc import Iterable, Iterator
from typing import Any

from django import forms

from ...core.errors import UsageError
from ...core.geometry.codec_profiles import CODEC_NAMES, PROFILES
from ...core.geometry.framing import STEPS
from ...core.geometry.packing import PACKINGS
from ...core.promised.specification import (
    MAX_FILE_BYTES,
    PROJECTIONS,
    WRAPPERS,
    Specification,
    specification_from_json,
)
from ..library.uploads import text_of


class KeepForm(forms.Form):
    """The delivery that a plan is kept with."""

    delivery_name = forms.CharField(max_length=80, label="Delivery")


def _read(text: str) -> Specification:
    try:
        return specification_from_json(text)
    except UsageError as error:
        raise forms.ValidationError(f"{error.where}: {error.text}") from error


def _choices(words: Iterable[str]) -> list[tuple[str, str]]:
    return [(word, word) for word in words]


def _text(label: str, help_text: str = "", size: int = 200) -> forms.CharField:
    return forms.CharField(label=label, required=False, max_length=size, help_text=help_text)


def _several(label: str, choices: list[tuple[str, str]]) -> forms.MultipleChoiceField:
    return forms.MultipleChoiceField(
        label=label, required=False, choices=choices, widget=forms.CheckboxSelectMultiple
    )


def _tick(label: str, help_text: str = "") -> forms.BooleanField:
    return forms.BooleanField(label=label, required=False, help_text=help_text)


NONE = ("", "asks for none")


class SpecificationForm(forms.Form):
    """A specification, field by field; `after` is the version that it was edited from."""

    name = forms.CharField(label="Name", max_length=80)
    note = _text("In a sentence", "what it takes, for the list", 400)
    rasters = _text("Sizes", "stored samples, between commas: 3840×2160, 1920×1080")
    most_raster = _text("Largest size", "where any smaller one is taken, too")
    shape = _text("Shape", "16:9; empty: any")
    bars = _tick("Bars are taken", "inside the picture")
    square = _tick("Square samples only")
    light = _several("Light", [("pq", "PQ"), ("hlg", "HLG"), ("sdr", "SDR")])
    peak_nits = _text("Peak, cd/m²", "of the HDR light that it takes", 10)
    bit_depth = forms.ChoiceField(label="Bit depth", choices=_choices(("8", "10", "12", "16")))
    chroma = forms.ChoiceField(label="Chroma", choices=_choices(STEPS))
    codecs = _several(
        "Codecs",
        [(f"{p.codec}/{p.name}", f"{CODEC_NAMES[p.codec]} {p.name}") for p in PROFILES],
    )
    wrappers = _several("Wrappers", _choices(sorted(WRAPPERS)))
    rate_target = _text("Bit rate, Mb/s", "advised", 20)
    rate_least = _text("At least, Mb/s", "", 20)
    rate_most = _text("At most, Mb/s", "", 20)
    rates = _text("Frames/s", "between commas: 25, 30000/1001; empty: any")
    most_rate = _text("At most, frames/s", "", 20)
    length_least = _text("Length at least, s", "", 20)
    length_most = _text("Length at most, s", "", 20)
    most_megabytes = _text("File at most, MB", "", 20)
    projection = forms.ChoiceField(
        label="Sphere", required=False, choices=[NONE, *_choices(PROJECTIONS)]
    )
    packings = _several("Two eyes", _choices(packing.name for packing in PACKINGS))
    sound_codec = forms.ChoiceField(
        label="Sound codec", required=False, choices=[NONE, *_choices(("aac", "opus", "pcm"))]
    )
    sound_bit_rate = _text("Sound bit rate, kb/s", "", 20)
    sound_rate = _text("Sound sampling, Hz", "", 20)
    sound_channels = _text("Sound channels", "", 3)
    loudness = _text("Loudness, LUFS", "of the whole, ITU-R BS.1770; empty: any", 10)
    loudness_off = _text("Off by at most, LU", "", 10)
    loudness_range = _text("Loudness range at most, LU", "", 10)
    true_peak = _text("True peak at most, dBTP", "", 10)
    softens = _tick("Softens", "its own encoding takes fine detail away")
    better_from_lines = _text("Encodes better from", "lines, with a newer codec or more bits", 10)
    after = forms.IntegerField(min_value=0, widget=forms.HiddenInput)

    def parts(self) -> Iterator[tuple[str, list[forms.BoundField]]]:
        """Yield the fields in groups, as the page shows them."""
        for title, names in PARTS:
            yield title, [self[name] for name in names]


PARTS = (
    ("Service", ("name", "note")),
    ("Picture", ("rasters", "most_raster", "shape", "bars", "square", "projection", "packings")),
    ("Light", ("light", "peak_nits")),
    ("Coding", ("codecs", "bit_depth", "chroma", "rate_target", "rate_least", "rate_most")),
    ("Time", ("rates", "most_rate", "length_least", "length_most")),
    ("File", ("wrappers", "most_megabytes", "softens", "better_from_lines")),
    (
        "Sound",
        (
            "sound_codec",
            "sound_bit_rate",
            "sound_rate",
            "sound_channels",
            "loudness",
            "loudness_off",
            "loudness_range",
            "true_peak",
        ),
    ),
)


class ImportForm(forms.Form):
    """A specification's file, sent."""

    file = forms.FileField(label="Specification file", max_length=200)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        sent = data.get("file")
        if sent is None:
            return data
        if sent.size > MAX_FILE_BYTES:
            raise forms.ValidationError("A specification is at most 256 KiB.")
        try:
            data["specification"] = _read(text_of(sent))
        except UnicodeDecodeError as error:
            raise forms.ValidationError("This is no text file (UTF-8).") from error
        return data
