"""Evidence made by hand for judging: declarations, and a survey of a healthy pair to vary."""

from dataclasses import replace

from shapkeen.core.declared import Declaration, FileFacts, Said, VideoTrack
from shapkeen.core.judged.evidence import Evidence
from shapkeen.core.measured import (
    Bars,
    CodeUse,
    DepthUse,
    DetailCurve,
    DetailFindings,
    DetailFit,
    Difference,
    FileSurvey,
    Fit,
    FramePair,
    LightLevels,
    PairSurvey,
    Registration,
    TimeFindings,
    ToneFindings,
)
from shapkeen.core.promised import Promise, Promised, promise_from_master

DISPLAY = {
    "red": (0.68, 0.32),
    "green": (0.265, 0.69),
    "blue": (0.15, 0.06),
    "white": (0.3127, 0.329),
    "max": 1000.0,
    "min": 0.005,
}
BOTH = {
    "raster": (1920, 1080),
    "bit_depth": 10,
    "chroma": "4:2:0",
    "range": "limited",
    "primaries": 9,
    "transfer": 16,
    "matrix": 9,
    "frame_rate": (24, 1),
}
STREAM_ONLY = {
    "scan": "progressive",
    "mastering_display": DISPLAY,
    "content_light": {"max_cll": 1000, "max_fall": 200},
}


def declaration(
    *,
    wrapper: dict | None = None,
    stream: dict | None = None,
    both: dict | None = None,
    index_first: bool | None = True,
    frames: int = 48,
    name: str = "export.mp4",
) -> Declaration:
    """Return a healthy HDR file's declaration with changes; a None value makes a trait silent."""
    in_wrapper = BOTH | (both or {}) | (wrapper or {})
    in_stream = BOTH | STREAM_ONLY | (both or {}) | (stream or {})

    def witness(values: dict, where: str) -> dict:
        return {k: Said(value=v, where=where) for k, v in values.items() if v is not None}

    return Declaration(
        file=FileFacts(name=name, size_bytes=1000, wrapper="mp4", index_first=index_first),
        video=VideoTrack(
            codec="h265", codec_tag="hvc1", frame_count=frames, duration_s=frames / 24
        ),
        wrapper=witness(in_wrapper, "moov/…/colr"),
        stream=witness(in_stream, "SPS (hvcC)"),
    )


HEALTHY_FITS = (
    Fit(act="identity", residual=0.5),
    Fit(act="gamma-shifted", residual=0.5, exponent=1.0),
    Fit(act="range-compressed", residual=30.0),
    Fit(act="range-expanded", residual=35.0),
)
TONE = ToneFindings(
    blocks=4000,
    fits=HEALTHY_FITS,
    noise=0.6,
    span=600.0,
    curve=((100.0, 100.0), (700.0, 700.0)),
    density=((1, 0), (0, 1)),
    chroma_span=200.0,
    chroma_residual=0.8,
    chroma_gain=1.0,
)
CODES = CodeUse(
    depth=10,
    lowest=70,
    highest=720,
    p001=80,
    p999=700,
    below_black=0.0,
    above_white=0.0,
    levels=600,
    comb=0.27,
)
LIGHT = LightLevels(
    max_cll=1050.0, max_fall=150.0, p9999=990.0, p999=940.0, series=((0.0, 1050.0, 150.0),)
)
WHOLE = FileSurvey(
    frames=48,
    skipped=0,
    raster=(1920, 1080),
    codes=CODES,
    light=LIGHT,
    gamut=None,
    colours=None,
    banding=None,
)
PLACE = Registration(
    left=0.0, top=0.0, width=1920.0, height=1080.0, spread=0.02, likeness=0.999, frames=6
)
TIMING = TimeFindings(
    matched=48,
    trimmed_in=0,
    trimmed_out=0,
    added_in=0,
    added_out=0,
    foreign=0,
    dropped=(),
    repeated=(),
    blended=(),
    still_share=0.02,
    noise=1e-5,
    way=((0, 0), (47, 47)),
)
CURVE = DetailCurve((0.25, 0.625, 0.95), (1.0, 0.85, 0.6), (1.0, 0.97, 0.9))
DETAIL = DetailFindings(
    transfer=0.85,
    across=CURVE,
    down=CURVE,
    fits=(DetailFit("identity", 1.0, {}),),
    structure=12.0,
    scale=(1.0, 1.0),
)
SURVEY = PairSurvey(
    pairs=(FramePair(master_frame=3, export_frame=3, time_s=0.125, ssim=0.98),),
    offset=0,
    decoded=48,
    master_raster=(1920, 1080),
    export_raster=(1920, 1080),
    master_statistics=WHOLE,
    export_statistics=WHOLE,
    master_bars=Bars(),
    export_bars=Bars(),
    registration=PLACE,
    tone=TONE,
    depth=DepthUse(residual=0.5, step_share=0.03),
    difference=Difference(ssim_mean=0.98, ssim_worst=0.97, worst_frame=3),
    detail=DETAIL,
    seconds=1.0,
    timing=TIMING,
    combed=0.0,
    master_frames=48,
    export_frames=48,
)


def tone(best: str, residual: float, identity: float = 40.0, exponent: float = 1.2) -> ToneFindings:
    """Return tone findings that one act explains, the others leaving much over."""
    left = {"identity": identity, "gamma-shifted": 25.0, "range-compressed": 30.0}
    left |= {"range-expanded": 35.0, best: residual}
    fits = [
        Fit(act=act, residual=value, exponent=exponent if act == "gamma-shifted" else None)
        for act, value in left.items()
    ]
    return replace(
        TONE, fits=tuple(sorted(fits, key=lambda fit: fit.residual)), chroma_residual=12.0
    )


def evidence(
    *,
    master: Declaration | None = None,
    export: Declaration | None = None,
    promise: dict[str, Promised] | None = None,
    **survey: object,
) -> Evidence:
    """Return evidence of a healthy pair with changes to its survey.

    export_light, export_codes and master_codes change the survey of that file.
    """
    for side in ("master", "export"):
        parts = {
            part: survey.pop(f"{side}_{part}")
            for part in ("light", "codes", "gamut", "colours", "banding")
            if f"{side}_{part}" in survey
        }
        survey[f"{side}_statistics"] = replace(WHOLE, **parts)
    of_master = master or declaration(name="master.mov")
    overrides = Promise(traits=promise) if promise else None
    return Evidence(
        promise_from_master(of_master, overrides=overrides),
        of_master,
        export or declaration(),
        replace(SURVEY, **survey),
    )


def explicit(value: object, **more: object) -> Promised:
    """Return a promise that someone wrote."""
    return Promised(value=value, origin="this test", explicit=True, **more)
