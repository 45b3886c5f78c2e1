"""What the child process does for the Plan: measuring how fast this machine encodes."""

from pathlib import Path

from ..work.child import Answer, Report


def speed(request: Answer, _report: Report) -> Answer:
    """Measure the encoding speed of one codec."""
    from ...core.measured.encoding import measure_speed

    found = measure_speed(
        Path(request["path"]),
        request["codec"],
        (request["raster"][0], request["raster"][1]),
        depth=request["depth"],
        bit_rate=request["bit_rate"],
    )
    return {"samples_a_second": found}
