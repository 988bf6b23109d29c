"""The log: any take is found, called not clean, moved to another exercise."""

from __future__ import annotations

from uuid import uuid4

from django.test import Client, TestCase

from studio.accounts.models import Player, local_player
from studio.exercises.models import Exercise
from studio.takes.actions import annotate_take
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.playing import play


class SearchTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        client = Client()
        cls.slow = play(client, drill=plain(bpm=60, name="Slow one"), started_at="2026-11-03T10:00:00Z")
        cls.fast = play(client, drill=plain(bpm=120, name="Fast one", silence=None), started_at="2026-11-10T10:00:00Z")
        annotate_take(player=local_player(), take=cls.slow, note="Softer left hand; thumb lower")
        part = Exercise.objects.get(pk=cls.fast.exercise_id)
        Exercise.objects.filter(pk=part.pk).update(music_key="B♭")

    def found(self, **words: str) -> set[str]:
        page = self.client.get("/log/", words)
        self.assertEqual(page.status_code, 200)
        return {line.take.drill_name for day in page.context["days"] for line in day.lines}

    def test_by_each_word(self) -> None:
        for words, names in (
            ({}, {"Slow one", "Fast one"}),
            ({"q": "thumb SOFTER"}, {"Slow one"}),
            ({"q": "one"}, {"Slow one", "Fast one"}),
            ({"q": "nowhere"}, set()),
            ({"tempo": "60"}, {"Slow one"}),
            ({"tempo": "100-130"}, {"Fast one"}),
            ({"tempo": "130 – 50"}, {"Slow one", "Fast one"}),
            ({"since": "2026-11-05"}, {"Fast one"}),
            ({"until": "2026-11-05"}, {"Slow one"}),
            ({"family": "dropped"}, {"Slow one"}),
            ({"family": "follow"}, {"Fast one"}),
            ({"silent": "2"}, {"Slow one"}),
            ({"silent": "3"}, set()),
            ({"key": "b♭"}, {"Fast one"}),
            ({"exercise": str(self.slow.exercise_id)}, {"Slow one"}),
            ({"q": "one", "tempo": "60", "family": "follow"}, set()),
        ):
            self.assertEqual(self.found(**words), names, words)

    def test_not_clean_is_said_in_the_log_and_found(self) -> None:
        words = {"said": "not-clean", "back": "/log/?q=slow"}
        answer = self.client.post(f"/climb/takes/{self.slow.pk}/word/", words)
        self.assertEqual(answer.url, "/log/?q=slow")  # type: ignore[attr-defined]
        self.assertEqual(self.found(was="word"), {"Slow one"})
        self.assertIn("Slow one", self.found(was="not-clean"))
        self.assertNotIn("Slow one", self.found(was="clean"))
        self.assertContains(self.client.get("/log/"), "not clean, you said")

    def test_a_wrong_word_is_said_and_all_are_shown(self) -> None:
        page = self.client.get("/log/", {"tempo": "fast", "since": "soon"})
        self.assertContains(page, "A tempo such as 96, or 80-100, please.")
        self.assertContains(page, "Enter a valid date.")
        self.assertEqual(page.context["page"].paginator.count, 2)

    def test_the_search_goes_along_from_page_to_page(self) -> None:
        for _ in range(31):
            copy = Take.objects.get(pk=self.slow.pk)
            copy.pk = uuid4()
            copy.save(force_insert=True)
        page = self.client.get("/log/", {"q": "slow"})
        self.assertContains(page, "?page=2&amp;q=slow")

    def test_a_take_is_moved_to_another_exercise_of_ones_own_only(self) -> None:
        address = f"/takes/{self.slow.pk}/move/"
        answer = self.client.post(address, {"exercise": str(self.fast.exercise_id)}, follow=True)
        self.assertContains(answer, "It is a take of “Fast one” now.")
        other = Exercise.objects.create(player=Player.objects.create(username="other"), key="k")
        for wrong in (str(other.pk), "x", "", "9" * 30):
            self.assertEqual(self.client.post(address, {"exercise": wrong}).status_code, 404)
        self.assertEqual(Take.objects.get(pk=self.slow.pk).exercise_id, self.fast.exercise_id)
