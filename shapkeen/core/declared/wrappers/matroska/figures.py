"""Figures of a track: length, count and weight, and sound in short.

Statistics in tags are the writer's own words; without them, the first blocks show the share.
"""

from ...model import AudioTrack, Said, VideoTrack
from . import elements as ids
from .blocks import blocks
from .ebml import Element
from .top import Top, Track

NANOSECONDS = 1_000_000_000
SHORTEST_S, LONGEST_S = 1e-4, 1e8
"""Outside these a duration is damage: less than a frame, or three years."""
STATISTICS = frozenset({"BPS", "NUMBER_OF_FRAMES"})


def video_track(
    top: Top, track: Track, codec: str, codec_id: str, said: dict[str, Said]
) -> VideoTrack:
    """Return the picture track's figures; None where nothing states or shows one."""
    duration = _duration(top.info)
    rate = said.get("frame_rate")
    count = None
    if duration and rate is not None and isinstance(rate.value, tuple):
        count = round(duration * rate.value[0] / rate.value[1])
    tagged = _statistics(top.tags, track.whole(ids.TRACK_UID))
    bits = tagged.get("BPS") or _measured_rate(top, track, duration)
    return VideoTrack(
        codec=codec,
        codec_tag=codec_id,
        frame_count=tagged.get("NUMBER_OF_FRAMES") or count,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=bits,
    )


def _statistics(tags: Element | None, uid: int) -> dict[str, int]:
    """Return the track's statistics, which some writers leave in tags of its own."""
    found: dict[str, int] = {}
    for tag in tags.children() if tags is not None else ():
        targets = tag.child(ids.TARGETS) if tag.id == ids.TAG else None
        target = targets.child(ids.TAG_TRACK_UID) if targets is not None else None
        if target is None or not uid or target.unsigned() != uid:
            continue
        for item in tag.children():
            name, text = item.child(ids.TAG_NAME), item.child(ids.TAG_TEXT)
            if item.id == ids.SIMPLE_TAG and name is not None and text is not None:
                value = text.text()
                if name.text() in STATISTICS and value.isascii() and value.isdigit():
                    found[name.text()] = int(value[:18])
    return found


def _measured_rate(top: Top, track: Track, duration: float | None) -> int | None:
    """Return the average: the clusters' weight, of which the first blocks show the share."""
    if not duration or top.cluster is None:
        return None
    number = track.whole(ids.TRACK_NUMBER)
    sizes = [(block.track, block.size_bytes) for block in blocks(top.cluster)]
    own = sum(size for found, size in sizes if found == number)
    # The clusters' own heads weigh next to nothing.
    whole = (top.segment.end - top.cluster.body.start) * 8 / duration
    return round(whole * own / sum(size for _, size in sizes)) if own else None


def _duration(info: Element | None) -> float | None:
    if info is None:
        return None
    length, scale = info.child(ids.DURATION), info.child(ids.TIMESTAMP_SCALE)
    if length is None:
        return None
    seconds = length.number() * (scale.unsigned() if scale else 1_000_000) / NANOSECONDS
    return seconds if SHORTEST_S < seconds < LONGEST_S else None


def sound_track(top: Top, track: Track) -> AudioTrack:
    """Return a sound track in short."""
    codec_id = track.inside[ids.CODEC_ID].text() if ids.CODEC_ID in track.inside else ""
    inside = {}
    if ids.AUDIO in track.inside:
        inside = {item.id: item for item in track.inside[ids.AUDIO].children()}
    rate = inside[ids.SAMPLING_FREQUENCY].number() if ids.SAMPLING_FREQUENCY in inside else 8000.0
    channels = inside[ids.CHANNELS].unsigned() if ids.CHANNELS in inside else 1
    return AudioTrack(
        codec=ids.SOUND_CODECS.get(codec_id, codec_id),
        sample_rate_hz=round(rate) if 0 < rate < 1e7 else None,
        channels=channels,
        bit_rate=_statistics(top.tags, track.whole(ids.TRACK_UID)).get("BPS")
        or _measured_rate(top, track, _duration(top.info)),
        language=_language(track),
    )


def _language(track: Track) -> str | None:
    """Return the language that is written; silence means English to players, but says nothing."""
    for name in (ids.LANGUAGE_BCP47, ids.LANGUAGE):
        if name in track.inside:
            code = track.inside[name].text()
            return None if code in ("", "und") else code
    return None
