"""Sides of the trials: pictures and encoders that were kept apart from one another.

`tuned` are those that the judging was tuned on, `aside` and `fresh` others that libraries ship;
from `nature` on they need packages that builders/media.py names. Every side but `tuned` was looked
at by nobody before its first run.
"""

from dataclasses import dataclass, replace

from tests.builders.media import (
    HDR,
    LIGHT,
    MASTERED,
    OLDEN,
    PUZZLES,
    SDR,
    SVT_LIGHT,
    X265,
    Coding,
)
from tests.builders.spheres import FACES


@dataclass(frozen=True)
class Side:
    """Pictures and encoders of one side of the division."""

    pictures: tuple[str, ...]
    spheres: tuple[tuple[str, ...], ...]
    eyes: tuple[str, ...]
    sdr: dict[str, Coding]
    hdr: dict[str, Coding]


SVT = Coding(codec="libsvtav1", options=(("preset", "8"), ("crf", "24")))
X265_SDR = Coding(
    codec="libx265",
    options=(("preset", "veryfast"), ("crf", "20"), ("x265-params", "log-level=error")),
)
VP9 = Coding(
    codec="libvpx-vp9",
    options=(("crf", "22"), ("b", "0"), ("deadline", "realtime"), ("cpu-used", "6")),
    ending=".webm",
    flags=(),
)
X265_HDR = replace(
    HDR,
    options=(("preset", "veryfast"), ("crf", "18"), ("x265-params", X265 + MASTERED + LIGHT)),
)
SVT_10 = replace(
    HDR,
    codec="libsvtav1",
    options=(("preset", "8"), ("crf", "22"), ("svtav1-params", SVT_LIGHT)),
)
SIDES = {
    "tuned": Side(
        ("astronaut", "coffee", "chelsea", "rocket"),
        (FACES, ("camera", "coins", "gravel", "coffee", "moon", "page")),
        ("coffee", "astronaut"),
        {"x264": SDR.with_options(crf="19", preset="veryfast"), "x265": X265_SDR},
        {"x265": X265_HDR},
    ),
    "aside": Side(
        ("china", "motorcycle", "flower"),
        (("coins", "rocket", "grass", "chelsea", "coffee", "astronaut"),),
        ("motorcycle",),
        {"svt": SVT, "vp9": VP9},
        {"svt": SVT_10},
    ),
    "fresh": Side(
        ("hubble_deep_field", "retina", "immunohistochemistry"),
        (("immunohistochemistry", "hubble_deep_field", "retina", "brick", "camera", "coins"),),
        ("china",),
        {
            "x264": SDR.with_options(crf="21", preset="medium"),
            "svt": SVT.with_options(preset="10", crf="28"),
        },
        {"x265": X265_HDR.with_options(preset="medium", crf="20")},
    ),
    "nature": Side(
        ("Garden", "LadyBird", "Dune"),
        (("Storm", "Wood", "TwoWings", "YellowFlower", "RainDrops", "Aqua"),),
        ("Garden",),
        {
            "x264": SDR.with_options(crf="22", preset="slow", tune="film"),
            "vp9": VP9.with_options(crf="28", deadline="good", **{"cpu-used": "5"}),
        },
        {"svt": SVT_10.with_options(preset="9", crf="24")},
    ),
    "weather": Side(
        ("Storm", "TwoWings", "FreshFlower"),
        (("Blinds", "GreenMeadow", "Garden", "Dune", "LadyBird", "FreshFlower"),),
        ("Storm",),
        {
            "x265": X265_SDR.with_options(preset="medium", crf="22"),
            "svt": SVT.with_options(preset="7", crf="30"),
        },
        {"x265": X265_HDR.with_options(preset="fast", crf="21")},
    ),
    "meadow": Side(
        ("Wood", "YellowFlower", "RainDrops"),
        (("Aqua", "GreenMeadow", "TwoWings", "FreshFlower", "Blinds", "Garden"),),
        ("YellowFlower",),
        {
            "x264": SDR.with_options(crf="20", preset="faster"),
            "x265": X265_SDR.with_options(preset="slow", crf="24"),
        },
        {"svt": SVT_10.with_options(preset="8", crf="26")},
    ),
    "journey": Side(
        ("Bridge", "Dragonfly", "Wine"),
        (("greentock", "picosdeeuropa", "sunset", "seeding", "umang", "life"),),
        ("friends",),
        {
            "x264": SDR.with_options(crf="23", preset="slow"),
            "svt": SVT.with_options(preset="6", crf="32"),
        },
        {"x265": X265_HDR.with_options(preset="medium", crf="22")},
    ),
    "harvest": Side(
        ("greentock", "umang", "sunset"),
        (("Bridge", "friends", "Dragonfly", "Wine", "seeding", "picosdeeuropa"),),
        ("life",),
        {
            "x265": X265_SDR.with_options(preset="fast", crf="23"),
            "vp9": VP9.with_options(crf="30", deadline="good", **{"cpu-used": "4"}),
        },
        {"svt": SVT_10.with_options(preset="7", crf="28")},
    ),
    "voyage": Side(
        ("Fossa", "Infinite-Sea", "Kleiber"),
        (("aitzgorri", "free", "Fossa", "Painting-Colors", "Kleiber", "Infinite-Sea"),),
        ("Kleiber",),
        {
            "x264": SDR.with_options(crf="21", preset="slower"),
            "vp9": VP9.with_options(crf="26", deadline="good", **{"cpu-used": "3"}),
        },
        {"x265": X265_HDR.with_options(preset="slow", crf="19")},
    ),
    "evening": Side(
        ("BytheWater", "ColorfulCups", "FallenLeaf"),
        (("Autumn", "ColdRipple", "DarkestHour", "EveningGlow", "OneStandsOut", "Path"),),
        ("Autumn",),
        {
            "x264": SDR.with_options(crf="24", preset="medium", tune="grain"),
            "svt": SVT.with_options(preset="9", crf="26"),
        },
        {"x265": X265_HDR.with_options(preset="veryfast", crf="23")},
    ),
    "dusk": Side(
        ("EveningGlow", "Path", "OneStandsOut"),
        (("BytheWater", "ColorfulCups", "FallenLeaf", "Path", "EveningGlow", "OneStandsOut"),),
        ("EveningGlow",),
        {
            "x265": X265_SDR.with_options(preset="slower", crf="22"),
            "x264": SDR.with_options(crf="20", preset="veryslow"),
        },
        {"svt": SVT_10.with_options(preset="6", crf="25")},
    ),
    "frost": Side(
        ("ColdRipple", "DarkestHour", "Autumn"),
        (("Path", "FallenLeaf", "ColdRipple", "BytheWater", "DarkestHour", "ColorfulCups"),),
        ("ColdRipple",),
        {
            "svt": SVT.with_options(preset="5", crf="28"),
            "vp9": VP9.with_options(crf="24", deadline="good", **{"cpu-used": "2"}),
        },
        {"x265": X265_HDR.with_options(preset="fast", crf="20")},
    ),
    "ridge": Side(
        ("picosdeeuropa", "seeding", "aitzgorri"),
        (("GreenMeadow", "Aqua", "life", "free", "friends", "Blinds"),),
        ("seeding",),
        {
            "x264": SDR.with_options(crf="21", preset="fast"),
            "svt": SVT.with_options(preset="8", crf="25"),
        },
        {"x265": X265_HDR.with_options(preset="fast", crf="22")},
    ),
    "grove": Side(
        ("Aqua", "GreenMeadow", "life"),
        (("picosdeeuropa", "seeding", "aitzgorri", "Kleiber", "umang", "Wood"),),
        ("life",),
        {
            "x265": X265_SDR.with_options(preset="fast", crf="21"),
            "svt": SVT.with_options(preset="9", crf="27"),
        },
        {"svt": SVT_10.with_options(preset="8", crf="23")},
    ),
    "orchard": Side(
        ("citrus-fruits", "european-honey-bee", "panther-chameleon-female"),
        (("castle-maintenon", "cincinnati-bridge", "niagara_falls", *PUZZLES[2:]),),
        ("castle-maintenon",),
        {
            "x264": SDR.with_options(crf="20", preset="superfast"),
            "vp9": VP9.with_options(crf="27", deadline="good", **{"cpu-used": "4"}),
        },
        {"x265": X265_HDR.with_options(preset="medium", crf="24")},
    ),
    "castle": Side(
        ("castle-maintenon", "cincinnati-bridge", "niagara_falls"),
        (("citrus-fruits", *PUZZLES[3:], "castle-maintenon", "niagara_falls", "Blinds"),),
        ("european-honey-bee",),
        {
            "svt": SVT.with_options(preset="6", crf="29"),
            "x265": X265_SDR.with_options(preset="medium", crf="20"),
        },
        {"svt": SVT_10.with_options(preset="7", crf="24")},
    ),
    "harbour": Side(
        ("nagasaki-boats", "airplane-from-above", "french-alpine-landscape"),
        (("allium-oreophilum", "march-pastoral", "black-canyon", "dust-bowl-home", *PUZZLES[:2]),),
        ("allium-oreophilum",),
        {
            "x264": SDR.with_options(crf="22", preset="medium", tune="animation"),
            "svt": SVT.with_options(preset="8", crf="22"),
        },
        {"x265": X265_HDR.with_options(preset="medium", crf="21")},
    ),
    "canyon": Side(
        ("allium-oreophilum", "march-pastoral", "black-canyon"),
        (("nagasaki-boats", "airplane-from-above", "dust-bowl-home", *PUZZLES[2:]),),
        ("nagasaki-boats",),
        {
            "x265": X265_SDR.with_options(preset="superfast", crf="21"),
            "vp9": VP9.with_options(crf="25", deadline="good", **{"cpu-used": "3"}),
        },
        {"svt": SVT_10.with_options(preset="8", crf="22")},
    ),
    "market": Side(
        ("quokka", "DepartmentStore", "shore"),
        (("SPAQ_10241", "frame_7gzdcz9sif0ekg31", "shore", *OLDEN[:2], "frame_4wrwr48cdk6rbcjl"),),
        ("quokka",),
        {
            "x264": SDR.with_options(crf="21", preset="slow"),
            "x265": X265_SDR.with_options(preset="fast", crf="24"),
        },
        {"svt": SVT_10.with_options(preset="7", crf="21")},
    ),
    "snapshots": Side(
        ("frame_7gzdcz9sif0ekg31", "frame_4wrwr48cdk6rbcjl", "SPAQ_10241"),
        (("quokka", "DepartmentStore", "frame_9ogwhvvy7gfj6jzh", "shore", *OLDEN[4:6]),),
        ("frame_4wrwr48cdk6rbcjl",),
        {
            "svt": SVT.with_options(preset="7", crf="27"),
            "vp9": VP9.with_options(crf="23", deadline="good", **{"cpu-used": "4"}),
        },
        {"x265": X265_HDR.with_options(preset="fast", crf="19")},
    ),
    "remnant": Side(
        ("dust-bowl-home", "frame_9ogwhvvy7gfj6jzh", "Blinds"),
        (("Blinds", *OLDEN[2:4], "quokka", "SPAQ_10241", "frame_9ogwhvvy7gfj6jzh"),),
        ("DepartmentStore",),
        {
            "x264": SDR.with_options(crf="22", preset="fast"),
            "svt": SVT.with_options(preset="7", crf="25"),
        },
        {"x265": X265_HDR.with_options(preset="slow", crf="22")},
    ),
}
