"""Files that arrive: what they are taken for, one confirmation for all, and who may."""

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from shapkeen.web.arriving import services
from shapkeen.web.arriving.models import Arrival, FilmMarks
from shapkeen.web.library.models import Attempt, Reel, Title
from shapkeen.web.library.services import create_title
from shapkeen.web.people.models import Grant
from shapkeen.web.people.rights import make_person
from shapkeen.web.people.roles import EDITOR, VIEWER
from tests.web.base import WebCase

PAGE = "/arrived/"


class Arriving(WebCase):
    def take_all(self, folder: str = "") -> None:
        self.client.post("/arrived/folder/", {"root": "footage", "folder": folder})
        for _ in range(20):
            if "to go" not in self.client.get(PAGE).content.decode():
                return
        self.fail("the files were not read")

    def send(self, name: str = "astronaut_beacon.mp4", source: str = "healthy.mp4") -> Arrival:
        data = (self.folder / "footage" / source).read_bytes()
        sent = SimpleUploadedFile("beacon.mp4", data, "video/mp4")
        answer = self.client.post("/arrived/send/", {"name": name, "file": sent})
        self.assertEqual(answer.status_code, 204)
        return Arrival.objects.latest("pk")

    def wishes(self, **others: str) -> dict[str, str]:
        told = {}
        for row in services.proposals(self.user):
            if row.proposal:
                number, found = row.arrival.pk, row.proposal
                told[f"role-{number}"] = found.role
                told[f"title-{number}"] = found.title_name
                told[f"delivery-{number}"] = found.delivery
        return told | others

    def test_a_folder_becomes_titles_and_attempts_by_one_confirmation(self) -> None:
        self.take_all()
        page = self.client.get(PAGE)
        self.assertContains(page, "its name says master")
        self.assertContains(page, "likeness 1.00")
        self.assertContains(page, "notes.mp4")  # which is no picture: it says why
        self.client.post(PAGE, self.wishes())
        title = Title.objects.get(master__path="master.mov")
        found = Attempt.objects.filter(delivery__title=title).values_list("reel__path", flat=True)
        self.assertEqual(set(found), {"healthy.mp4", "untagged.mp4"})
        self.assertEqual(title.master.film_marks.marks, FilmMarks.objects.get().marks)
        # What nobody could place waits, and is not offered again by its folder.
        left = set(Arrival.objects.values_list("path", flat=True))
        self.assertEqual(left, {"notes.mp4", "reels/other.mp4"})
        self.take_all()
        self.assertEqual(Arrival.objects.count(), 2)

    def test_a_list_of_paths_is_taken_and_odd_lines_are_told(self) -> None:
        base = self.folder / "footage"
        lines = [
            str(base / "master.mov"),
            "footage:untagged.mp4",
            f'"{base / "untagged.mp4"}"',  # once is enough
            "footage:reels",
            "footage:../secret-key",
            "/etc/passwd",
            "uploads:x.mp4",
            "footage:gone.mp4",
            "",
        ]
        page = self.client.post(
            reverse("arriving:paths"), {"paths": "\r\n".join(lines)}, follow=True
        )
        waiting = Arrival.objects.values_list("root", "path")
        self.assertEqual(set(waiting), {("footage", "master.mov"), ("footage", "untagged.mp4")})
        for words in (
            *("that is a folder", "leads out of the media root", "below no media root"),
            "nothing at that path",
        ):
            self.assertContains(page, words)
        again = self.client.post(
            reverse("arriving:paths"), {"paths": "footage:master.mov"}, follow=True
        )
        self.assertContains(again, "was brought in before, or waits here")

    def test_a_sent_file_finds_its_title_by_its_pictures(self) -> None:
        title = create_title("The Dial", "", "footage", "master.mov", by=self.user)
        self.send("march/beacon_v2.mp4")
        for _ in range(5):
            self.client.get(PAGE)
        (row,) = services.proposals(self.user)
        self.assertEqual((row.proposal.title, row.proposal.delivery), (title.pk, "Beacon"))
        self.client.post(PAGE, self.wishes())
        attempt = Attempt.objects.get()
        self.assertEqual((attempt.delivery.name, attempt.reel.root), ("Beacon", "uploads"))
        self.assertTrue(attempt.reel.locate().exists())
        self.assertFalse(Arrival.objects.exists())

    def test_what_fails_stays_and_says_why(self) -> None:
        create_title("Taken", "", "footage", "reels/other.mp4", by=self.user)
        self.take_all()
        one = Arrival.objects.get(path="master.mov")
        wish = {f"role-{one.pk}": "master", f"title-{one.pk}": "Taken"}
        page = self.client.post(PAGE, wish, follow=True)
        self.assertContains(page, "There is a title Taken already")
        self.assertTrue(Arrival.objects.filter(pk=one.pk).exists())

    def test_a_file_that_changed_meanwhile_is_read_again(self) -> None:
        self.take_all()
        one = Arrival.objects.get(path="healthy.mp4")
        Arrival.objects.filter(pk=one.pk).update(changed_ns=1, declaration={"video": {}})
        wish = {f"role-{one.pk}": "master", f"title-{one.pk}": "Anew"}
        self.client.post(PAGE, wish)
        self.assertEqual(Reel.objects.get().declaration["video"]["codec"], "h264")

    def test_taking_off_deletes_only_what_was_sent_here(self) -> None:
        sent = self.send()
        place = sent.locate()
        self.assertIn(sent.path, services.kept_uploads())  # a start of the server leaves it
        self.client.post(f"/arrived/{sent.pk}/put-away/")
        self.assertFalse(place.exists())
        self.take_all()
        one = Arrival.objects.get(path="healthy.mp4")
        self.client.post(f"/arrived/{one.pk}/put-away/")
        self.assertTrue((self.folder / "footage" / "healthy.mp4").exists())

    def test_a_bad_name_leads_nowhere_and_a_bad_folder_is_refused(self) -> None:
        found = self.send("../../etc/\\..\\passwd.mp4")
        self.assertEqual(found.sent_name, "etc/passwd.mp4")
        page = self.client.post(
            "/arrived/folder/", {"root": "footage", "folder": "../.."}, follow=True
        )
        self.assertContains(page, "leads out of the media root")

    def test_who_may_add_to_one_title_may_add_there_only(self) -> None:
        title = create_title("Mine", "", "footage", "master.mov", by=self.user)
        create_title("Theirs", "", "footage", "reels/other.mp4", by=self.user)
        person = make_person("bo", "a-long-enough-one", role=VIEWER)
        self.client.force_login(person)
        self.assertEqual(self.client.get(PAGE).status_code, 403)
        Grant.objects.filter(user=person).update(role=EDITOR, title=title)
        self.user = type(person).objects.get(pk=person.pk)
        self.client.force_login(self.user)
        self.take_all()
        one = Arrival.objects.get(came_by=person, path="healthy.mp4")
        for name, made in (("Theirs", 0), ("Mine", 1)):
            wish = {f"role-{one.pk}": "export", f"title-{one.pk}": name}
            self.client.post(PAGE, wish)
            self.assertEqual(Attempt.objects.count(), made, name)
        self.client.get(PAGE)  # which said that there is no such title
        self.assertNotContains(self.client.get(PAGE), "Theirs")


class FirstMinutes(WebCase):
    def test_an_empty_library_leads_to_a_sample_and_its_verdict(self) -> None:
        self.assertContains(self.client.get("/"), "Try it with a sample pair")
        answer = self.client.post("/arrived/sample/")
        attempt = Attempt.objects.get()
        self.assertRedirects(answer, attempt.get_absolute_url(), fetch_redirect_response=False)
        self.assertEqual(self.run_job(attempt), "done")
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "gamut converted")
        self.client.post("/arrived/sample/")  # pressed twice, it is one pair
        self.assertEqual(Attempt.objects.count(), 1)
        self.assertNotContains(self.client.get("/"), "Try it with a sample pair")

    def test_who_may_add_nothing_is_not_asked_to(self) -> None:
        self.client.force_login(make_person("vi", "a-long-enough-one", role=VIEWER))
        page = self.client.get("/")
        self.assertContains(page, "No title yet")
        self.assertNotContains(page, "sample pair")
        self.assertEqual(self.client.post("/arrived/sample/").status_code, 403)
