"""Files made to hurt: whatever the bytes, an error object or a declaration, and quickly."""

import random
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from shapkeen.core.declared import read_declaration, read_outline
from shapkeen.core.declared.layout import Field, FieldError, Layout
from shapkeen.core.declared.window import ShortReadError, Window
from shapkeen.core.errors import UnreadableFileError
from tests.builders import media
from tests.builders.boxes import box, movie
from tests.builders.headers import Vui, h265_sps
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
