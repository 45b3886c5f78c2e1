"""Delivery specifications as pages and files: nothing saved is ever overwritten."""

import json
from dataclasses import replace

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile

from shapkeen.core.errors import UsageError
from shapkeen.core.promised.specification import (
    SHIPPED,
    shipped_specifications,
    specification_from_json,
)
from shapkeen.core.promised.specification_fields import (
    fields_of_specification,
    specification_from_fields,
)
from shapkeen.web.plan import specifications
from tests.web.base import WebCase

TEXT = (SHIPPED / "foghorn-shorts.json").read_text()


def changed(**values: object) -> str:
    return json.dumps(json.loads(TEXT) | values)


class Pages(WebCase):
    def setUp(self) -> None:
        super().setUp()
        for path in (settings.CONF.data_dir / "specifications").glob("*"):
            path.unlink()

    def edit(self, after: int = 3, **values: object):
        fields = fields_of_specification(specification_from_json(TEXT))
        sent = {name: value for name, value in fields.items() if value not in (False, [])}
        return self.client.post(
            "/specifications/foghorn-shorts/edit/", {**sent, **values, "after": after}
        )

    def test_all_are_listed_and_each_can_be_viewed(self) -> None:
        page = self.client.get("/specifications/")
        for spec in specifications.current():
            self.assertContains(page, spec.name)
            one = self.client.get(f"/specifications/{spec.key}/")
            self.assertContains(one, f"version {spec.version}")
        self.assertEqual(self.client.get("/specifications/nobody/").status_code, 404)

    def test_an_edit_becomes_the_next_version_and_the_first_stays(self) -> None:
        answer = self.edit(most_megabytes="200", loudness="-16,5")
        self.assertRedirects(answer, "/specifications/foghorn-shorts/")
        self.assertContains(self.client.get("/specifications/foghorn-shorts/"), "200 MB")
        self.assertContains(self.client.get("/specifications/foghorn-shorts/3/"), "150 MB")
        made, before = specifications.find("foghorn-shorts"), specification_from_json(TEXT)
        sound = replace(before.sound, loudness_lufs=-16.5)
        self.assertEqual(made, replace(before, version=4, most_bytes=200_000_000, sound=sound))

    def test_two_who_edit_the_same_version_do_not_overwrite_each_other(self) -> None:
        self.edit(note="first")
        answer = self.edit(note="second")
        self.assertContains(answer, "was saved meanwhile", status_code=422)
        self.assertContains(answer, "second", status_code=422)  # what was typed is not lost
        self.assertEqual(specifications.find("foghorn-shorts").note, "first")
        made = specification_from_json(changed(version=4, note="third"))
        with self.assertRaises(UsageError):
            specifications._write(made)

    def test_faults_are_said_with_their_place(self) -> None:
        for field, value, words in (
            ("rasters", "1080×1351", "4:2:0 needs an even width"),
            ("rasters", "large", "large is written otherwise: 1920×1080"),
            ("rates", "often", "often is no frame rate"),
            ("rate_target", "quick", "quick is no number"),
            ("sound_rate", "48000.5", "no whole number"),
            ("true_peak", "-200", "A level is -100 to 100"),
            ("codecs", [], "At least one codec"),
        ):
            with self.subTest(field):
                answer = self.edit(**{field: value})
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, " ".join(answer.context["form"].errors[field]))

    def test_every_one_that_ships_comes_through_the_form_as_it_is(self) -> None:
        for spec in shipped_specifications():
            fields = fields_of_specification(spec)
            again = specification_from_fields(fields, key=spec.key, version=spec.version)
            self.assertEqual(again, spec)

    def test_a_copy_has_a_key_of_its_own(self) -> None:
        answer = self.client.post("/specifications/foghorn-shorts/copy/")
        self.assertRedirects(answer, "/specifications/foghorn-shorts-2/edit/")
        self.client.post("/specifications/foghorn-shorts/copy/")
        self.assertIsNotNone(specifications.find("foghorn-shorts-3"))

    def test_files_go_out_and_come_in(self) -> None:
        out = self.client.get("/specifications/foghorn-shorts/3/file/")
        self.assertIn('filename="foghorn-shorts.v3.json"', out["Content-Disposition"])
        text = changed(key="kelp-shorts", name="Kelp Shorts", version=1)
        for content, words in (
            (text.encode(), None),
            (text.encode(), "is there already"),
            (b"\xff\xfe", "no text file"),
            (b"{}", "starts with"),
            (b" " * 300_000, "256 KiB"),
        ):
            sent = SimpleUploadedFile("a.json", content)
            answer = self.client.post("/specifications/import/", {"file": sent})
            if words is None:
                self.assertRedirects(answer, "/specifications/kelp-shorts/")
            else:
                self.assertContains(answer, words, status_code=422)
        again = specification_from_json(out.content.decode())
        self.assertEqual(again, specifications.find("foghorn-shorts", 3))

    def test_a_broken_file_put_there_by_hand_takes_no_other_along(self) -> None:
        folder = settings.CONF.data_dir / "specifications"
        folder.mkdir(exist_ok=True)
        (folder / "broken.json").write_text("{")
        self.assertEqual(self.client.get("/specifications/").status_code, 200)
