"""Each rule that players keep by hand, set, kept and explained through the real pages, some over a simulated fortnight.

The rules are common practice; what must come of them is walked by hand here.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from django.test import TestCase
from django.urls import reverse

from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.exercises.models import Session
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.takes.models import Take
from tests.studio.ladders.climbing import at, ladder, play_asked

MONDAY = datetime.fromisoformat("2026-11-02T18:00:00+00:00")


class ClimbCase(TestCase):
    """A player who opens the ladder's page, plays what its one action plays, and reads what it says then."""

    def setUp(self) -> None:
        self.now = MONDAY
        self.player = local_player()
        type(self.player).objects.filter(pk=self.player.pk).update(time_zone="UTC")

    def start(self, **changes: Any) -> Ladder:
        return start_ladder(player=self.player, ladder=ladder_of(ladder(**changes)))

    def page(self, climbed: Ladder) -> Any:
        with at(self.now):
            return self.client.get(climbed.get_absolute_url())

    def day(self, number: int) -> None:
        """Let it be the evening of a day, the first being 0."""
        self.now = MONDAY + timedelta(days=number)

    def play(self, climbed: Ladder, takes: str) -> list[float | None]:
        """Play what is asked, clean (+) or not (-), and return what was asked each time."""
        asked: list[float | None] = []
        for take in takes:
            with at(self.now):
                standing = self.client.get(climbed.get_absolute_url()).context["standing"]
                asked.append(standing.step.value)
                play_asked(self.client, standing.url, clean=take == "+", moment=self.now)
            self.now += timedelta(minutes=2)
        return asked


class FortnightTests(ClimbCase):
    def test_three_clean_in_a_row_up_one_not_clean_down_and_one_below_the_next_day(self) -> None:
        climbed = self.start()
        self.assertEqual(self.play(climbed, "+++"), [60, 60, 60])
        self.assertContains(self.page(climbed), "Three clean at 64")
        self.assertEqual(self.play(climbed, "++-"), [64, 64, 64])
        self.assertContains(self.page(climbed), "What was not clean leads back here")
        self.assertEqual(self.play(climbed, "++++"), [60, 60, 60, 64])
        self.day(1)
        page = self.page(climbed)
        self.assertContains(page, "One clean at 60")
        self.assertContains(
            page, "A new day begins a little below where the last one ended. One clean take a step leads back to 64."
        )
        self.assertEqual(self.play(climbed, "++++"), [60, 64, 64, 64])
        self.assertContains(self.page(climbed), "Three clean at 68")

    def test_a_break_goes_further_back_and_says_so(self) -> None:
        climbed = self.start(fall=None)
        self.play(climbed, "+++" * 3)
        self.day(10)
        page = self.page(climbed)
        self.assertContains(page, "Nine days away: it begins further back")
        self.assertEqual(self.play(climbed, "+++"), [64, 68, 72])

    def test_the_edge_is_slept_on(self) -> None:
        climbed = self.start(rule={"kind": "edge", "clean": 2, "nights": 1})
        self.assertEqual(self.play(climbed, "++++-"), [60, 60, 64, 64, 68])
        page = self.page(climbed)
        self.assertContains(page, "68 was the edge today. No higher until tomorrow: sleep on it.")
        self.assertEqual(self.play(climbed, "++"), [64, 64])
        self.assertContains(self.page(climbed), "64, as often as you like")
        self.day(1)
        self.assertContains(self.page(climbed), "Slept on: it begins at what was held.")
        self.assertEqual(self.play(climbed, "+++"), [64, 64, 68])

    def test_minutes_at_one_tempo_then_one_more_the_next_day(self) -> None:
        climbed = self.start(
            rule={"kind": "stay", "minutes": 0.5}, vary={"what": "tempo", "from": 60, "to": 63, "by": 1}
        )
        self.assertContains(self.page(climbed), "30 s more, clean, at 60")
        self.assertEqual(self.play(climbed, "++"), [60, 60])
        self.assertContains(self.page(climbed), "It stays here for the rest of today; next time 61.")
        self.assertEqual(self.play(climbed, "+"), [60])
        self.day(1)
        self.assertContains(self.page(climbed), "30 s more, clean, at 61")

    def test_no_more_than_so_much_a_week(self) -> None:
        week = {"kind": "week", "clean": 1, "by": 5}
        climbed = self.start(rule=week, vary={"what": "tempo", "from": 60, "to": 80, "by": 1}, next_day={"back": 0})
        self.assertEqual(self.play(climbed, "+" * 7), [60, 61, 62, 63, 64, 65, 65])
        self.assertContains(self.page(climbed), "This week’s goal is reached.")
        self.day(7)
        self.assertEqual(self.play(climbed, "+"), [65])

    def test_mostly_right_with_a_miss_now_and_then(self) -> None:
        climbed = self.start(rule={"kind": "band", "low": 0.7, "high": 0.85})
        first = self.play(climbed, "+" * 6)
        self.assertGreater(max(first), 64)  # type: ignore[type-var]
        self.assertContains(self.page(climbed), "of 100 takes should be clean")
        harder = self.page(climbed).context["step"].value
        self.play(climbed, "----")
        self.assertLess(self.page(climbed).context["step"].value, harder)

    def test_an_off_day_asks_for_one_more_and_rises_no_higher(self) -> None:
        climbed = self.start(next_day={"back": 0})
        self.play(climbed, "+++")
        self.day(1)
        with at(self.now):
            back = self.client.post(
                reverse("ladders:off"), {"is_off": "1", "back": climbed.get_absolute_url()}, follow=True
            )
        self.assertContains(back, "Four clean at 64")
        self.assertContains(back, "An off day")
        self.assertEqual(self.play(climbed, "+++++"), [64, 64, 64, 64, 64])
        self.assertEqual(Session.objects.filter(is_off=True).count(), 1)
        with at(self.now):
            self.client.post(reverse("ladders:off"), {"is_off": "0", "back": "https://elsewhere.example/"})
        self.assertContains(self.page(climbed), "68")

    def test_a_double_step_is_offered_where_it_is_easy_and_never_taken_unasked(self) -> None:
        climbed = self.start(rule={"kind": "streak", "clean": 2})
        self.play(climbed, "++")
        page = self.page(climbed)
        self.assertContains(page, "straight to 68")
        self.assertEqual(page.context["step"].value, 64)
        with at(self.now):
            play_asked(self.client, page.context["standing"].offered_url, clean=True, moment=self.now)
        self.assertEqual(self.page(climbed).context["step"].value, 68)
        self.assertNotContains(self.page(climbed), "straight to")

    def test_the_top_is_reached_and_said(self) -> None:
        climbed = self.start(vary={"what": "notes", "steps": [1, 2]}, rule={"kind": "streak", "clean": 1})
        self.assertContains(self.page(climbed), "One clean at quarters")
        self.play(climbed, "++")
        self.assertContains(self.page(climbed), "Climbed to the top")
        self.assertContains(self.client.get(Take.objects.latest("started_at").get_absolute_url()), "the top is reached")


class WordTests(ClimbCase):
    """The player's word, and what a take's reading says of its ladder."""

    def test_not_clean_is_one_key_and_is_taken_back(self) -> None:
        climbed = self.start()
        self.play(climbed, "++")
        take = Take.objects.latest("started_at")
        word = reverse("ladders:word", args=[take.pk])
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "Clean at 60")
        self.assertContains(page, 'data-key="x"')
        self.assertContains(page, 'data-key="o"')
        page = self.client.post(word, {"said": "not-clean"}, follow=True)
        self.assertContains(page, "Not clean at 60 by your word")
        self.assertEqual(self.page(climbed).context["step"].needs, {"clean": 3, "so_far": 0})
        self.client.post(word, {"said": ""})
        self.assertEqual(self.page(climbed).context["step"].needs, {"clean": 3, "so_far": 2})
        self.client.post(word, {"said": "perhaps"})
        self.assertIsNone(Take.objects.get(pk=take.pk).said_clean)

    def test_what_was_broken_off_is_asked_about(self) -> None:
        climbed = self.start()
        with at(self.now):
            url = self.client.get(climbed.get_absolute_url()).context["standing"].url
            take = play_asked(self.client, url, clean=True, moment=self.now, how="stopped")
        page = self.page(climbed)
        self.assertContains(page, "can’t say whether it was clean")
        self.assertEqual(page.context["step"].needs["so_far"], 0)
        self.assertContains(self.client.get(take.get_absolute_url()), "Nobody can say yet")
        self.client.post(reverse("ladders:word", args=[take.pk]), {"said": "clean"})
        page = self.page(climbed)
        self.assertNotContains(page, "can’t say whether")
        self.assertEqual(page.context["step"].needs["so_far"], 1)

    def test_reading_and_standing_view_go_on_with_the_ladder(self) -> None:
        climbed = self.start()
        self.play(climbed, "+++")
        take = Take.objects.latest("started_at")
        with at(self.now):
            page = self.client.get(take.get_absolute_url())
            standing = self.client.get(take.get_absolute_url(), {"view": "standing"})
            following = self.client.get(climbed.get_absolute_url()).context["standing"].url
        self.assertContains(page, "Clean at 60: 60 is held.")
        self.assertContains(page, "Next: 64")
        self.assertContains(standing, "Three clean at 64")
        self.assertContains(standing, f'data-next="{following.replace("&", "&amp;")}"')

    def test_deleting_the_last_take_is_as_if_it_had_never_been(self) -> None:
        climbed = self.start()
        self.play(climbed, "+++")
        before = self.page(climbed).context["step"]
        self.play(climbed, "-")
        self.assertNotEqual(self.page(climbed).context["step"], before)
        self.client.post(reverse("takes:delete", args=[Take.objects.latest("started_at").pk]))
        self.assertEqual(self.page(climbed).context["step"], before)
