"""A whole file: finds the index, the picture track, and what they say."""

from dataclasses import dataclass
from fractions import Fraction

from ....errors import UnreadableFileError, cut_off
from ...coded import CodedHeaders, HeaderUnit
from ...layout import FieldError
from ...model import AudioTrack, Notice, Said, VideoTrack
from ...window import ShortReadError, Window
from ..config import CONFIG_READERS, ConfigRecord
from ..decoder import decoder_codec
from ..fourcc import codec_of
from ..model import WrapperReading
from .boxes import MAX_TOP_BOXES, Box, find, walk
from .edits import edit_notices
from .entry import read_entry
from .esds import read_esds
from .fragments import read_fragments
from .layouts import VISUAL_ENTRY
from .samples import SamplePlace, SampleTotals, locate, read_totals, sync_samples
from .sound import declared_bit_rate, rate_from_totals, read_sound
from .spherical import merge_versions, read_v1
from .timecode import read_timecode
from .track import Track, read_orientation, read_track

FIRST_BOXES = {b"ftyp", b"moov", b"mdat", b"free", b"skip", b"wide", b"pnot", b"styp", b"uuid"}
PRORES_PROFILES = {
    "apco": "422 Proxy",
    "apcs": "422 LT",
    "apcn": "422",
    "apch": "422 HQ",
    "ap4h": "4444",
    "ap4x": "4444 XQ",
}
"""Sample entry → profile. Source: SMPTE RDD 36 (from memory but apcn, apch, ap4h)."""
CONFIG_BOXES = {"avcC": "h264", "hvcC": "h265", "av1C": "av1", "vpcC": "vp9"}
HANDLERS = {"soun": "sound", "vide": "a still", "text": "text", "sbtl": "text", "tmcd": "time code"}
SAMPLE_HEAD_BYTES = 64 * 1024
"""Headers and messages stand before the picture data of a sample; this is ample for them."""


def starts_isobmff(head: bytes) -> bool:
    """Return whether the first bytes start an ISO base media file."""
    return len(head) >= 8 and head[4:8] in FIRST_BOXES


@dataclass(frozen=True, slots=True)
class _File:
    moov: Box
    moofs: list[Box]
    wrapper: str
    index_first: bool


def read_isobmff(window: Window) -> WrapperReading:
    """Return what the boxes say, and the coded headers of the described picture track.

    Raises UnreadableFileError for a cut file, one without an index, or without a picture.
    """
    file = _read_top(window)
    inside = file.moov.children()
    tracks = [t for box in inside if box.type == "trak" and (t := read_track(box))]
    track, notices = _choose(tracks)
    said, config, entry_notices = _read_picture(track, window)
    totals, places, fragmented = _totals(file, track, find(inside, "mvex"))
    rate = _constant_rate(totals, track, fragmented=fragmented)
    if rate:
        said.setdefault("frame_rate", rate)
    samples = tuple(
        HeaderUnit(
            window.read(place.offset, min(place.size, SAMPLE_HEAD_BYTES)),
            f"sample {place.number}",
        )
        for place in places
        if place.offset + place.size <= window.size
    )
    return WrapperReading(
        wrapper=file.wrapper,
        index_first=file.index_first,
        video=_video(track, config, totals),
        audio=_audio(tracks),
        witness=said,
        coded=CodedHeaders(
            codec=config.codec,
            length_bytes=config.record.length_bytes,
            config=config.record.units,
            samples=samples,
        ),
        notices=(*notices, *entry_notices, *edit_notices(track, inside, totals)),
        timecode=read_timecode(tracks, window),
    )


def _read_top(window: Window) -> _File:
    moov: Box | None = None
    first_mdat: int | None = None
    moofs = []
    wrapper = "mov"  # files older than the ftyp box are QuickTime
    for box in walk(window, "", 0, MAX_TOP_BOXES):
        if box.is_cut:
            raise cut_off(
                f"The file is cut off: the {box.type!r} box ends at byte {box.claimed_end}, the "
                f"file at byte {window.size}",
                box.path,
            )
        if box.type == "ftyp":
            wrapper = "mov" if box.bytes(4) == b"qt  " else "mp4"
        elif box.type == "moov" and moov is None:
            moov = box
        elif box.type == "mdat" and first_mdat is None:
            first_mdat = box.start
        elif box.type == "moof":
            moofs.append(box)
    if moov is None:
        raise UnreadableFileError(
            "The file has no index (moov), so no picture can be found in it. Either it is "
            "still being written, or the export was broken off before its end: export it again.",
            code="no-index",
            where="moov",
        )
    return _File(moov, moofs, wrapper, first_mdat is None or moov.start < first_mdat)


def picture_track(moov: Box) -> Track:
    """Return the picture track that is described; raises UnreadableFileError without one."""
    tracks = [t for box in moov.children() if box.type == "trak" and (t := read_track(box))]
    return _choose(tracks)[0]


def _choose(tracks: list[Track]) -> tuple[Track, list[Notice]]:
    pictures = [track for track in tracks if track.is_picture]
    enabled = [track for track in pictures if track.enabled] or pictures
    if not enabled:
        raise UnreadableFileError(
            "The file holds no picture track, only "
            + (", ".join(sorted({HANDLERS.get(t.handler, t.handler) for t in tracks})) or "nothing")
            + ". Choose the file with the picture.",
            code="no-picture",
            where="moov",
        )
    chosen = enabled[0]
    notices = [
        Notice("other-picture", "Another picture track; it is not described.", track.box.path)
        for track in pictures
        if track is not chosen
    ]
    if chosen.entry_count > 1:
        text = f"{chosen.entry_count} sample entries; the first one is described."
        notices.append(Notice("several-entries", text, f"{chosen.box.path}/mdia/minf/stbl/stsd"))
    return chosen, notices


@dataclass(frozen=True, slots=True)
class _Config:
    codec: str
    record: ConfigRecord


def _read_picture(track: Track, window: Window) -> tuple[dict[str, Said], _Config, list[Notice]]:
    entry = track.entry
    assert entry is not None  # noqa: S101  (a picture track has one)
    try:
        head = VISUAL_ENTRY.read(entry.bytes(VISUAL_ENTRY.size_bytes))
        children = entry.children(skip=VISUAL_ENTRY.size_bytes)
        config = _read_config(children, entry, window)
    except (ShortReadError, FieldError) as error:
        raise UnreadableFileError(
            f"The picture's sample entry is damaged ({error}). Export the file again.",
            code="damaged-entry",
            where=entry.path,
        ) from error
    raster = (head["width"], head["height"])
    v2, notices = read_entry(children)
    v1: dict[str, Said] = {}
    for box in track.box.children():
        if box.type == "uuid":
            more, odd = read_v1(box)
            v1, notices = {**more, **v1}, notices + odd
    spoken, version_notices = merge_versions(v2, v1)
    shape, shape_notices = read_orientation(track, raster)
    said = {"raster": Said(value=raster, where=entry.path)}
    said |= config.record.said | spoken | shape
    return said, config, [*notices, *version_notices, *shape_notices]


def _read_config(children: list[Box], entry: Box, window: Window) -> _Config:
    for box in children:
        codec = CONFIG_BOXES.get(box.type)
        if codec is not None:
            if codec == "vp9" and entry.type.startswith("vp08"):
                codec = "vp8"  # the box is shared
            return _Config(codec, CONFIG_READERS[codec](box.bytes(), box.path))
        if box.type == "esds":
            stream = read_esds(box.bytes())
            units = (HeaderUnit(stream.header, box.path),) if stream.header else ()
            record = ConfigRecord({}, 0, units, bit_rate=stream.bit_rate)
            known = stream.codec or codec_of(entry.type)
            return _Config(known or decoder_codec(window, entry.type), record)
    codec = codec_of(entry.type) or decoder_codec(window, entry.type)
    return _Config(codec, ConfigRecord({}, 4, _plain_header(children)))


def _plain_header(children: list[Box]) -> tuple[HeaderUnit, ...]:
    """Return the decoder's header that some writers keep as it is."""
    return tuple(HeaderUnit(box.bytes(), box.path) for box in children if box.type == "glbl")


def _totals(
    file: _File, track: Track, mvex: Box | None
) -> tuple[SampleTotals, list[SamplePlace], bool]:
    """Return the track's totals, its first samples, and whether these are in fragments."""
    totals = read_totals(track.stbl)
    if totals.count or not file.moofs:
        # Messages may come later than the first picture: the second random-access point too.
        wanted = sorted({0, *sync_samples(track.stbl, 2)})
        return totals, locate(track.stbl, wanted), False
    return *read_fragments(file.moofs, mvex, track.track_id), True


def _constant_rate(totals: SampleTotals, track: Track, *, fragmented: bool) -> Said | None:
    if not totals.delta or not track.timescale:
        return None
    rate = Fraction(track.timescale, totals.delta)
    where = "moof/traf/trun" if fragmented else f"{track.box.path}/mdia/minf/stbl/stts"
    return Said(value=(rate.numerator, rate.denominator), where=where)


def _video(track: Track, config: _Config, totals: SampleTotals) -> VideoTrack:
    assert track.entry is not None  # noqa: S101
    children = track.entry.children(skip=VISUAL_ENTRY.size_bytes)
    measured = rate_from_totals(totals.size_bytes, totals.duration, track.timescale)
    duration = totals.duration / track.timescale if track.timescale else None
    return VideoTrack(
        codec=config.codec,
        codec_tag=track.entry.type,
        level=config.record.level,
        profile=PRORES_PROFILES.get(track.entry.type),
        frame_count=totals.count or None,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=declared_bit_rate(children) or config.record.bit_rate or measured,
    )


def _audio(tracks: list[Track]) -> tuple[AudioTrack, ...]:
    found = (read_sound(track) for track in tracks if track.handler == "soun")
    return tuple(track for track in found if track)
