"""Coded headers: what parameter sets and messages state, from units built bit by bit.

Syntax: ITU-T H.264 7.3.2.1.1 and annex E, H.265 7.3.2.2 and annex E, annex D messages.
"""

import struct
import unittest

from shapkeen.core.declared.coded import CodedHeaders, HeaderUnit
from shapkeen.core.declared.streams import h264, h265, nal, read_stream, sei
from shapkeen.core.declared.streams.bits import BitReader, BitsEndError
from shapkeen.core.declared.streams.model import Reading
from shapkeen.core.errors import UnreadableFileError
from tests.builders.bits import BitWriter
from tests.builders.headers import (
    H264_SEI,
    H265_SEI,
    Vui,
    h264_field_slice,
    h264_sps,
    h264_timing,
    h265_sps,
    h265_vps,
    prores_frame,
)
from tests.builders.headers import sei as sei_unit
from tests.reference import load


def values(sps: bytes, codec=h264) -> dict:
    return dict(codec.read_sps(BitReader(nal.payload(sps)[codec.HEADER_BYTES :])))


def messages(unit: bytes, **options) -> Reading:
    """Return what is collected from a message unit, its header left out."""
    reading = Reading()
    sei.read_messages(nal.payload(unit), "x", reading, **options)
    return reading


def stream(*units: bytes, codec: str = "h264", samples: tuple[bytes, ...] = ()):
    return read_stream(
        CodedHeaders(
            codec=codec,
            length_bytes=4,
            config=tuple(HeaderUnit(unit, "avcC") for unit in units),
            samples=tuple(HeaderUnit(data, f"sample {i}") for i, data in enumerate(samples)),
        )
    )


def sample(*units: bytes) -> bytes:
    return b"".join(struct.pack(">I", len(unit)) + unit for unit in units)


class Bits(unittest.TestCase):
    def test_exp_golomb_codes(self) -> None:
        # H.264 table 9-2: code numbers of the first bit strings
        for text, number in (("1", 0), ("010", 1), ("011", 2), ("00100", 3), ("00111", 6)):
            data = int(text.ljust(8, "0"), 2).to_bytes(1, "big")
            self.assertEqual(BitReader(data).ue(), number, text)

    def test_signed_codes_alternate(self) -> None:
        # H.264 table 9-3
        bits = BitWriter()
        for code in range(7):
            bits.ue(code)
        reader = BitReader(bits.bytes())
        self.assertEqual([reader.se() for _ in range(7)], [0, 1, -1, 2, -2, 3, -3])

    def test_says_when_bits_end(self) -> None:
        with self.assertRaises(BitsEndError):
            BitReader(b"\x01").u(9)
        with self.assertRaises(BitsEndError):
            BitReader(bytes(8)).ue()

    def test_prevention_bytes_come_and_go(self) -> None:
        for raw in (b"\0\0\0", b"\0\0\1\2", b"\0\0\3\0\0\3", bytes(9), b"\5" * 4):
            packed = nal.with_prevention(raw)
            self.assertEqual(nal.payload(packed), raw)
            self.assertNotIn(b"\0\0\1", packed)

    def test_units_of_a_cut_sample(self) -> None:
        data = sample(b"\x67abc", b"\x65" + bytes(50))[:20]
        found = list(nal.units_of_sample(data, 4))
        self.assertEqual(found[0], b"\x67abc")
        self.assertEqual(len(found), 2)


class H264(unittest.TestCase):
    def test_raster_after_cropping(self) -> None:
        # 1080 lines: progressive crops 4 pairs of lines, interlaced 2 (boxes.md section 4)
        self.assertEqual(values(h264_sps())["raster"], (1920, 1080))
        woven = h264_sps(frame_only=False, crop=(0, 0, 0, 2))
        self.assertEqual(values(woven)["raster"], (1920, 1080))
        wide = h264_sps(chroma=3, profile=244, crop=(1, 2, 3, 5))
        self.assertEqual(values(wide)["raster"], (1917, 1080))

    def test_profile_names(self) -> None:
        # ITU-T H.264 annex A
        for idc, flags, name in (
            (66, 0b010000, "Constrained Baseline"),
            (66, 0, "Baseline"),
            (77, 0, "Main"),
            (100, 0, "High"),
            (100, 0b000011, "Constrained High"),
            (110, 0, "High 10"),
            (110, 0b000100, "High 10 Intra"),
            (122, 0, "High 4:2:2"),
            (244, 0, "High 4:4:4 Predictive"),
            (244, 0b000100, "High 4:4:4 Intra"),
        ):
            self.assertEqual(h264.profile_name(idc, flags), name)

    def test_level_names(self) -> None:
        for idc, name in ((40, "4"), (41, "4.1"), (9, "1b"), (52, "5.2")):
            self.assertEqual(h264.level_name(idc, 100, 0), name)
        self.assertEqual(h264.level_name(11, 77, 0b000100), "1b")

    def test_usability_information(self) -> None:
        vui = Vui(
            aspect=(8, 6),
            full_range=True,
            colour=(9, 16, 9),
            chroma_location=2,
            timing=(1001, 48000),
        )
        found = values(h264_sps(vui=vui, depth=10, profile=110))
        self.assertEqual(found["pixel_aspect"], (4, 3))
        self.assertEqual(found["range"], "full")
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual(found["chroma_location"], 2)
        self.assertEqual(found["frame_rate"], (24000, 1001))
        self.assertEqual(found["bit_depth"], 10)

    def test_aspect_table(self) -> None:
        # ITU-T H.273 table 5 (tests/reference/geometry.json)
        for row in load("geometry")["sample_aspect_ratio"]["rows"]:
            idc, pair = row[0], row[1]
            if pair and 1 <= idc <= 16:
                found = values(h264_sps(vui=Vui(aspect_idc=idc)))
                self.assertEqual(found["pixel_aspect"], tuple(pair), idc)

    def test_unspecified_aspect_is_silence(self) -> None:
        self.assertNotIn("pixel_aspect", values(h264_sps(vui=Vui(aspect_idc=0))))
        self.assertNotIn("pixel_aspect", values(h264_sps(vui=Vui(aspect=(0, 1)))))

    def test_other_order_count_types(self) -> None:
        for kind in (1, 2):
            self.assertEqual(values(h264_sps(poc_type=kind))["raster"], (1920, 1080))

    def test_frame_coding_alone_states_no_scan(self) -> None:
        self.assertNotIn("scan", values(h264_sps(vui=Vui())))


class H265(unittest.TestCase):
    def test_raster_depth_and_window(self) -> None:
        found = values(h265_sps(size=(1920, 1088), window=(0, 0, 0, 4)), h265)
        self.assertEqual(found["raster"], (1920, 1080))
        self.assertEqual(found["bit_depth"], 10)
        self.assertEqual(found["chroma"], "4:2:0")
        odd = h265_sps(size=(1920, 1088), window=(0, 1, 0, 5))
        self.assertEqual(values(odd, h265)["raster"], (1918, 1078))

    def test_profile_tier_level(self) -> None:
        found = values(h265_sps(tier=True, level=156), h265)
        self.assertEqual(
            (found["profile"], found["tier"], found["level"]), ("Main 10", "high", "5.2")
        )
        self.assertEqual(values(h265_sps(level=150), h265)["level"], "5")

    def test_range_extension_names(self) -> None:
        # ITU-T H.265 table A.2
        for flags, name in (
            (0b110100001, "Main 4:2:2 10"),
            (0b100110001, "Main 12"),
            (0b111000001, "Main 4:4:4"),
        ):
            found = values(h265_sps(profile=4, extension=flags), h265)
            self.assertEqual(found["profile"], name)

    def test_source_flags_state_the_scan(self) -> None:
        for flags, scan in (((True, False), "progressive"), ((False, True), "interlaced")):
            self.assertEqual(values(h265_sps(source=flags), h265)["scan"], scan)
        for flags in ((False, False), (True, True)):
            self.assertNotIn("scan", values(h265_sps(source=flags), h265))

    def test_usability_information_behind_reference_sets(self) -> None:
        vui = Vui(full_range=False, colour=(9, 18, 9), chroma_location=2, timing=(1001, 60000))
        sps = h265_sps(vui=vui, reference_sets=((2, 1), (1, 0), (0, 3)), layers=3)
        found = values(sps, h265)
        self.assertEqual(found["transfer"], 18)
        self.assertEqual(found["range"], "limited")
        self.assertEqual(found["frame_rate"], (60000, 1001))

    def test_too_many_reference_sets_end_the_reading(self) -> None:
        bits = h265_sps(reference_sets=((40, 40),))
        with self.assertRaises(BitsEndError):
            values(bits, h265)


class Messages(unittest.TestCase):
    DISPLAY = struct.pack(">8HII", 13250, 34500, 7500, 3000, 34000, 16000, 15635, 16450, 10**7, 50)

    def test_mastering_display_order_and_units(self) -> None:
        # H.265 D.2.28: green, blue, red; 0.00002 and 0.0001 cd/m²
        said = messages(sei_unit(b"", (137, self.DISPLAY))).said
        found = said["mastering_display"].value
        self.assertEqual(found["red"], (0.68, 0.32))
        self.assertEqual(found["green"], (0.265, 0.69))
        self.assertEqual((found["max"], found["min"]), (1000.0, 0.005))

    def test_several_messages_in_a_unit(self) -> None:
        unit = sei_unit(b"", (5, bytes(300)), (144, b"\x03\xe8\x01\x90"), (147, b"\x12"))
        said = messages(unit).said
        self.assertEqual(said["content_light"].value, {"max_cll": 1000, "max_fall": 400})
        self.assertEqual(said["alternative_transfer"].value, 18)

    def test_short_message_is_a_notice(self) -> None:
        reading = messages(sei_unit(b"", (137, b"\0\1")))
        self.assertEqual(reading.said, {})
        self.assertEqual([notice.code for notice in reading.notices], ["short-header"])

    def test_lying_length_ends_quietly(self) -> None:
        self.assertEqual(messages(b"\x90\xff\xff\x01\x02").said, {})


class Reader(unittest.TestCase):
    def test_configuration_and_samples_are_both_read(self) -> None:
        later = sample(sei_unit(H265_SEI, (144, b"\x03\xe8\x01\x90")), b"\x26\x01" + bytes(9))
        found = stream(h265_sps(), codec="h265", samples=(later,))
        self.assertEqual(found.witness["content_light"].where, "SEI 144 content light (sample 0)")
        self.assertEqual(found.witness["raster"].where, "SPS (avcC)")

    def test_a_difference_is_a_notice_and_the_first_stands(self) -> None:
        other = h264_sps(vui=Vui(full_range=True, colour=(1, 1, 1)))
        first = h264_sps(vui=Vui(full_range=False, colour=(1, 1, 1)))
        found = stream(first, samples=(sample(other),))
        self.assertEqual(found.witness["range"].value, "limited")
        self.assertIn("stream-differs", [notice.code for notice in found.notices])

    def test_nothing_behind_the_first_slice_is_read(self) -> None:
        hidden = sample(b"\x65\x88", sei_unit(H264_SEI, (147, b"\x12")))
        self.assertNotIn("alternative_transfer", stream(h264_sps(), samples=(hidden,)).witness)

    def test_cut_parameter_set_keeps_what_came_before(self) -> None:
        sps = h264_sps(vui=Vui(full_range=True, colour=(9, 16, 9), timing=(1, 50)))
        found = stream(sps[:-6])
        self.assertEqual(found.witness["raster"].value, (1920, 1080))
        self.assertEqual([notice.code for notice in found.notices], ["short-header"])

    def test_no_parameter_set_is_unreadable(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            stream(b"\x68\xee")
        self.assertEqual(caught.exception.code, "no-parameter-set")


class ScanAndLayers(unittest.TestCase):
    WOVEN = {"frame_only": False, "crop": (0, 0, 0, 2)}

    def test_h264_picture_structures(self) -> None:
        # H.264 table D-1
        for buffers in (False, True):
            sps = h264_sps(vui=Vui(full_range=False), buffers=buffers, pic_struct=True)
            for structure, scan in ((0, "progressive"), (3, "top-first"), (4, "bottom-first")):
                timing = sei_unit(H264_SEI, (1, h264_timing(structure, buffers=buffers)))
                found = stream(sps, samples=(sample(timing, b"\x65\x88"),))
                self.assertEqual(found.witness["scan"].value, scan)
                self.assertEqual(found.witness["scan"].where, "SEI 1 picture timing (sample 0)")

    def test_h264_timing_without_structures_says_nothing(self) -> None:
        timing = sei_unit(H264_SEI, (1, h264_timing(3)))
        found = stream(h264_sps(vui=Vui()), samples=(sample(timing, b"\x65\x88"),))
        self.assertNotIn("scan", found.witness)

    def test_h264_field_coding(self) -> None:
        for bottom, scan in ((False, "top-first"), (True, "bottom-first")):
            unit = h264_field_slice(bottom=bottom)
            found = stream(h264_sps(**self.WOVEN), samples=(sample(unit),))
            self.assertEqual(found.witness["scan"].value, scan)
            self.assertNotIn("scan", stream(h264_sps(), samples=(sample(unit),)).witness)

    def test_h264_second_view(self) -> None:
        subset = b"\x6f\x80\x00\x28\xac"
        self.assertEqual(stream(h264_sps(), subset).witness["stereo"].value, "multiview")

    def test_h265_video_parameter_set_gives_the_rate(self) -> None:
        found = stream(h265_vps(timing=(1001, 24000)), h265_sps(), codec="h265")
        self.assertEqual(found.witness["frame_rate"].value, (24000, 1001))
        self.assertEqual(found.witness["frame_rate"].where, "VPS (avcC)")
        # profile and level are the sequence parameter set's own
        self.assertEqual((found.profile, found.level), ("Main 10", "5.1"))

    def test_h265_fields_made_exact_by_timing(self) -> None:
        # H.265 table D.2; the flag alone leaves the order open
        sps = h265_sps(source=(False, True), field_sequence=True, field_info=True)
        for structure, scan in ((1, "top-first"), (2, "bottom-first"), (9, "bottom-first")):
            timing = sei_unit(H265_SEI, (1, BitWriter().u(4, structure).u(2, 0).bytes()))
            found = stream(sps, codec="h265", samples=(sample(timing, b"\x26\x01\xaf"),))
            self.assertEqual(found.witness["scan"].value, scan)
            self.assertNotIn("stream-differs", [notice.code for notice in found.notices])

    def test_h265_display_window_is_a_notice_and_no_raster(self) -> None:
        found = stream(h265_sps(display_window=(0, 0, 138, 138)), codec="h265")
        self.assertEqual(found.witness["raster"].value, (3840, 2160))
        self.assertEqual([notice.code for notice in found.notices], ["display-window"])

    def test_h265_other_layers_are_passed_over(self) -> None:
        sps = h265_sps()
        other = bytes([sps[0], sps[1] | 1 << 3]) + h265_sps(size=(64, 64))[2:]
        found = stream(other, sps, codec="h265")
        self.assertEqual(found.witness["raster"].value, (3840, 2160))
        self.assertEqual(found.notices, ())

    def test_units_behind_start_codes(self) -> None:
        # H.264 annex B: three- and four-byte start codes, zeros between units
        units = (h264_sps(), b"\x68\xee\x38\x80", b"\x65\x88\x84")
        data = b"\0\0\0\1" + units[0] + b"\0\0\0\0\1" + units[1] + b"\0\0\1" + units[2]
        self.assertEqual(list(nal.units_of_sample(data, 0)), list(units))
        bare = CodedHeaders(
            codec="h264", length_bytes=0, config=(), samples=(HeaderUnit(data, "packet 0"),)
        )
        self.assertEqual(read_stream(bare).witness["raster"].value, (1920, 1080))

    def test_ambient_light_is_outlined_without_a_trait(self) -> None:
        reading = messages(sei_unit(b"", (148, struct.pack(">IHH", 3_140_000, 15635, 16450))))
        self.assertEqual(reading.said, {})
        named = {field.name: field.value for field in reading.parts[0].fields}
        self.assertEqual(named["ambient_illuminance"], 3_140_000)


class EyesSphereAndDynamicHdr(unittest.TestCase):
    def message(self, number: int, payload: bytes) -> dict:
        said = messages(sei_unit(b"", (number, payload))).said
        return {trait: one.value for trait, one in said.items()}

    def packing(self, kind: int, meaning: int, *, cancel: bool = False) -> bytes:
        bits = BitWriter().ue(0).flags(cancel).u(7, kind).flags(False).u(6, meaning).u(6, 0)
        return bits.u(16, 0).u(8, 0).bytes()

    def test_frame_packing(self) -> None:
        # tests/reference/codepoints.json: frame_packing_arrangement_type
        for kind, meaning, stereo in (
            (3, 1, "left-right"),
            (3, 2, "right-left"),
            (4, 1, "top-bottom"),
            (4, 2, "bottom-top"),
            (5, 1, "frame-sequential"),
            (3, 0, "other"),
            (0, 1, "other"),
            (6, 0, "mono"),
            (5, 40, "frame-sequential"),
            (3, 40, "other"),
        ):
            self.assertEqual(self.message(45, self.packing(kind, meaning)), {"stereo": stereo})
        self.assertEqual(self.message(45, self.packing(3, 1, cancel=True)), {})

    def test_display_orientation(self) -> None:
        # H.264 table D-1, payload 47; anticlockwise in parts of 65536 to a whole turn
        for flips, turn, said in (
            ((False, False), 16384, {"rotation": 270}),
            ((False, False), 49152, {"rotation": 90}),
            ((True, False), 0, {"mirror": True}),
            ((False, True), 0, {"mirror": True, "rotation": 180}),
            ((True, True), 0, {"rotation": 180}),
            ((False, False), 0, {}),
        ):
            bits = BitWriter().flags(False, *flips).u(16, turn).ue(1).flags(False).bytes()
            with self.subTest(flips=flips, turn=turn):
                self.assertEqual(self.message(47, bits), said)
        self.assertEqual(self.message(47, BitWriter().flags(True).bytes()), {})

    def test_sphere_messages(self) -> None:
        self.assertEqual(self.message(150, b"\x00\x00"), {"projection": "equirectangular"})
        self.assertEqual(self.message(151, b"\x00"), {"projection": "cubemap"})
        self.assertEqual(self.message(150, b"\x80"), {})
        turned = b"\x00" + struct.pack(">iii", -30 << 16, 0, 5 << 16)
        self.assertEqual(
            self.message(154, turned)["pose"], {"yaw": -30.0, "pitch": 0.0, "roll": 5.0}
        )
        self.assertEqual(self.message(154, bytes(13)), {})

    def test_dynamic_hdr_and_captions(self) -> None:
        for payload, kinds in (
            (b"\xb5\x00\x3c\x00\x01\x04\x01" + bytes(40), ("st2094-40",)),
            (b"\xb5\x00\x31GA94\x09" + bytes(9), ("st2094-10",)),
            (b"\xb5\x00\x31GA94\x03" + bytes(9), None),
            (b"\xb5\x00\x3a\x00" + bytes(9), ("other",)),
        ):
            self.assertEqual(self.message(4, payload).get("dynamic_hdr"), kinds)


class ProResFrames(unittest.TestCase):
    def reading(self, **values: int):
        found = stream(codec="prores", samples=(prores_frame(**values),))
        return {k: v.value for k, v in found.witness.items()}

    def test_fields(self) -> None:
        # SMPTE RDD 36 5.1, codes as in tests/reference/codepoints.json
        found = self.reading(primaries=9, transfer=16, matrix=9, interlace=1)
        self.assertEqual(found["raster"], (1920, 1080))
        self.assertEqual((found["chroma"], found["scan"]), ("4:2:2", "top-first"))
        self.assertEqual((found["pixel_aspect"], found["frame_rate"]), ((1, 1), (24000, 1001)))
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])

    def test_zero_means_unknown_and_never_identity(self) -> None:
        self.assertEqual(self.reading()["matrix"], 2)

    def test_picture_shapes_give_sample_shapes(self) -> None:
        self.assertEqual(self.reading(aspect=3, width=1440)["pixel_aspect"], (4, 3))
        self.assertNotIn("pixel_aspect", self.reading(aspect=0))

    def test_no_frame_header_is_unreadable(self) -> None:
        with self.assertRaises(UnreadableFileError):
            stream(codec="prores", samples=(bytes(60),))
