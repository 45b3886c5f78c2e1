"""A plan: what follows from a master, a specification and a few choices."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from ...geometry import file_size
from ...geometry.codec_profiles import (
    PROFILES,
    CodecProfile,
    Wanted,
    codec_profile_of,
    codec_profiles_of,
)
from ...geometry.packing import packing_of
from ..specification import Coding, Specification
from .choices import SPEED_SHARE, Choices, Shot
from .choosing import wanted_of
from .layout import Layout, layout_of
from .subject import Subject

COMPARED_MEZZANINE = Coding(codec="prores", profile="422 HQ")
"""What the weight of a delivery is held against."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FileSize:
    """What a delivery weighs: bytes with wrapper and sound, None where the length is unknown.

    send_s: over the chosen line, of which it really carries nine tenths. most_bit_rate: what the
    service's largest size leaves for the picture. encode_s: None until it was measured here.
    """

    duration_s: float | None
    bytes: float | None
    mezzanine_bytes: float | None
    bits_a_pixel: float
    send_s: float | None
    most_bit_rate: float | None
    encode_s: float | None = None
    encode_speed: float | None = None

    @property
    def times_realtime(self) -> float | None:
        """Return encoding time ÷ playing time."""
        if self.encode_s is None or not self.duration_s:
            return None
        return self.encode_s / self.duration_s


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """One plan. carriers: every profile that is known; carrier: the chosen one."""

    subject: Subject
    specification: Specification
    choices: Choices
    layout: Layout
    codec_profile: CodecProfile
    codec_profiles: tuple[CodecProfile, ...]
    file_size: FileSize

    @property
    def wanted(self) -> Wanted:
        """Return what the carrier has to carry."""
        return wanted_of(self.layout, self.specification, self.choices)

    @property
    def light(self) -> str:
        """Return the kind of light to deliver: the master's own where the service takes it."""
        own, taken = self.subject.light, self.specification.light
        return own if own in taken else taken[0]

    @property
    def is_light_converted(self) -> bool:
        """Return whether the picture goes to another kind of light."""
        return self.light != self.subject.light

    @property
    def stereo(self) -> str:
        """Return how the eyes are stated to be packed."""
        packing = packing_of(self.choices.packing)
        return packing.stereo if packing else "mono"

    @property
    def is_rate_changed(self) -> bool:
        """Return whether frames are left out, added or timed anew."""
        return self.choices.rate != self.subject.rate

    @property
    def may_change_speed(self) -> bool:
        """Return whether the rates are so near that playing each frame once is a way."""
        return self.is_rate_changed and abs(self.speed - 1) <= SPEED_SHARE

    @property
    def changes_speed(self) -> bool:
        """Return whether every frame is kept, and shown for a little shorter or longer."""
        return self.may_change_speed and self.choices.rate_way == "speed"

    @property
    def speed(self) -> Fraction:
        """Return the delivery's rate ÷ the master's."""
        return self.choices.rate / self.subject.rate

    @property
    def frames(self) -> int | None:
        """Return how many frames the delivery has."""
        own = _frames(self.subject, self.choices)
        if own is None or not self.is_rate_changed or self.changes_speed:
            return own
        return round(own * self.choices.rate / self.subject.rate)

    def crop_of(self, shot: Shot) -> tuple[int, int, int, int]:
        """Return the cut during one shot as x, y, width, height in master samples."""
        crop = self.layout_of_shot(shot).crop
        return crop.left, crop.top, crop.width, crop.height

    def layout_of_shot(self, shot: Shot) -> Layout:
        """Return the geometry during one shot."""
        chosen = replace(self.choices, across=shot.across, down=shot.down)
        return layout_of(self.subject, self.specification, chosen)


def make_plan(
    subject: Subject,
    specification: Specification,
    choices: Choices,
    *,
    speeds: Mapping[str, float] | None = None,
) -> Plan:
    """Return the plan that follows from choices.

    speeds: codec → picture samples encoded a second on this machine, as far as measured. Raises
    geometry.framing.ImpossibleError where the geometry cannot be.
    """
    layout = layout_of(subject, specification, choices)
    wanted = wanted_of(layout, specification, choices)
    profile = choices.coding.known
    assert profile is not None  # noqa: S101  (specifications are checked when they come in)
    plan = Plan(
        subject=subject,
        specification=specification,
        choices=choices,
        layout=layout,
        codec_profile=codec_profile_of(profile, wanted),
        codec_profiles=codec_profiles_of(wanted),
        file_size=_file_size(subject, specification, choices, layout, speeds or {}),
    )
    if not plan.changes_speed:
        return plan
    faster = replace(subject, rate=choices.rate, duration_s=None)
    return replace(plan, file_size=_file_size(faster, specification, choices, layout, speeds or {}))


def _file_size(
    subject: Subject,
    spec: Specification,
    choices: Choices,
    layout: Layout,
    speeds: Mapping[str, float],
) -> FileSize:
    bits = file_size.bits_a_pixel(choices.bit_rate, layout.frame, choices.rate)
    seconds = _duration_s(subject, choices)
    if not seconds:
        return FileSize(
            duration_s=None,
            bytes=None,
            mezzanine_bytes=None,
            bits_a_pixel=bits,
            send_s=None,
            most_bit_rate=None,
        )
    sound = spec.sound.bit_rate if spec.sound and subject.has_sound else 0
    whole = (1 + file_size.CONTAINER_SHARE) * file_size.size_bytes(
        choices.bit_rate + sound, seconds
    )
    most = None
    if spec.most_bytes:
        most = (
            file_size.most_bit_rate(spec.most_bytes / (1 + file_size.CONTAINER_SHARE), seconds)
            - sound
        )
    frames = round(seconds * choices.rate)
    samples = speeds.get(choices.coding.codec)
    speed = samples / (layout.frame[0] * layout.frame[1]) if samples else None
    return FileSize(
        duration_s=seconds,
        bytes=whole,
        mezzanine_bytes=file_size.size_bytes(_mezzanine_rate(layout, choices.rate), seconds),
        bits_a_pixel=bits,
        send_s=file_size.sending_s(whole, choices.line_rate, file_size.LINE_EFFICIENCY),
        most_bit_rate=most,
        encode_s=file_size.encoding_s(frames, speed) if speed else None,
        encode_speed=speed,
    )


def _frames(subject: Subject, choices: Choices) -> int | None:
    """Return how many of the master's frames are delivered; None where nobody knows."""
    if subject.frames is None:
        return None
    first, end = choices.marks(subject.frames)
    return end - first


def _duration_s(subject: Subject, choices: Choices) -> float | None:
    frames = _frames(subject, choices)
    return float(frames / subject.rate) if frames else subject.duration_s


def _mezzanine_rate(layout: Layout, rate: Fraction) -> float:
    coding = COMPARED_MEZZANINE
    profile = next(p for p in PROFILES if (p.codec, p.name) == (coding.codec, coding.profile))
    return profile.usual_rate(layout.frame, rate)
