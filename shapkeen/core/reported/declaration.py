"""`shapkeen.declaration/1`: what a file declares, as docs/contract.md has it."""

from dataclasses import asdict

from ..declared import Declaration, Witness
from ..geometry.timecode import StartTimecode

JsonObject = dict[str, object]


def _known(**pairs: object) -> JsonObject:
    return {key: value for key, value in pairs.items() if value is not None}


def _timecode(start: StartTimecode | None) -> JsonObject | None:
    """Return where the file's timecode starts: in words, and as it is counted."""
    return None if start is None else {"start": start.at(0), **asdict(start)}


def witness_object(witness: Witness) -> JsonObject:
    """Return trait → value for one witness; silent traits are absent."""
    return {trait: said.value for trait, said in witness.items()}


def declaration_object(declaration: Declaration) -> JsonObject:
    """Return the object; `places` (added to the contract's keys) tells where each value stands."""
    file, video = declaration.file, declaration.video
    return {
        "schema": "shapkeen.declaration/1",
        "file": _known(
            name=file.name,
            bytes=file.size_bytes,
            wrapper=file.wrapper,
            index_first=file.index_first,
            timecode=_timecode(file.timecode),
        ),
        "video": _known(
            codec=video.codec,
            codec_tag=video.codec_tag,
            profile=video.profile,
            level=video.level,
            tier=video.tier,
            frame_count=video.frame_count,
            duration=video.duration_s,
            bit_rate=video.bit_rate,
        ),
        "audio": [
            _known(
                codec=track.codec,
                sample_rate=track.sample_rate_hz,
                channels=track.channels,
                bit_rate=track.bit_rate,
                language=track.language,
            )
            for track in declaration.audio
        ],
        "witnesses": {
            "wrapper": witness_object(declaration.wrapper),
            "stream": witness_object(declaration.stream),
        },
        "places": {
            name: {trait: said.where for trait, said in witness.items()}
            for name, witness in (
                ("wrapper", declaration.wrapper),
                ("stream", declaration.stream),
            )
        },
        "notices": [
            {"code": notice.code, "where": notice.where, "text": notice.text}
            for notice in declaration.notices
        ],
    }
