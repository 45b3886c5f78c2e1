"""What a recipe makes, in one line."""

from ...core.cured.versions import Order, Sound
from ...core.cured.versions.encoders import FORMATS
from ...core.geometry.codec_profiles import CODEC_NAMES, WRAPPER_NAMES
from ...core.geometry.words import ratio_words

LIGHTS = {16: "PQ", 18: "HLG"}
SOUNDS = {"aac": "AAC", "opus": "Opus", "pcm": "PCM"}
WRAPPERS = {key: WRAPPER_NAMES[key] for key in FORMATS}


def sound_words(sound: Sound) -> str:
    """Return what becomes of the sound; empty where it is copied."""
    if sound.codec == "copy":
        return ""
    if sound.codec == "none":
        return "no sound"
    parts = [f"sound {SOUNDS[sound.codec]}"]
    if sound.channels:
        parts.append("one channel" if sound.channels == 1 else "two channels")
    if sound.loudness_lufs is not None:
        parts.append(f"{sound.loudness_lufs:g} LUFS")
    return " ".join(parts)


def recipe_words(order: Order) -> str:
    """Return raster, light, coding, rate and wrapper of what is made."""
    goal, coding = order.way.goal, order.recipe.coding
    name = CODEC_NAMES.get(coding.codec, coding.codec.upper())
    if coding.bit_rate is not None:
        size = f"{coding.bit_rate / 1e6:g} Mb/s in {'two passes' if coding.passes == 2 else 'one'}"
    elif order.encoder.quality is not None:
        number = coding.crf if coding.crf is not None else order.encoder.quality.usual
        size = f"quality {number:g}"
    else:
        size = ""
    parts = [
        f"{goal.raster[0]}×{goal.raster[1]}",
        LIGHTS.get(goal.coding.transfer, "SDR"),
        f"{name} {order.profile}",
        f"{goal.depth} bits {goal.chroma}",
        size,
        f"{ratio_words(float(order.rate))} frames/s",
        WRAPPERS[order.recipe.wrapper],
        f"through {order.recipe.light.table_name or 'a table'}" if order.recipe.light.table else "",
        sound_words(order.recipe.sound),
        "timecode burnt in" if order.recipe.burn_in.timecode else "",
        f"“{order.recipe.burn_in.text}” burnt in" if order.recipe.burn_in.text else "",
        f"frames {order.first} to {order.end}" if "frames" in order.asked.traits else "",
    ]
    return ", ".join(part for part in parts if part)
