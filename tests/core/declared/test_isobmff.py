"""ISO base media boxes: what each states, from files built of the reader's own layouts.

Layouts: ISO/IEC 14496-12, QuickTime File Format, Spherical Video V1 and V2.
"""

import io
import struct
import unittest
from fractions import Fraction

from shapkeen.core.declared.window import Window
from shapkeen.core.declared.wrappers import read_wrapper
from shapkeen.core.declared.wrappers.isobmff import layouts
from shapkeen.core.errors import UnreadableFileError
from tests.builders.boxes import avcc, box, full, hvcc, large, movie, sample_table, track
from tests.builders.headers import h265_sps

UUID_V1 = bytes.fromhex("ffcc8263f8554a938814587a02521fdd")
ONE = 1 << 16


def read(data: bytes):
    return read_wrapper(Window(io.BytesIO(data), 0, len(data)))


def said(*children: bytes, **options) -> dict:
    return {trait: one.value for trait, one in read(movie(*children, **options)).witness.items()}


def nclx(primaries: int, transfer: int, matrix: int, full_range: int = 0) -> bytes:
    return box("colr", b"nclx", struct.pack(">HHHB", primaries, transfer, matrix, full_range << 7))


class SampleEntry(unittest.TestCase):
    def test_colour_with_and_without_range(self) -> None:
        found = said(nclx(9, 16, 9, 1))
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual(found["range"], "full")
        nclc = said(box("colr", b"nclc", struct.pack(">HHH", 1, 1, 1)))
        self.assertNotIn("range", nclc)
        self.assertEqual(nclc["matrix"], 1)

    def test_unspecified_is_stated_as_two(self) -> None:
        self.assertEqual(said(nclx(2, 2, 2))["transfer"], 2)

    def test_profile_and_unknown_colour_are_notices(self) -> None:
        for kind, code in ((b"prof", "icc-profile"), (b"what", "unknown-colr")):
            reading = read(movie(box("colr", kind, bytes(20))))
            self.assertEqual([n.code for n in reading.notices], [code])
            self.assertNotIn("transfer", reading.witness)

    def test_second_colour_box_is_a_notice(self) -> None:
        reading = read(movie(nclx(9, 16, 9), nclx(1, 1, 1)))
        self.assertEqual(reading.witness["transfer"].value, 16)
        self.assertEqual({n.code for n in reading.notices}, {"repeated-box"})

    def test_place_names_the_box(self) -> None:
        place = read(movie(nclx(9, 16, 9))).witness["transfer"].where
        self.assertEqual(place, "moov/trak[0]/mdia/minf/stbl/stsd/avc1/colr")

    def test_pixel_aspect_in_lowest_terms(self) -> None:
        self.assertEqual(said(box("pasp", struct.pack(">II", 40, 30)))["pixel_aspect"], (4, 3))
        self.assertNotIn("pixel_aspect", said(box("pasp", struct.pack(">II", 0, 3))))

    def test_clean_aperture(self) -> None:
        clap = box("clap", struct.pack(">IIIIiIiI", 1888, 1, 1062, 1, -3, 2, 0, 1))
        found = said(clap)["clean_aperture"]
        self.assertEqual(found["width"], (1888, 1))
        self.assertEqual(found["h_offset"], (-3, 2))

    def test_field_orders(self) -> None:
        # QuickTime File Format, field handling: 9 and 14 store one field first and show the other
        for raw, scan in (
            ((1, 0), "progressive"),
            ((2, 9), "bottom-first"),
            ((2, 14), "top-first"),
            ((2, 1), "top-first"),
            ((2, 6), "bottom-first"),
            ((2, 0), "interlaced"),
        ):
            self.assertEqual(said(box("fiel", bytes(raw)))["scan"], scan)

    def test_mastering_display_and_light_level(self) -> None:
        display = struct.pack(
            ">8HII", 13250, 34500, 7500, 3000, 34000, 16000, 15635, 16450, 10**7, 50
        )
        found = said(box("mdcv", display), box("clli", struct.pack(">HH", 1000, 400)))
        self.assertEqual(found["mastering_display"]["blue"], (0.15, 0.06))
        self.assertEqual(found["mastering_display"]["max"], 1000.0)
        self.assertEqual(found["content_light"], {"max_cll": 1000, "max_fall": 400})

    def test_dynamic_hdr_record(self) -> None:
        for kind in ("dvcC", "dvvC"):
            self.assertEqual(said(box(kind, bytes(24)))["dynamic_hdr"], ("st2094-10",))

    def test_short_box_is_a_notice(self) -> None:
        for kind in ("pasp", "clap", "mdcv", "clli", "fiel"):
            reading = read(movie(box(kind, b"\0")))
            self.assertEqual([n.code for n in reading.notices], ["short-box"], kind)

    def test_configuration_states_depth_and_chroma(self) -> None:
        found = said(config=hvcc(h265_sps()), entry_kind="hvc1")
        self.assertEqual((found["bit_depth"], found["chroma"]), (10, "4:2:0"))
        self.assertNotIn("bit_depth", said(config=avcc(high=False)[:-4] + bytes(4)))


class TrackHeader(unittest.TestCase):
    def test_orientations(self) -> None:
        # boxes.md, shown by decoding a marked picture
        for (a, b, c, d), rotation, mirror in (
            ((0, 1, -1, 0), 90, None),
            ((0, -1, 1, 0), 270, None),
            ((-1, 0, 0, -1), 180, None),
            ((-1, 0, 0, 1), None, True),
            ((1, 0, 0, -1), 180, True),
            ((1, 0, 0, 1), None, None),
        ):
            matrix = (a * ONE, b * ONE, 0, c * ONE, d * ONE, 0, 0, 0, 1 << 30)
            found = said(matrix=matrix)
            self.assertEqual(found.get("rotation"), rotation)
            self.assertEqual(found.get("mirror"), mirror)

    def test_slanted_matrix_is_a_notice(self) -> None:
        reading = read(movie(matrix=(ONE, ONE, 0, -ONE, ONE, 0, 0, 0, 1 << 30)))
        self.assertEqual([n.code for n in reading.notices], ["odd-matrix"])

    def test_display_size_only_where_it_differs(self) -> None:
        self.assertNotIn("display_size", said())
        self.assertEqual(said(shown=(2560, 1080))["display_size"], (2560, 1080))
        self.assertNotIn("pixel_aspect", said(shown=(2560, 1080)))

    def test_constant_rate(self) -> None:
        self.assertEqual(said()["frame_rate"], (24000, 1001))

    def test_uneven_times_state_no_rate(self) -> None:
        def table(deltas):
            return sample_table(_entry(), deltas=deltas, sizes=(9,) * 6)

        for deltas, rate in (
            (((3, 1001), (3, 2002)), None),
            (((5, 1000), (1, 1700)), (24, 1)),  # the last one trimmed to the track's end
        ):
            data = _file(box("moov", track(table(deltas))))
            found = read(data).witness.get("frame_rate")
            self.assertEqual(found.value if found else None, rate)


def _entry() -> bytes:
    from tests.builders.boxes import entry

    return entry("avc1", avcc())


def _file(*boxes: bytes) -> bytes:
    return box("ftyp", b"isom", bytes(4)) + b"".join(boxes) + box("mdat", bytes(100))


class Choosing(unittest.TestCase):
    def test_first_enabled_picture_is_described(self) -> None:
        wide = track(sample_table(_entry()), enabled=False)
        other = track(sample_table(_entry()), track_id=2)
        reading = read(_file(box("moov", wide, other)))
        self.assertIn("trak[1]", reading.witness["raster"].where)
        self.assertEqual([n.code for n in reading.notices], ["other-picture"])

    def test_cover_pictures_are_passed_over(self) -> None:
        from tests.builders.boxes import entry

        cover = track(sample_table(entry("png ", b""), sizes=(9,), deltas=((1, 1001),)))
        reading = read(_file(box("moov", cover, track(sample_table(_entry())))))
        self.assertEqual(reading.video.codec_tag, "avc1")

    def test_sound_is_told_in_short(self) -> None:
        head = layouts.AUDIO_ENTRY.write(channels=2, sample_bits=16, rate_16_16=48000 << 16)
        rate = box("btrt", struct.pack(">III", 0, 192000, 128000))
        sound = track(
            sample_table(box("mp4a", head, rate)), handler="soun", timescale=48000, track_id=2
        )
        audio = read(movie(more_tracks=(sound,))).audio[0]
        self.assertEqual((audio.codec, audio.sample_rate_hz, audio.channels), ("aac", 48000, 2))
        self.assertEqual(audio.bit_rate, 128000)

    def test_index_order_and_wrapper(self) -> None:
        self.assertTrue(read(movie()).index_first)
        self.assertFalse(read(movie(index_first=False)).index_first)
        self.assertEqual(read(movie(brand=b"qt  ")).wrapper, "mov")
        self.assertEqual(read(movie()).wrapper, "mp4")

    def test_measured_bit_rate(self) -> None:
        # 18 bytes over 2 × 1001 ÷ 24000 s
        expected = round(Fraction(18 * 8 * 24000, 2002))
        self.assertEqual(read(movie()).video.bit_rate, expected)


class Samples(unittest.TestCase):
    def test_wide_offsets_find_the_samples(self) -> None:
        table = sample_table(_entry(), offset=24, wide=True)
        data = box("ftyp", b"isom", b"\0" * 4) + box("mdat", b"A" * 18) + box("moov", track(table))
        self.assertEqual(read(data).coded.samples[0].data, b"A" * 9)

    def test_64_bit_sizes(self) -> None:
        data = movie()
        start = data.index(b"mdat") - 4
        self.assertEqual(read(data[:start] + large("mdat", data[start + 8 :])).wrapper, "mp4")

    def test_fragments(self) -> None:
        empty = sample_table(_entry(), deltas=(), sizes=())
        trex = full("trex", struct.pack(">IIIII", 1, 1, 1000, 0, 0))
        moov = box("moov", track(empty), box("mvex", trex))
        run = struct.pack(">I", 3) + struct.pack(">III", 5, 6, 7)
        traf = box(
            "traf",
            full("tfhd", struct.pack(">I", 1), flags=0x20000),
            full("trun", run, flags=0x200),
        )
        other = box("traf", full("tfhd", struct.pack(">I", 9)), full("trun", run, flags=0x200))
        moof = box("moof", full("mfhd", struct.pack(">I", 1)), traf, other)
        reading = read(_file(moov, moof, moof))
        self.assertEqual(reading.video.frame_count, 6)
        self.assertEqual(reading.video.duration_s, 0.25)
        self.assertEqual(reading.witness["frame_rate"].value, (24, 1))


class Spherical(unittest.TestCase):
    def sv3d(self, kind: str, body: bytes, pose: tuple[int, int, int] = (0, 0, 0)) -> bytes:
        head = full("prhd", struct.pack(">iii", *(angle << 16 for angle in pose)))
        return box("sv3d", full("svhd", b"x\0"), box("proj", head, full(kind, body)))

    def test_version_2(self) -> None:
        found = said(full("st3d", b"\x01"), self.sv3d("equi", bytes(16), (-30, 0, 5)))
        self.assertEqual(found["stereo"], "top-bottom")
        self.assertEqual(found["projection"], "equirectangular")
        self.assertEqual(found["pose"], {"yaw": -30.0, "pitch": 0.0, "roll": 5.0})
        self.assertNotIn("projection_bounds", found)

    def test_half_sphere_by_bounds(self) -> None:
        found = said(self.sv3d("equi", struct.pack(">IIII", 0, 0, 1 << 30, 1 << 30)))
        self.assertEqual(found["projection"], "half-equirectangular")
        self.assertEqual(found["projection_bounds"]["left"], 0.25)
        self.assertNotIn("pose", found)

    def test_other_projections(self) -> None:
        for kind, name in (("cbmp", "cubemap"), ("mshp", "mesh")):
            self.assertEqual(said(self.sv3d(kind, bytes(8)))["projection"], name)

    def test_version_1(self) -> None:
        found = said(
            track_boxes=(self.xml(StereoMode="left-right", InitialViewHeadingDegrees="90"),)
        )
        self.assertEqual(found["projection"], "equirectangular")
        self.assertEqual(found["stereo"], "left-right")
        self.assertEqual(found["pose"]["yaw"], 90.0)

    def test_version_1_crop(self) -> None:
        crop = {
            "FullPanoWidthPixels": "4096",
            "FullPanoHeightPixels": "2048",
            "CroppedAreaImageWidthPixels": "2048",
            "CroppedAreaImageHeightPixels": "2048",
            "CroppedAreaLeftPixels": "1024",
            "CroppedAreaTopPixels": "0",
        }
        found = said(track_boxes=(self.xml(**crop),))
        self.assertEqual(found["projection"], "half-equirectangular")

    def test_version_2_outranks_and_a_contradiction_is_a_notice(self) -> None:
        data = movie(full("st3d", b"\x01"), track_boxes=(self.xml(StereoMode="left-right"),))
        reading = read(data)
        self.assertEqual(reading.witness["stereo"].value, "top-bottom")
        self.assertIn("spherical-versions-differ", [n.code for n in reading.notices])

    def test_bad_xml_is_a_notice(self) -> None:
        for xml in (b"<a", b'<!DOCTYPE x [<!ENTITY a "b">]><x/>', b"\xff\xfe"):
            reading = read(movie(track_boxes=(box("uuid", UUID_V1, xml),)))
            self.assertEqual([n.code for n in reading.notices], ["bad-spherical-xml"])

    def xml(self, **fields: str) -> bytes:
        fields = {"Spherical": "true", "ProjectionType": "equirectangular"} | fields
        inner = "".join(f"<s:{k}>{v}</s:{k}>" for k, v in fields.items())
        text = f'<r:SphericalVideo xmlns:r="urn:r" xmlns:s="urn:s">{inner}</r:SphericalVideo>'
        return box("uuid", UUID_V1, text.encode())


class Unreadable(unittest.TestCase):
    def check(self, data: bytes, code: str) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            read(data)
        self.assertEqual(caught.exception.code, code)
        self.assertTrue(caught.exception.text)

    def test_no_picture(self) -> None:
        sound = track(sample_table(box("mp4a", bytes(28))), handler="soun")
        self.check(_file(box("moov", sound)), "no-picture")

    def test_no_index(self) -> None:
        self.check(_file(), "no-index")

    def test_cut_off(self) -> None:
        self.check(movie()[:-5], "truncated")
        self.check(movie(index_first=False)[:-5], "truncated")

    def test_other_wrappers_and_codecs(self) -> None:
        self.check(b"RIFF" + bytes(60), "not-a-picture-file")
        self.check(b"just a text file, and nothing else in it", "not-a-picture-file")
        self.check(movie(config=box("xxxC", b""), entry_kind="qqqq"), "unsupported-codec")

    def test_damaged_entry(self) -> None:
        table = sample_table(box("avc1", bytes(20)))
        self.check(_file(box("moov", track(table))), "damaged-entry")


class ExtendedUsage(unittest.TestCase):
    """vexu: eyes, packing and projection (layout of the reference; pkin from memory)."""

    def vexu(self, *, reverse: bool = False, right: bool = True, packing=b"", kind=b"") -> bytes:
        eyes = 0b0001 | right << 1 | reverse << 3
        parts = [box("eyes", full("stri", bytes([eyes])))]
        if packing:
            parts.append(box("pack", full("pkin", packing)))
        if kind:
            parts.append(box("proj", full("prji", kind)))
        return box("vexu", *parts)

    def test_eyes_and_their_packing(self) -> None:
        for options, stereo in (
            ({}, "multiview"),
            ({"packing": b"side"}, "left-right"),
            ({"packing": b"side", "reverse": True}, "right-left"),
            ({"packing": b"over"}, "top-bottom"),
            ({"packing": b"over", "reverse": True}, "bottom-top"),
            ({"right": False}, None),
        ):
            self.assertEqual(said(self.vexu(**options)).get("stereo"), stereo)

    def test_projection_kinds(self) -> None:
        for kind, projection in (
            (b"rect", "rectilinear"),
            (b"equi", "equirectangular"),
            (b"hequ", "half-equirectangular"),
            (b"fish", "fisheye"),
        ):
            self.assertEqual(said(self.vexu(kind=kind))["projection"], projection)
        odd = read(movie(self.vexu(kind=b"what")))
        self.assertEqual([n.code for n in odd.notices], ["unknown-projection"])


class Edits(unittest.TestCase):
    """ISO/IEC 14496-12 8.6.6; the movie's time scale is 1000 here, the track's 24 000."""

    def notices(self, *edits: tuple[int, int], version: int = 0) -> list[str]:
        layout = layouts.EDIT[version]
        listed = b"".join(layout.write(duration=d, media_time=t, rate=1 << 16) for d, t in edits)
        elst = full("elst", struct.pack(">I", len(edits)), listed, version=version)
        mvhd = box("mvhd", layouts.MVHD[0].write(timescale=1000, duration=84))
        found = read(movie(track_boxes=(box("edts", elst),), more_tracks=(mvhd,)))
        return [notice.code for notice in found.notices]

    def test_a_plain_list_says_nothing(self) -> None:
        self.assertEqual(self.notices((84, 0)), [])
        self.assertEqual(self.notices((84, 2002), version=1), [])

    def test_delays_parts_and_trims(self) -> None:
        self.assertEqual(self.notices((500, -1), (84, 0)), ["edit-delay"])
        self.assertEqual(self.notices((42, 0), (42, 1001)), ["edit-parts"])
        self.assertEqual(self.notices((20, 0)), ["edit-trims"])


class ElementaryDescriptors(unittest.TestCase):
    def esds(self, kind: int, header: bytes) -> bytes:
        from shapkeen.core.declared.wrappers.isobmff.esds import CONFIG

        inner = bytes([5, len(header)]) + header
        config = CONFIG.write(object_type=kind, stream_type=4, avg_rate=800_000) + inner
        stream = b"\0\1\0" + bytes([4, len(config)]) + config
        return full("esds", bytes([3, len(stream)]) + stream)

    def test_codec_rate_and_header(self) -> None:
        from tests.builders.headers import mpeg4_layer

        header = mpeg4_layer()
        found = read(movie(config=self.esds(0x20, header), entry_kind="mp4v"))
        self.assertEqual((found.video.codec, found.video.bit_rate), ("mpeg4", 800_000))
        self.assertEqual(found.coded.config[0].data, header)
        mpeg2 = read(movie(config=self.esds(0x61, b""), entry_kind="mp4v"))
        self.assertEqual(mpeg2.video.codec, "mpeg2")

    def test_cut_descriptors_are_an_error(self) -> None:
        with self.assertRaises(UnreadableFileError):
            read(movie(config=full("esds", b"\3\x40\0"), entry_kind="mp4v"))


class Outline(unittest.TestCase):
    def parts(self, data: bytes) -> dict:
        from shapkeen.core.declared.wrappers import outline_wrapper

        found: dict = {}

        def walk(parts) -> None:
            for part in parts:
                found[part.name] = part
                walk(part.parts)

        walk(outline_wrapper(Window(io.BytesIO(data), 0, len(data))))
        return found

    def test_boxes_fields_and_places(self) -> None:
        data = movie(nclx(9, 16, 9), box("amve", struct.pack(">IHH", 50_000, 15635, 16450)))
        found = self.parts(data)
        colr = {field.name: field.value for field in found["colr"].fields}
        self.assertEqual((colr["colour_type"], colr["transfer"]), ("nclx", 16))
        self.assertEqual(data[found["colr"].start + 4 :][:4], b"colr")
        self.assertEqual(found["colr"].where, "moov/trak[0]/mdia/minf/stbl/stsd/avc1/colr")
        ambient = {field.name: field.value for field in found["amve"].fields}
        self.assertEqual(ambient["ambient_illuminance"], 50_000)
        stts = {field.name: field.value for field in found["stts"].fields}
        self.assertEqual((stts["count"], stts["entry[0]"]), (1, "2, 1001"))

    def test_short_and_nested_boxes_stay_bounded(self) -> None:
        nested = b""
        for _ in range(60):
            nested = box("udta", nested)
        found = self.parts(movie(box("pasp", b"\0"), track_boxes=(nested,)))
        self.assertIn("pasp", found)
        self.assertEqual([field.name for field in found["pasp"].fields], ["ends"])
