"""A declaration restored from its stored object, as far as a promise needs it."""

from collections.abc import Mapping
from typing import Any

from ..declared import AudioTrack, Declaration, FileFacts, Said, VideoTrack, Witness
from ..geometry.timecode import StartTimecode
from ..promised import Promise, promise_from_master
from ..promised.forms import freeze


def declaration_from_object(stored: Mapping[str, Any]) -> Declaration:
    """Return the declaration that `declaration_object` made an object of."""
    file, video = stored["file"], stored["video"]
    return Declaration(
        file=FileFacts(
            name=file["name"],
            size_bytes=file["bytes"],
            wrapper=file["wrapper"],
            index_first=file.get("index_first"),
            timecode=_timecode(file.get("timecode")),
        ),
        video=VideoTrack(
            codec=video["codec"],
            codec_tag=video["codec_tag"],
            profile=video.get("profile"),
            level=video.get("level"),
            tier=video.get("tier"),
            frame_count=video.get("frame_count"),
            duration_s=video.get("duration"),
            bit_rate=video.get("bit_rate"),
        ),
        wrapper=_witness(stored, "wrapper"),
        stream=_witness(stored, "stream"),
        audio=tuple(
            AudioTrack(
                codec=track["codec"],
                sample_rate_hz=track.get("sample_rate"),
                channels=track.get("channels"),
                bit_rate=track.get("bit_rate"),
                language=track.get("language"),
            )
            for track in stored.get("audio", ())
        ),
    )


def _timecode(told: Mapping[str, Any] | None) -> StartTimecode | None:
    if told is None:
        return None
    return StartTimecode(told["frame"], told["counted"], told["drop_frame"])


def _witness(stored: Mapping[str, Any], name: str) -> Witness:
    places = stored["places"][name]
    return {
        trait: Said(value=freeze(value), where=places.get(trait, ""))
        for trait, value in stored["witnesses"][name].items()
    }


def promise_of(master: Declaration, overrides: Promise | None = None) -> Promise:
    """Return the promise that follows from a master, and what a delivery asks for beyond it."""
    return promise_from_master(master, overrides=overrides)
