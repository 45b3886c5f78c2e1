"""Delivery specifications as pages and files: nothing saved is ever overwritten."""

import json

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile

from shapkeen.core.errors import UsageError
from shapkeen.core.promised.specification import SHIPPED, specification_from_json
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

    def edit(self, text: str, after: int = 2):
        return self.client.post(
            "/specifications/foghorn-shorts/edit/", {"text": text, "after": after}
        )

    def test_all_are_listed_and_each_can_be_viewed(self) -> None:
        page = self.client.get("/specifications/")
        for spec in specifications.current():
            self.assertContains(page, spec.name)
            one = self.client.get(f"/specifications/{spec.key}/")
            self.assertContains(one, f"version {spec.version}")
        self.assertEqual(self.client.get("/specifications/nobody/").status_code, 404)

    def test_an_edit_becomes_the_next_version_and_the_first_stays(self) -> None:
        answer = self.edit(changed(most_bytes=200_000_000))
        self.assertRedirects(answer, "/specifications/foghorn-shorts/")
        self.assertContains(self.client.get("/specifications/foghorn-shorts/"), "200 MB")
        self.assertContains(self.client.get("/specifications/foghorn-shorts/2/"), "150 MB")
        self.assertEqual(specifications.find("foghorn-shorts").version, 3)

    def test_two_who_edit_the_same_version_do_not_overwrite_each_other(self) -> None:
        self.edit(changed(note="first"))
        answer = self.edit(changed(note="second"))
        self.assertContains(answer, "was saved meanwhile", status_code=422)
        self.assertContains(answer, "second", status_code=422)  # what was typed is not lost
        self.assertEqual(specifications.find("foghorn-shorts").note, "first")
        made = specification_from_json(changed(version=3, note="third"))
        with self.assertRaises(UsageError):
            specifications._write(made)

    def test_faults_are_said_with_their_place(self) -> None:
        answer = self.edit(changed(rasters=[[1080, 1351]]))
        self.assertContains(answer, "rasters[0]: 4:2:0 needs an even width", status_code=422)

    def test_a_copy_has_a_key_of_its_own(self) -> None:
        answer = self.client.post("/specifications/foghorn-shorts/copy/")
        self.assertRedirects(answer, "/specifications/foghorn-shorts-2/edit/")
        self.client.post("/specifications/foghorn-shorts/copy/")
        self.assertIsNotNone(specifications.find("foghorn-shorts-3"))

    def test_files_go_out_and_come_in(self) -> None:
        out = self.client.get("/specifications/foghorn-shorts/2/file/")
        self.assertIn('filename="foghorn-shorts.v2.json"', out["Content-Disposition"])
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
        self.assertEqual(again, specifications.find("foghorn-shorts", 2))

    def test_a_broken_file_put_there_by_hand_takes_no_other_along(self) -> None:
        folder = settings.CONF.data_dir / "specifications"
        folder.mkdir(exist_ok=True)
        (folder / "broken.json").write_text("{")
        self.assertEqual(self.client.get("/specifications/").status_code, 200)
