"""What the file says: traits beside each other, every field with its words, and the record."""

import json
import unittest

from shapkeen.core.colour.codepoints import MATRICES, PRIMARIES, TRANSFERS
from shapkeen.core.declared import FieldRead, Outline, Part, read_declaration, read_outline
from shapkeen.core.reported.sheet import file_sheet, outline_from_object, outline_object, words
from tests.builders import media
from tests.builders.evidence import declaration

COLR = Part(
    name="colr",
    where="moov/…/colr",
    size=19,
    start=3106,
    fields=(FieldRead("primaries", 9), FieldRead("transfer", 16), FieldRead("reserved", 0)),
)
OUTLINE = Outline(
    wrapper=(Part(name="moov", where="moov", size=4000, start=28, parts=(COLR,)),),
    stream=(
        Part(
            name="SEI 137 mastering display",
            where="hvcC",
            size=24,
            fields=(FieldRead("red_x", 34000), FieldRead("max", 10_000_000), FieldRead("min", 50)),
        ),
    ),
)


class Sheet(unittest.TestCase):
    def setUp(self) -> None:
        made = declaration(wrapper={"transfer": 1}, both={"matrix": 9})
        self.sheet = file_sheet(made, OUTLINE)

    def test_both_witnesses_beside_each_other(self) -> None:
        lines = {line.title: line for line in self.sheet.traits}
        transfer = lines["Transfer function"]
        self.assertEqual((transfer.wrapper, transfer.stream), ("BT.709", "PQ"))
        self.assertEqual(transfer.agreement, "differ")
        self.assertEqual(lines["Matrix coefficients"].agreement, "agree")
        self.assertEqual(lines["Mastering display"].agreement, "only the stream")
        self.assertEqual(lines["Mastering display"].wrapper, "")
        self.assertTrue(all(line.words for line in self.sheet.traits))

    def test_codes_that_mean_the_same_agree(self) -> None:
        made = declaration(wrapper={"transfer": 1}, stream={"transfer": 14})
        lines = {line.title: line for line in file_sheet(made, OUTLINE).traits}
        self.assertEqual(lines["Transfer function"].agreement, "agree")

    def test_traits_that_nobody_states_are_listed(self) -> None:
        self.assertIn("Projection", self.sheet.silent)
        self.assertNotIn("Raster", self.sheet.silent)

    def test_fields_have_values_in_words_and_units(self) -> None:
        colr = self.sheet.wrapper[0].parts[0]
        fields = {field.name: field for field in colr.fields}
        self.assertEqual((fields["transfer"].value, fields["transfer"].called), ("16", "PQ"))
        self.assertIn("light", fields["transfer"].words)
        display = {field.name: field.called for field in self.sheet.stream[0].fields}
        # SMPTE ST 2086 in H.265 D.2.28: 0.00002 and 0.0001 cd/m²
        self.assertEqual(display, {"red_x": "0.68", "max": "1000 cd/m²", "min": "0.005 cd/m²"})

    def test_what_matters_stands_open_with_all_around_it(self) -> None:
        self.assertTrue(self.sheet.wrapper[0].open)
        self.assertTrue(self.sheet.wrapper[0].parts[0].open)
        self.assertFalse(self.sheet.stream[0].open)

    def test_places(self) -> None:
        self.assertEqual(self.sheet.wrapper[0].parts[0].place, "byte 3\u202f106, 19 bytes")
        self.assertEqual(self.sheet.stream[0].place, "hvcC, 24 bytes")
        self.assertEqual(self.sheet.field_count, 6)

    def test_the_record_comes_back_as_it_was(self) -> None:
        stored = json.loads(json.dumps(outline_object(OUTLINE)))
        self.assertEqual(outline_from_object(stored), OUTLINE)

    def test_a_real_file(self) -> None:
        path = media.hdr_master()
        sheet = file_sheet(read_declaration(path), read_outline(path))
        self.assertGreater(sheet.field_count, 100)
        self.assertTrue({part.name for part in sheet.stream} >= {"SPS", "VPS"})


class Words(unittest.TestCase):
    def test_fields_of_every_format_are_explained_alike(self) -> None:
        for names in (
            ("primaries", "colour_primaries", "color_primaries", "Primaries", "ColorPrimaries"),
            ("transfer", "transfer_characteristics", "TransferCharacteristic"),
            ("matrix", "matrix_coefficients", "MatrixCoefficients", "CodingEquations"),
            ("full_range", "video_full_range_flag", "Range", "color_range", "BlackRefLevel"),
            ("bit_depth_luma_minus8", "BitsPerChannel", "ComponentDepth", "bits_per_raw_sample"),
            ("PixelWidth", "pic_width_in_mbs_minus1", "max_frame_width_minus_1", "StoredWidth"),
        ):
            self.assertEqual(len({words.field_words(name) for name in names}), 1, names)
            self.assertTrue(words.field_words(names[0]))

    def test_numbered_names_keep_their_words(self) -> None:
        self.assertEqual(words.part_words("trak[1]"), words.part_words("trak"))

    def test_plain_figures_get_their_unit_alone(self) -> None:
        self.assertEqual(words.value_words("clli", "max_cll", 900), "cd/m²")

    def test_values_are_called_as_in_h273(self) -> None:
        for name, table in (
            ("colour_primaries", PRIMARIES),
            ("transfer_characteristics", TRANSFERS),
            ("matrix_coefficients", MATRICES),
        ):
            for code, called in table.items():
                self.assertEqual(words.value_words("SPS", name, code), called)

    def test_what_does_nothing_to_the_picture_has_no_words(self) -> None:
        for name in ("creation", "reserved", "log2_max_frame_num_minus4", "TrackUID"):
            self.assertEqual(words.field_words(name), "")
