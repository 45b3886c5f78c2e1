"""A survey as bytes and back, so that it can be kept: compressed JSON, and arrays for the series.

Light: imports no decoder, so that pages which only show findings can load one.
"""

import io
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from typing import Any, get_args, get_origin

import cattrs
import numpy as np

from ... import compressed
from ..model import SURVEY_FORM, AloneFindings, LikenessSeries, PairSurvey
from ..model.likeness import COLUMNS, WHOLE_COLUMNS
from .series import thinned_for_drawing


def _rows_of_numbers(kind: Any) -> bool:
    """Return whether a type is a table of plain numbers: tuples of tuples of int or float."""
    parts = get_args(kind)
    if get_origin(kind) is not tuple or len(parts) != 2 or parts[1] is not Ellipsis:
        return False
    inner = parts[0]
    return get_origin(inner) is tuple and all(x in (int, float, ...) for x in get_args(inner))


def _converter() -> cattrs.Converter:
    converter = cattrs.Converter(detailed_validation=False)
    converter.register_unstructure_hook(Fraction, str)
    converter.register_structure_hook(Fraction, lambda text, _: Fraction(text))
    # Tables of ten thousand numbers: looked at one by one they would take longer than all else.
    converter.register_structure_hook_func(
        _rows_of_numbers, lambda rows, _: tuple(map(tuple, rows))
    )
    # Kept by itself, as arrays.
    converter.register_unstructure_hook(LikenessSeries, lambda _: [])
    converter.register_structure_hook(LikenessSeries, lambda _, __: LikenessSeries())
    return converter


_CONVERTER = _converter()


def survey_to_bytes(survey: PairSurvey) -> bytes:
    """Return a survey for showing and judging, without its series: few pages want that."""
    plain = _CONVERTER.unstructure(replace(survey, series=LikenessSeries(), series_step=1))
    told = {"form": SURVEY_FORM, "survey": plain}
    return compressed.to_bytes(told)


def survey_from_bytes(data: bytes) -> PairSurvey:
    """Return the survey that bytes hold, without its series.

    Raises ValueError for another form, or damage.
    """
    told = compressed.from_bytes(data)
    if told.get("form") != SURVEY_FORM:
        raise ValueError(f"The kept survey has not form {SURVEY_FORM}: measure again.")
    return _CONVERTER.structure(told["survey"], PairSurvey)


def looks_to_bytes(looks: Sequence[AloneFindings]) -> bytes:
    """Return what files show by themselves."""
    told = {"form": SURVEY_FORM, "looks": [_CONVERTER.unstructure(look) for look in looks]}
    return compressed.to_bytes(told)


def looks_from_bytes(data: bytes) -> list[AloneFindings]:
    """Return what files show by themselves; raises ValueError for another form, or damage."""
    told = compressed.from_bytes(data)
    if told.get("form") != SURVEY_FORM:
        raise ValueError(f"The kept looks have not form {SURVEY_FORM}: measure again.")
    return [_CONVERTER.structure(look, AloneFindings) for look in told["looks"]]


def drawn_to_bytes(survey: PairSurvey) -> bytes:
    """Return a survey's series thinned for drawing."""
    thin = thinned_for_drawing(survey)
    columns = [_plain(thin.series, name) for name in COLUMNS]
    told = {"step": thin.series_step, "columns": columns}
    return compressed.to_bytes(told)


def _plain(series: LikenessSeries, name: str) -> list[float | int | None]:
    values = series.column(name).tolist()
    if COLUMNS.index(name) < WHOLE_COLUMNS:
        return [int(value) for value in values]
    return [None if value != value else value for value in values]  # noqa: PLR0124 - NaN


def with_drawn(survey: PairSurvey, data: bytes) -> PairSurvey:
    """Return a survey with the series, thinned for drawing, that bytes hold.

    Raises ValueError for damage.
    """
    told = compressed.from_bytes(data)
    table = np.array(told["columns"], np.float64).T  # what is None becomes NaN
    return replace(survey, series=LikenessSeries(table), series_step=told["step"])


def series_to_bytes(series: LikenessSeries) -> bytes:
    """Return every row of a series, as compressed arrays."""
    arrays: Mapping[str, Any] = {
        name: series.column(name).astype(np.int64 if at < WHOLE_COLUMNS else np.float64)
        for at, name in enumerate(COLUMNS)
    }
    file = io.BytesIO()
    np.savez_compressed(file, allow_pickle=False, **arrays)
    return file.getvalue()


def series_from_bytes(data: bytes) -> LikenessSeries:
    """Return every row of a series."""
    with np.load(io.BytesIO(data), allow_pickle=False) as kept:
        return LikenessSeries(np.stack([kept[name].astype(np.float64) for name in COLUMNS], axis=1))
