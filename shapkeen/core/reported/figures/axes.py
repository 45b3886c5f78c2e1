"""Axes that a pointer can be read on: places in the drawing, and the values that stand there."""

import json
from collections.abc import Callable
from dataclasses import dataclass

SAMPLES = 64


@dataclass(frozen=True, slots=True)
class Axis:
    """One axis from place `first` to `last`, with its name, unit and the value at each place."""

    name: str
    unit: str
    first: float
    last: float
    value_at: Callable[[float], float]
    digits: int = 0

    def samples(self) -> list[float]:
        """Return values at even steps along the axis; readers take the middle between two."""
        step = (self.last - self.first) / SAMPLES
        values = (self.value_at(self.first + step * i) for i in range(SAMPLES + 1))
        return [round(value, self.digits + 2) for value in values]


def axes_attribute(across: Axis, up: Axis) -> str:
    """Return both axes as JSON, for the script that reads values under the pointer."""
    return json.dumps(
        {
            way: {
                "name": axis.name,
                "unit": axis.unit,
                "first": axis.first,
                "last": axis.last,
                "digits": axis.digits,
                "values": axis.samples(),
            }
            for way, axis in (("x", across), ("y", up))
        }
    )
