"""The full-text index: the same as plain LIKE over the tables, whatever way words were saved."""

from django.db import connection
from django.db.models import Q
from django.urls import reverse

from shapkeen.web.bench.models import Judgement
from shapkeen.web.library import services as library
from shapkeen.web.library import tidying
from shapkeen.web.library.models import Attempt, Delivery, Reel, Title
from shapkeen.web.search import index
from shapkeen.web.search.models import MOST_KEPT, KeptSearch
from shapkeen.web.search.services import remarks_with, titles_with
from shapkeen.web.signoff.models import Remark
from tests.web.base import WebCase

WORDS = (
    *("dial", "DIAL", "ial", "a", "re", "harbour", "untagged.mp4", "missing", "grey sky", "élan"),
    *('"', "'", "%", "_", "!", "100%", "x OR y", "NEAR(", "*", "reels/other", "no such thing"),
)


def plainly(word: str) -> set[int]:
    """Return the titles that hold a word by LIKE over every table, as the Shelf once asked."""
    present = Q(deliveries__binned_at=None, deliveries__attempts__binned_at=None)
    own = Q(name__icontains=word) | Q(note__icontains=word) | Q(master__path__icontains=word)
    names = Q(deliveries__name__icontains=word, deliveries__binned_at=None)
    places = ("reel__path", "judgement__broken", "remarks__text")
    deep = Q()
    for place in places:
        deep |= present & Q(**{f"deliveries__attempts__{place}__icontains": word})
    return set(Title.objects.filter(own | names | deep).values_list("pk", flat=True))


class Index(WebCase):
    def by_index(self, word: str) -> set[int]:
        return set(Title.objects.filter(pk__in=titles_with(word)).values_list("pk", flat=True))

    def agrees(self) -> None:
        for word in WORDS:
            with self.subTest(word):
                self.assertEqual(self.by_index(word), plainly(word))

    def say(self, attempt: Attempt, text: str) -> Remark:
        return Remark.objects.create(attempt=attempt, frame=3, text=text, by_name="ada")

    def test_as_plain_like_after_every_way_of_saving(self) -> None:
        lost = self.attempt("untagged.mp4")
        other = library.create_title("Elsewhere", "", "footage", "reels/other.mp4", by=self.user)
        remark = self.say(lost, 'The grey sky is 100% too "élan" at x_1')
        self.agrees()
        self.assertEqual(self.by_index("grey sky"), {lost.delivery.title_id})
        Title.objects.filter(pk=other.pk).update(note="a 100% dial, grey sky")  # in bulk
        Reel.objects.filter(pk=lost.reel_id).update(path="reels/other-untagged.mp4")
        self.agrees()
        with connection.cursor() as cursor:  # past the ORM altogether
            cursor.execute("UPDATE library_delivery SET name = 'Quay' WHERE name = 'Harbour'")
        self.assertEqual((self.by_index("harbour"), len(self.by_index("quay"))), (set(), 1))
        Judgement.objects.update(broken=["élan × lost", "missing tag"])
        self.assertEqual(self.by_index("élan × lost"), {lost.delivery.title_id})
        remark.delete()
        tidying.put_into_bin(Attempt.objects.get(pk=lost.pk), by=self.user)
        self.agrees()
        self.assertEqual(self.by_index("missing tag"), set())
        Delivery.objects.all().delete()
        self.agrees()
        index.put_up("default")  # made anew, it says the same
        self.agrees()

    def test_a_moved_delivery_takes_its_words_along(self) -> None:
        lost = self.attempt("untagged.mp4")
        other = library.create_title("Elsewhere", "", "footage", "reels/other.mp4", by=self.user)
        self.say(lost, "a hair in the gate")
        Delivery.objects.update(title=other)
        self.assertEqual(self.by_index("hair"), {other.pk})
        self.assertEqual(self.by_index("untagged"), {other.pk})

    def test_a_migration_may_make_tables_anew(self) -> None:
        index.take_down("default")
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM sqlite_master WHERE name LIKE 'search_%_insert_%'")
            self.assertEqual(cursor.fetchone()[0], 0)
        self.title()
        self.assertEqual(self.by_index("dial"), set())
        index.put_up("default")
        self.assertEqual(len(self.by_index("dial")), 1)

    def test_what_a_remark_says_stands_on_the_shelf(self) -> None:
        lost = self.attempt("untagged.mp4")
        title = lost.delivery.title_id
        self.say(lost, "At the beginning all is well. " * 8 + "Then a hair <b> in the gate.")
        self.assertIn("hair <b> in", remarks_with(["hair"], [title])[title])
        self.assertEqual(remarks_with(["dial"], [title]), {})
        page = self.client.get("/", {"q": "hair gate"})
        self.assertContains(page, "Said in a remark")
        self.assertContains(page, "hair &lt;b&gt; in the gate")


class Kept(WebCase):
    def test_searches_are_kept_used_and_forgotten(self) -> None:
        self.attempt("untagged.mp4")
        page = self.client.get("/", {"q": "dial", "verdict": "lost", "by": "ada"})
        self.assertContains(page, "Keep it")
        query = page.context["asked"]
        kept = self.client.post(reverse("search:keep"), {"name": "Lost ones", "query": query})
        self.assertRedirects(kept, f"/?{query}")
        again = self.client.get(f"/?{KeptSearch.objects.get().query}")
        self.assertEqual([title.name for title in again.context["page"]], ["The Dial"])
        self.assertContains(again, "Lost ones")
        # an address of elsewhere is only ever words of a search
        self.client.post(reverse("search:keep"), {"name": "Odd", "query": "//evil/?a=b&c"})
        self.assertEqual(KeptSearch.objects.get(name="Odd").query, "%2F%2Fevil%2F%3Fa=b")
        other = KeptSearch.objects.create(by=self.other(), name="Theirs", query="q=x")
        gone = self.client.post(reverse("search:forget", args=[other.pk]))
        self.assertEqual(gone.status_code, 404)
        self.client.post(reverse("search:forget", args=[KeptSearch.objects.get(name="Odd").pk]))
        self.assertEqual(
            set(KeptSearch.objects.values_list("name", flat=True)), {"Lost ones", "Theirs"}
        )
        for number in range(MOST_KEPT + 3):
            self.client.post(reverse("search:keep"), {"name": f"n{number}", "query": "q=x"})
        self.assertEqual(KeptSearch.objects.filter(by=self.user).count(), MOST_KEPT)

    def other(self):
        return type(self.user).objects.create_user("bo", password="a-long-enough-one")

    def test_by_person(self) -> None:
        self.attempt("untagged.mp4")
        self.assertEqual(len(self.client.get("/", {"by": "ada"}).context["page"].object_list), 1)
        self.assertEqual(len(self.client.get("/", {"by": "bo"}).context["page"].object_list), 0)
