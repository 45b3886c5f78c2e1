"""The report: four forms that say the same, checked by programs that know nothing of ours."""

import csv
import io
import json
import subprocess
import tempfile
from datetime import UTC, datetime
from html import unescape
from pathlib import Path
from unittest import TestCase

import pikepdf

from shapkeen.core import judged
from shapkeen.core.compared import compare_files
from shapkeen.core.reported.change import BETTER, WORSE, change_between
from shapkeen.core.reported.report import (
    Digests,
    Facts,
    HistoryLine,
    RemarkLine,
    Stamp,
    TitleReport,
    WaivedFinding,
    report_of,
    telling_moment,
    written,
)
from shapkeen.core.reported.report.limits import SOURCES
from shapkeen.core.reported.report.pictures import picture_pair, smaller
from tests.builders import media
from tests.builders.media import SDR, write

AT = datetime(2026, 11, 29, 12, 0, tzinfo=UTC)
HOSTILE = '<script>alert(1)</script> & "Keeper"'


def compared(name: str, **options: object):
    from dataclasses import replace

    export = write(name, media.sdr_planes("astronaut"), replace(SDR, **options))
    master = media.sdr_master("astronaut")
    return compare_files(master, export, frames=4), master, export


class Reports(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.found, cls.master, cls.export = compared("web-untagged", colour=None)
        facts = Facts(
            title=HOSTILE,
            delivery="Harbour",
            attempt=3,
            digests=Digests("a" * 64, "b" * 64, "c" * 64),
            stamp=Stamp("signed", "ada", AT, "as graded", ("the export is another file",)),
            waived=(WaivedFinding("transfer", "lost", "=HYPERLINK(1)", "ada", AT),),
            remarks=(RemarkLine(1, "0:00:00:05", 5, (25.0, 40.0), "too green", "bo", AT),),
            history=(HistoryLine(AT, "ada", "signed", "Harbour"),),
            made_at=AT,
        )
        pair = picture_pair(cls.found, cls.master, cls.export)
        cls.report = report_of(cls.found, facts, pair=pair)
        whole = TitleReport("A report", (cls.report,))
        cls.files = {form: written(whole, form) for form in ("html", "json", "csv", "pdf")}
        cls.text = cls.pdf_text(cls.files["pdf"])

    @staticmethod
    def pdf_text(data: bytes) -> str:
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            file.write(data)
            file.flush()
            run = ["pdftotext", "-raw", file.name, "-"]
            return subprocess.run(run, check=True, capture_output=True, text=True).stdout

    def test_every_form_says_the_same_figures(self) -> None:
        told = json.loads(self.files["json"])
        self.assertEqual((told["schema"], told["overall"]), ("shapkeen.report/1", "lost"))
        self.assertEqual(told["survival"]["schema"], "shapkeen.survival/1")
        rows = {row["trait"]: row for row in csv.DictReader(io.StringIO(self.csv()))}
        page = self.files["html"].decode()
        self.assertGreater(len(told["figures"]), 4)
        by_name = {row.name: row.title for row in self.report.traits}
        squeezed = "".join(self.text.split())
        for one in told["figures"]:
            row = rows[by_name[one["trait"]]]
            self.assertEqual((row["value"], row["limit"]), (one["value"], one["limit"]))
            self.assertIn(one["value"], page)
            self.assertTrue("".join(one["name"].split())[1:] in squeezed, one["name"])
        for verdict in told["survival"]["verdicts"]:
            self.assertEqual(rows[by_name[verdict["trait"]]]["verdict"], verdict["verdict"])

    def csv(self) -> str:
        return self.files["csv"].decode("utf-8-sig")

    def test_the_first_page_is_for_someone_in_a_hurry(self) -> None:
        first = self.text.split("\f")[0]
        for words in ("Harbour", "lost", "missing tag", "Signed by ada", "No longer what was"):
            self.assertIn(words, first)
        self.assertTrue("a" * 64 in first.replace("\n", "").replace(" ", ""))
        self.assertIn("Cure", first)

    def test_the_pdf_is_tagged_with_all_fonts_embedded_and_drawings_as_vectors(self) -> None:
        with tempfile.NamedTemporaryFile(suffix=".pdf") as file:
            file.write(self.files["pdf"])
            file.flush()
            fonts = subprocess.check_output(["pdffonts", file.name], text=True).splitlines()[2:]
            images = subprocess.check_output(["pdfimages", "-list", file.name], text=True)
        self.assertTrue(fonts)
        for line in fonts:
            self.assertIn("Plex", line)
            self.assertEqual(line.split()[-5], "yes", line)  # emb
        self.assertEqual(len(images.splitlines()) - 2, 2)  # the pair alone
        with pikepdf.open(io.BytesIO(self.files["pdf"])) as pdf:
            self.assertTrue(pdf.Root.MarkInfo.Marked)
            self.assertEqual(str(pdf.Root.Lang), "en")
            self.assertTrue(pdf.Root.get("/StructTreeRoot"))
            self.assertTrue(b"pdfuaid" in pdf.Root.Metadata.read_bytes())  # ISO 14289-1, 5

    def test_paper_is_a4_or_letter(self) -> None:
        sizes = {}
        letter = written(TitleReport("A report", (self.report,)), "pdf", paper="Letter")
        for paper, data in (("A4", self.files["pdf"]), ("Letter", letter)):
            with pikepdf.open(io.BytesIO(data)) as pdf:
                sizes[paper] = [round(float(side)) for side in pdf.pages[0].MediaBox[2:]]
        self.assertEqual(sizes, {"A4": [595, 842], "Letter": [612, 792]})  # ISO 216, ANSI A

    def test_what_people_wrote_is_never_markup_nor_formula(self) -> None:
        page = self.files["html"].decode()
        self.assertNotIn("<script>", page)
        self.assertIn("&lt;script&gt;", page)
        self.assertIn("'=HYPERLINK(1)", self.csv())
        self.assertTrue("default-src 'none'" in unescape(page))
        self.assertNotRegex(page, r'(src|href)="(?!data:|#)')

    def test_every_source_is_of_a_figure_that_judging_has(self) -> None:
        rules = Path(judged.__file__).parent
        written_there = "".join(path.read_text() for path in rules.rglob("*.py"))
        for name in SOURCES:
            self.assertIn(f'"{name}"', written_there)

    def test_the_moment_is_a_pair_of_frames_and_pictures_are_made_small(self) -> None:
        moment = telling_moment(self.found)
        self.assertEqual(moment, (self.report.pair.master_frame, self.report.pair.export_frame))
        small = smaller(self.report.pair.master_png, (64, 64))
        wide, high = (int.from_bytes(small[at : at + 4]) for at in (16, 20))  # PNG, 11.2.1
        self.assertLessEqual(max(wide, high), 64)

    def test_several_deliveries_are_one_report(self) -> None:
        both = TitleReport("All of it", (self.report, self.report), "1 not measured")
        told = json.loads(written(both, "json"))
        self.assertEqual((told["schema"], len(told["reports"])), ("shapkeen.reports/1", 2))
        page = written(both, "html").decode()
        self.assertIn("All deliveries", page)
        self.assertIn("1 not measured", page)

    def test_two_attempts_beside_each_other(self) -> None:
        healthy, _, _ = compared("web-healthy")
        change = change_between(self.found, healthy)
        self.assertIn("transfer", {one.name for one in change.of(BETTER)})
        self.assertEqual(change.of(WORSE), [])
        self.assertIn("missing tag", change.gone)
        self.assertTrue(any(one.before == "silent" for one in change.settings))
        back = change_between(healthy, self.found)
        self.assertEqual(len(back.of(WORSE)), len(change.of(BETTER)))
        self.assertEqual(change_between(healthy, healthy).sentence, "No verdict moved.")
