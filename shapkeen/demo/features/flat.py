"""The demo's flat titles: HDR, HLG, anamorphic, wide, worn, and in other wrappers."""

from dataclasses import replace
from fractions import Fraction

from ..recipes import AS_PQ, HDR, HLG, MASTERED_ON, PLAIN, SDR, WANTS_PQ, X265, with_options
from .feature import Export, Feature

FLAT_SDR = replace(with_options(SDR, crf="20"), pixel_aspect=None, depth=8)
UPRIGHT = ("foghorn-shorts", {"size": "720x900", "across": "30", "rate": "24/1"})

FLAT = (
    Feature(
        name="The Orrery Keeper",
        note="Documentary, HDR master: PQ, BT.2020, mastered at 1000 cd/m² on P3",
        master="orrery-keeper-hdr-master.mov",
        recipe=with_options(HDR, crf="6"),
        light="pq",
        exports=(
            Export(
                delivery="Harbourlight Premiere",
                file="orrery-harbourlight-v1.mp4",
                # The wrapper calls the picture BT.709 while the stream says PQ.
                recipe=replace(HDR, colour=(9, 1, 9, 1)),
            ),
            Export(delivery="Harbourlight Premiere", file="orrery-harbourlight-v2.mp4", recipe=HDR),
            Export(
                delivery="Quayside Stream",
                file="orrery-quayside.mp4",
                recipe=HDR,
                change="squeezed range",
            ),
            Export(
                delivery="Lantern Archive",
                file="orrery-lantern.mp4",
                recipe=replace(
                    with_options(HDR, **{"x265-params": f"{X265}{MASTERED_ON}"}), index_first=False
                ),
            ),
            Export(
                delivery="Tidewater Club",
                file="orrery-tidewater.mp4",
                recipe=HDR,
                change="darker",
            ),
            Export(
                delivery="Saltmarsh Mobile",
                file="orrery-saltmarsh.mp4",
                recipe=with_options(HDR, crf="10"),
                change="eight-bit levels",
            ),
            Export(
                delivery="Cormorant Screens",
                file="orrery-cormorant.mp4",
                recipe=HDR,
                change="smaller gamut",
            ),
            Export(
                delivery="Skerry Outdoor",
                file="orrery-skerry.mp4",
                recipe=HDR,
                change="cut highlights",
            ),
            Export(
                delivery="Beacon Broadcast",
                file="orrery-beacon.mp4",
                recipe=HDR,
                change="hybrid log",
            ),
            Export(
                delivery="Curlew Cinema Club",
                file="orrery-curlew.mp4",
                # The engraved scale came in as an SDR still and was not converted.
                recipe=HDR,
                change="unconverted still",
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: broadcast cut",
        note="Broadcast version, HLG master: BT.2020, graded at 1000 cd/m²",
        master="broadcast-cut-hlg-master.mov",
        recipe=with_options(HLG, crf="6"),
        light="hlg",
        raster=(960, 540),
        exports=(
            Export(delivery="Beacon Broadcast", file="broadcast-beacon.mp4", recipe=HLG),
            Export(
                delivery="Harbourlight Premiere",
                file="broadcast-harbourlight-v1.mp4",
                # Only tagged as PQ: the conversion was forgotten.
                recipe=AS_PQ,
                promise=WANTS_PQ,
            ),
            Export(
                delivery="Harbourlight Premiere",
                file="broadcast-harbourlight-v2.mp4",
                recipe=AS_PQ,
                change="to pq",
                promise=WANTS_PQ,
            ),
            Export(
                delivery="Marram Stream",
                file="broadcast-marram.mp4",
                # Converted and tagged as PQ, though HLG was promised.
                recipe=AS_PQ,
                change="to pq",
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: scope trailer",
        note="Trailer, SDR master: BT.709, anamorphic, stored 1280×720 with a pixel aspect of 4:3",
        master="orrery-trailer-scope-master.mov",
        recipe=with_options(SDR, crf="6"),
        light="sdr",
        exports=(
            Export(delivery="Gannet Screens", file="trailer-gannet.mp4", recipe=SDR),
            Export(
                delivery="Saltmarsh Mobile",
                file="trailer-saltmarsh.mp4",
                recipe=replace(SDR, pixel_aspect=Fraction(1)),
            ),
            Export(
                delivery="Breakwater Stream",
                file="trailer-breakwater.mp4",
                recipe=SDR,
                change="widened",
            ),
            Export(
                delivery="Foghorn Shorts",
                file="trailer-foghorn.mp4",
                recipe=replace(SDR, pixel_aspect=Fraction(1), rate=Fraction(25)),
                change="fitted with bars",
            ),
            Export(
                delivery="Tidewater Club",
                file="trailer-tidewater.mp4",
                recipe=replace(SDR, pixel_aspect=None),
                change="lowered",
                planned=("tidewater-club", {"size": "1280x720"}),
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: wide cut",
        note="Cinema version of 2.4:1 without bars: BT.709, 960×400",
        master="wide-cut-master.mov",
        recipe=with_options(PLAIN, crf="6"),
        light="sdr",
        raster=(960, 400),
        frames=72,
        exports=(
            Export(delivery="Gannet Screens", file="wide-gannet.mp4", recipe=PLAIN),
            Export(
                delivery="Cormorant Screens",
                file="wide-cormorant.mp4",
                recipe=PLAIN,
                change="twice as large",
                planned=("cormorant-screens", {"size": "1920x800", "coding": "h264 High"}),
            ),
            Export(
                delivery="Ferry Kiosk",
                file="wide-ferry.mp4",
                recipe=PLAIN,
                change="letterboxed",
            ),
            Export(
                delivery="Mole Signage",
                file="wide-mole.mp4",
                # Scaled to fill a 16:9 timeline.
                recipe=PLAIN,
                change="squashed",
            ),
            Export(
                delivery="Foghorn Shorts",
                file="wide-foghorn-v1.mp4",
                # Another setting was changed last, and rate and position went back.
                recipe=replace(PLAIN, rate=Fraction(25)),
                change="upright, middle",
                planned=UPRIGHT,
            ),
            Export(
                delivery="Foghorn Shorts",
                file="wide-foghorn-v2.mp4",
                recipe=PLAIN,
                change="upright",
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: workshop reel",
        note="Close views of the gear train for screens and kiosks: BT.709, 960×540",
        master="workshop-reel-master.mov",
        recipe=with_options(PLAIN, crf="6"),
        light="sdr",
        raster=(960, 540),
        exports=(
            Export(delivery="Beacon Broadcast", file="workshop-beacon.mp4", recipe=PLAIN),
            Export(
                delivery="Ferry Kiosk",
                file="workshop-ferry.mp4",
                # A timeline of half the size, enlarged again at export.
                recipe=PLAIN,
                change="half size and back",
            ),
            Export(
                delivery="Mole Signage",
                file="workshop-mole.mp4",
                recipe=PLAIN,
                change="samples repeated",
            ),
            Export(
                delivery="Breakwater Stream",
                file="workshop-breakwater.mp4",
                recipe=PLAIN,
                change="a third larger",
            ),
            Export(
                delivery="Foghorn Shorts",
                file="workshop-foghorn.mp4",
                recipe=PLAIN,
                change="softened",
            ),
            Export(
                delivery="Skerry Outdoor",
                file="workshop-skerry.mp4",
                # The encoder could not keep up with playback.
                recipe=PLAIN,
                without=frozenset({14, 15}),
            ),
            Export(
                delivery="Gannet Screens",
                file="workshop-gannet.mp4",
                # Marked in and out were left standing.
                recipe=PLAIN,
                without=frozenset({*range(4), *range(33, 36)}),
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: house copies",
        note="The gear train for the town's screens and archive: BT.709, 640×360",
        master="gear-train-master.mov",
        recipe=with_options(PLAIN, crf="6"),
        light="sdr",
        raster=(640, 360),
        exports=(
            Export(
                delivery="Vellmar Archive",
                file="gear-train-archive.mxf",
                recipe=replace(PLAIN, codec="mpeg2video", options={"b": "12M", "g": "12"}),
            ),
            Export(
                delivery="Lantern Archive",
                file="gear-train-lantern.mkv",
                recipe=replace(PLAIN, codec="ffv1", options={"level": "3"}),
            ),
            Export(
                delivery="Ferry Kiosk",
                file="gear-train-ferry.webm",
                recipe=replace(
                    PLAIN,
                    codec="libvpx-vp9",
                    options={
                        "b": "0",
                        "crf": "20",
                        "cpu-used": "6",
                        "deadline": "realtime",
                        "threads": "1",
                    },
                ),
            ),
            Export(
                delivery="Harbour Relay",
                file="gear-train-relay.ts",
                recipe=with_options(PLAIN, g="12"),
            ),
            Export(delivery="Breakwater Stream", file="gear-train-breakwater.flv", recipe=PLAIN),
            Export(
                delivery="Mole Signage",
                file="gear-train-mole.avi",
                recipe=replace(PLAIN, codec="mpeg4", options={"qscale": "2", "b": "8M", "g": "12"}),
            ),
            Export(
                delivery="Workshop Bench",
                file="gear-train-workshop.y4m",
                recipe=replace(PLAIN, codec="rawvideo", options={}),
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: ticking cut",
        note="HD master with its sound: the gear train ticks, a bell strikes",
        master="ticking-cut-master.mov",
        recipe=with_options(FLAT_SDR, crf="17"),
        light="sdr",
        raster=(640, 360),
        frames=192,
        ticks=True,
        exports=(
            Export(
                delivery="Harbourlight Premiere", file="ticking-harbourlight.mp4", recipe=FLAT_SDR
            ),
            Export(
                delivery="Quayside Stream",
                file="ticking-quayside.mp4",
                recipe=FLAT_SDR,
                sound="late",
            ),
            Export(
                delivery="Lantern Archive",
                file="ticking-lantern.mp4",
                recipe=FLAT_SDR,
                sound="exchanged channels",
            ),
            Export(
                delivery="Tidewater Club",
                file="ticking-tidewater.mp4",
                recipe=FLAT_SDR,
                sound="far too loud",
            ),
            Export(
                delivery="Skerry Outdoor",
                file="ticking-skerry.mp4",
                recipe=FLAT_SDR,
                sound="muted for a moment",
            ),
            Export(
                delivery="Foghorn Shorts",
                file="ticking-foghorn.mp4",
                recipe=FLAT_SDR,
                sound="none",
            ),
        ),
    ),
)
