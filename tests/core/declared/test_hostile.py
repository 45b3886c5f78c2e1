"""Files made to hurt: whatever the bytes, an error object or a declaration, and quickly."""

import io
import json
import random
import unittest
from fractions import Fraction

from hypothesis import given, settings
from hypothesis import strategies as st

from shapkeen.core.declared import read_declaration, read_outline
from shapkeen.core.declared.layout import Field, FieldError, Layout
from shapkeen.core.declared.streams.nal import units_of_sample
from shapkeen.core.declared.window import ShortReadError, Window
from shapkeen.core.declared.wrappers.isobmff.boxes import MANY_BOXES, MAX_TOP_BOXES, walk
from shapkeen.core.errors import UnreadableFileError
from shapkeen.core.reported.declaration import declaration_object
from tests.builders import media
from tests.builders.boxes import box, movie
from tests.builders.ebml import element, matroska
from tests.builders.headers import VC3_FRAME, Vui, h265_sps
from tests.builders.mxf import mxf, ratio, whole
from tests.builders.small import SCRIPT, flv, flv_picture
from tests.core.declared.test_isobmff import nclx, read, said
from tests.fuzz import limited, mutate, seeds

SEED = 20261124
MUTATIONS = 3000


class Mutations(unittest.TestCase):
    def test_no_mutation_escapes(self) -> None:
        chance = random.Random(SEED)
        healthy = list(seeds())
        for number in range(MUTATIONS):
            path = media.temporary("mutated.bin", mutate(chance.choice(healthy), chance))
            with self.subTest(number=number, seed=SEED):
                try:
                    with limited():
                        read_declaration(path)
                        read_outline(path)
                except UnreadableFileError as error:
                    self.assertTrue(error.code and error.text)

    def test_every_seed_is_healthy(self) -> None:
        for number, data in enumerate(seeds()):
            with self.subTest(seed=number):
                read(data)

    def test_nested_and_endless_boxes(self) -> None:
        nested = b""
        for _ in range(2000):
            nested = box("moov", nested)
        for data in (nested, box("ftyp", b"isom") + box("free") * 50_000):
            with self.assertRaises(UnreadableFileError):
                read(data)

    def test_hundreds_of_thousands_of_tiny_boxes_are_not_walked_through(self) -> None:
        tiny = box("ftyp", b"isom") + box("free") * 312_500
        window = Window(io.BytesIO(tiny), 0, len(tiny))
        walked = sum(1 for _ in walk(window, "", 0, MAX_TOP_BOXES))
        self.assertLessEqual(walked, MANY_BOXES + 1)
        # fragments of half a second for a day are more, and each is larger
        large = box("moof", bytes(80)) * 60_000
        window = Window(io.BytesIO(large), 0, len(large))
        self.assertEqual(sum(1 for _ in walk(window, "", 0, MAX_TOP_BOXES)), 60_000)
        with self.assertRaises(UnreadableFileError):
            read_declaration(media.temporary("tiny.mp4", tiny))

    def test_tables_that_hold_fewer_samples_than_the_map_says(self) -> None:
        data = movie()
        place = data.index(b"stsz") + 12
        count = int.from_bytes(data[place : place + 4], "big")
        self.assertGreater(count, 0)
        none = data[:place] + bytes(4) + data[place + 4 :]
        self.assertEqual(read(none).witness["raster"].value, (1920, 1080))

    def test_units_of_nothing(self) -> None:
        data = b"\0\0\1" + bytes(5) + b"\0\0\1" + b"\x67\x42" + b"\0\0\1\0"
        self.assertEqual(list(units_of_sample(data, 0)), [b"\x67\x42"])

    def test_numbers_that_are_none_are_passed_over(self) -> None:
        for number in (float("nan"), float("inf")):
            script = SCRIPT | {"duration": number, "framerate": number, "videodatarate": number}
            path = media.temporary("no-number.flv", flv(*flv_picture(), script=script))
            found = read_declaration(path)
            json.dumps(declaration_object(found), allow_nan=False)

    def test_tables_that_claim_billions(self) -> None:
        data = movie()
        for kind in (b"stsz", b"stts", b"stsc", b"stco", b"stsd"):
            place = data.index(kind) + 8 + (4 if kind == b"stsz" else 0)
            lying = data[:place] + b"\xff\xff\xff\xf0" + data[place + 4 :]
            with self.subTest(kind=kind):
                self.assertEqual(read(lying).witness["raster"].value, (1920, 1080))


class RoundTrips(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.tuples(*[st.integers(0, 2**16 - 1)] * 3), st.booleans())
    def test_colour_boxes(self, codes: tuple[int, int, int], full_range: bool) -> None:
        found = said(nclx(*codes, int(full_range)))
        self.assertEqual(tuple(found[t] for t in ("primaries", "transfer", "matrix")), codes)
        self.assertEqual(found["range"], "full" if full_range else "limited")

    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(1, 40), st.booleans()), min_size=1, max_size=8), st.data()
    )
    def test_layouts(self, widths: list[tuple[int, bool]], data: st.DataObject) -> None:
        fields = tuple(Field(f"f{i}", bits, signed) for i, (bits, signed) in enumerate(widths))
        layout = Layout("any", fields, source="this test")
        values = {
            field.name: data.draw(
                st.integers(-(1 << (field.bits - 1)), (1 << (field.bits - 1)) - 1)
                if field.signed
                else st.integers(0, (1 << field.bits) - 1)
            )
            for field in fields
        }
        self.assertEqual(layout.read(layout.write(**values)), values)

    @settings(max_examples=60, deadline=None)
    @given(
        size=st.tuples(st.integers(8, 8192), st.integers(8, 8192)),
        aspect=st.tuples(st.integers(1, 65535), st.integers(1, 65535)),
        colour=st.tuples(*[st.integers(0, 255)] * 3),
        sets=st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), max_size=6),
    )
    def test_h265_parameter_sets(self, size, aspect, colour, sets) -> None:
        from math import gcd

        from tests.core.declared.test_streams import h265, values

        vui = Vui(aspect=aspect, full_range=True, colour=colour)
        unit = h265_sps(size=size, vui=vui, reference_sets=tuple(sets))
        found = values(unit, h265)
        divisor = gcd(*aspect)
        self.assertEqual(found["raster"], size)
        self.assertEqual(found["pixel_aspect"], (aspect[0] // divisor, aspect[1] // divisor))
        self.assertEqual(tuple(found[t] for t in ("primaries", "transfer", "matrix")), colour)


class Bounds(unittest.TestCase):
    def test_layout_names_the_field_that_is_missing(self) -> None:
        layout = Layout("pasp", (Field("h", 32), Field("v", 32)), source="this test")
        with self.assertRaisesRegex(FieldError, r"pasp\.v"):
            layout.read(bytes(6))

    def test_window_gives_nothing_outside_itself(self) -> None:
        with media.temporary("window.bin", bytes(range(10))).open("rb") as source:
            window = Window(source, 2, 8)
            self.assertEqual(window.read(0, 2), b"\2\3")
            self.assertEqual(window.part(3, 3).read(0, 3), b"\5\6\7")
            for offset, count in ((0, 7), (-1, 2), (5, 2), (0, -1)):
                with self.assertRaises(ShortReadError):
                    window.read(offset, count)


class WrapperRoundTrips(unittest.TestCase):
    """What our writers put into random valid structures, the readers give back."""

    @settings(max_examples=40, deadline=None)
    @given(
        size=st.tuples(st.integers(2, 4096), st.integers(2, 4096)),
        crop=st.tuples(*[st.integers(0, 1)] * 4),
        codes=st.tuples(*[st.integers(0, 255)] * 3),
        stereo=st.sampled_from((1, 2, 3, 11, 13)),
        pose=st.tuples(*[st.integers(-180, 180)] * 3),
    )
    def test_matroska(self, size, crop, codes, stereo, pose) -> None:
        from shapkeen.core.declared.wrappers.matroska import elements as ids

        sides = (ids.CROP_LEFT, ids.CROP_RIGHT, ids.CROP_TOP, ids.CROP_BOTTOM)
        wanted = (ids.PRIMARIES, ids.TRANSFER, ids.MATRIX)
        colour = element(ids.COLOUR, *map(element, wanted, codes))
        angles = (element(i, float(v)) for i, v in zip(ids.POSE.values(), pose, strict=True))
        sphere = element(ids.PROJECTION, element(ids.PROJECTION_TYPE, 1), *angles)
        parts = (*map(element, sides, crop), colour, element(ids.STEREO_MODE, stereo), sphere)
        found = {t: one.value for t, one in read(matroska(*parts, size=size)).witness.items()}
        left, right, top, bottom = crop
        shown = (size[0] - left - right, size[1] - top - bottom)
        self.assertEqual(found.get("raster"), shown if min(shown) > 0 else None)
        self.assertEqual(tuple(found[t] for t in ("primaries", "transfer", "matrix")), codes)
        self.assertEqual(found["stereo"], ids.STEREO_MODES[stereo])
        self.assertEqual(tuple(found["pose"].values()) if any(pose) else pose, pose)

    @settings(max_examples=40, deadline=None)
    @given(
        size=st.tuples(st.integers(2, 8192), st.integers(2, 8192)),
        rate=st.tuples(st.integers(1, 120_000), st.integers(1, 1001)),
        depth=st.integers(8, 16),
        layout=st.sampled_from((0, 1)),
    )
    def test_mxf(self, size, rate, depth, layout) -> None:
        width, height = size
        values = {
            0x3001: ratio(*rate),
            0x320C: whole(layout, 1),
            0x3301: whole(depth),
            **dict.fromkeys((0x3203, 0x3205, 0x3209), whole(width)),
            **dict.fromkeys((0x3202, 0x3204, 0x3208), whole(height)),
        }
        found = {t: v.value for t, v in read(mxf(VC3_FRAME, values=values)).witness.items()}
        self.assertEqual(found["raster"], (width, height * (1 + layout)))
        self.assertEqual(Fraction(*found["frame_rate"]), Fraction(*rate))
        self.assertEqual(found["bit_depth"], depth)

    @settings(max_examples=40, deadline=None)
    @given(
        size=st.tuples(st.integers(1, 8192), st.integers(1, 8192)),
        rate=st.integers(1, 120),
        more=st.dictionaries(st.text("abcxyz", min_size=1, max_size=9), st.floats(), max_size=6),
    )
    def test_flv(self, size, rate, more) -> None:
        known = {"width": float(size[0]), "height": float(size[1]), "framerate": float(rate)}
        found = read(flv(*flv_picture(), script={**more, **known})).witness
        self.assertEqual(found["raster"].value, size)
        self.assertEqual(found["frame_rate"].value, (rate, 1))

    @settings(max_examples=40, deadline=None)
    @given(
        size=st.tuples(st.integers(1, 8192), st.integers(1, 8192)),
        aspect=st.tuples(st.integers(1, 500), st.integers(1, 500)),
        scan=st.sampled_from(("p", "t", "b")),
    )
    def test_y4m(self, size, aspect, scan) -> None:
        line = f"YUV4MPEG2 W{size[0]} H{size[1]} F24:1 I{scan} A{aspect[0]}:{aspect[1]} C420p10\n"
        found = read(line.encode() + b"FRAME\n" + bytes(64)).witness
        self.assertEqual(found["raster"].value, size)
        self.assertEqual(Fraction(*found["pixel_aspect"].value), Fraction(*aspect))
        self.assertEqual(found["bit_depth"].value, 10)
