"""MXF picture descriptors: what each property states. Layout and meaning: SMPTE ST 377-1."""

import struct
import unittest

from shapkeen.core.declared.wrappers.mxf import klv, labels
from shapkeen.core.errors import UnreadableFileError
from tests.builders.headers import VC3_FRAME as FRAME
from tests.builders.mxf import DYNAMIC, RGBA, label, mxf, partition, properties, ratio, unit, whole
from tests.core.declared.test_isobmff import read
from tests.reference import load

LINES = struct.pack(">II", 2, 4)


def said(values: dict[int, bytes] | None = None, **options) -> dict:
    found = read(mxf(FRAME, values=values, **options))
    return {trait: one.value for trait, one in found.witness.items()}


class Descriptor(unittest.TestCase):
    def test_plain(self) -> None:
        found = said()
        self.assertEqual(found["raster"], (1920, 1080))
        self.assertNotIn("display_size", found)
        self.assertEqual((found["pixel_aspect"], found["frame_rate"]), ((1, 1), (25, 1)))
        self.assertEqual((found["bit_depth"], found["chroma"]), (10, "4:2:2"))
        self.assertEqual((found["scan"], found["range"]), ("progressive", "limited"))

    def test_three_rectangles(self) -> None:
        # stored 1088 lines, 1080 sampled, of which a letterboxed part is displayed
        found = said({0x3208: whole(804), 0x320E: ratio(43, 18)})
        self.assertEqual((found["raster"], found["display_size"]), ((1920, 1080), (1920, 804)))
        # 43/18 is rounded: samples are square and not 2881:2880 (reference, boxes section 3)
        self.assertEqual(found["pixel_aspect"], (1, 1))

    def test_anamorphic(self) -> None:
        sizes = {0x3205: whole(1440), 0x3209: whole(1440), 0x3203: whole(1440)}
        self.assertEqual(said(sizes)["pixel_aspect"], (4, 3))

    def test_separate_fields(self) -> None:
        # each field's lines; 21 and 584 is the map of 1080 lines with the first field on top
        fields = {0x320C: whole(1, 1), 0x3202: whole(544), 0x3204: whole(540), 0x3208: whole(540)}
        found = said({**fields, 0x320D: LINES + struct.pack(">II", 21, 584)})
        self.assertEqual((found["raster"], found["scan"]), ((1920, 1080), "top-first"))
        # 525 lines: the lower field comes first
        lower = said({**fields, 0x320D: LINES + struct.pack(">II", 23, 285)})
        self.assertEqual(lower["scan"], "bottom-first")
        turned = {0x320D: LINES + struct.pack(">II", 21, 584), 0x3212: whole(2, 1)}
        self.assertEqual(said({**fields, **turned})["scan"], "bottom-first")
        self.assertEqual(said({0x320C: whole(3, 1)})["scan"], "interlaced")

    def test_range_by_its_levels(self) -> None:
        full = {0x3304: whole(0), 0x3305: whole(1023), 0x3306: whole(1024)}
        self.assertEqual(said(full)["range"], "full")
        self.assertNotIn("range", said({0x3304: whole(100), 0x3305: whole(900)}))

    def test_a_hostile_depth_fills_no_memory(self) -> None:
        found = said({0x3301: whole(0x7F000000)})
        self.assertNotIn("bit_depth", found)
        self.assertNotIn("range", found)

    def test_colour_labels_are_the_references(self) -> None:
        rows = load("codepoints")["mapping"]["MXF"]
        for name, tag, trait, table in (
            ("ColorPrimaries", 0x3219, "primaries", labels.PRIMARIES),
            ("TransferCharacteristic", 0x3210, "transfer", labels.TRANSFERS),
            ("CodingEquations", 0x321A, "matrix", labels.MATRICES),
        ):
            self.assertEqual(len(rows[name]), len(table))
            for code, text, _ in rows[name]:
                value = bytes.fromhex(text.replace(".", ""))
                self.assertEqual(said({tag: value})[trait], code, text)
                other = value[:7] + b"\x02" + value[8:]
                self.assertEqual(said({tag: other})[trait], code, "another register version")

    def test_unknown_labels_are_silence(self) -> None:
        self.assertNotIn("transfer", said({0x3210: label("04010101017F0000")}))

    def test_mastering_display_by_the_primer(self) -> None:
        # SMPTE ST 2067-21: 0.00002 and 0.0001 cd/m²; tags come from the file's own primer
        ends = ("01", "02", "03", "04")
        names = {
            DYNAMIC + i: bytes.fromhex(f"060E2B340101010E0420040101{end}0000")
            for i, end in enumerate(ends)
        }
        values = {
            DYNAMIC: struct.pack(">6H", 34000, 16000, 13250, 34500, 7500, 3000),
            DYNAMIC + 1: struct.pack(">2H", 15635, 16450),
            DYNAMIC + 2: whole(10_000_000),
            DYNAMIC + 3: whole(50),
        }
        display = said(values, labels=names)["mastering_display"]
        self.assertEqual((display["red"], display["green"]), ((0.68, 0.32), (0.265, 0.69)))
        self.assertEqual((display["max"], display["min"]), (1000.0, 0.005))
        self.assertNotIn("mastering_display", said(values))

    def test_rgb_descriptor(self) -> None:
        values = {0x3406: whole(1023), 0x3407: whole(0), 0x3301: b"", 0x3302: b""}
        self.assertEqual(said(values, kind=RGBA)["range"], "full")


class Structure(unittest.TestCase):
    def test_lengths(self) -> None:
        # ITU-T X.690 8.1.3
        self.assertEqual(klv.ber_length(b"\x7f"), (127, 1))
        self.assertEqual(klv.ber_length(b"\x83\x01\x00\x00"), (65536, 4))
        for data in (b"\x80", b"\x83\x01", b"\x89" + bytes(9)):
            self.assertIsNone(klv.ber_length(data))

    def test_a_header_left_open_is_completed_in_the_footer(self) -> None:
        found = read(mxf(FRAME, in_footer=True))
        self.assertEqual(found.witness["raster"].value, (1920, 1080))

    def test_codec_and_essence(self) -> None:
        found = read(mxf(FRAME))
        self.assertEqual((found.video.codec, found.video.frame_count), ("vc3", 10))
        self.assertEqual(found.coded.samples[0].data, FRAME)

    def test_constant_edit_units_give_the_second_picture(self) -> None:
        index = properties({0x3F05: whole(len(unit(bytes(16), FRAME)))})
        first, *more = read(mxf(FRAME, index=index)).coded.samples
        self.assertEqual((first.where, len(more)), ("picture 0", 0))

    def test_sound_alone_is_no_picture(self) -> None:
        for data in (partition(2), mxf(FRAME, values={0x3203: b""})):
            with self.assertRaises(UnreadableFileError) as caught:
                read(data)
            self.assertEqual(caught.exception.code, "no-picture")
