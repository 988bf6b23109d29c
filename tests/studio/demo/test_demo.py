"""The demo takes, and readings made anew."""

import io
from itertools import pairwise

from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from studio.accounts.models import Player, local_player
from studio.demo.climbing import CLIMBS
from studio.exercises.models import Session
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.takes.models import Take
from tests.studio.answers import answers, disagreements


class DemoTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        call_command("demo", stdout=io.StringIO())

    def setUp(self) -> None:
        self.client.post(reverse("accounts:demo"))

    def test_eight_weeks_from_rushing_to_holding(self) -> None:
        takes = Take.objects.order_by("started_at")
        self.assertGreater(takes.count(), 50)
        span = takes.last().started_at - takes.first().started_at  # type: ignore[union-attr]
        self.assertTrue(52 <= span.days <= 56)
        self.assertEqual(set(takes.values_list("input", "player__username")), {("simulated", "demo")})
        fixed_only = takes.filter(drill_name="Two heard, two silent", exercise__climbs=False)
        early, late = fixed_only[:8], fixed_only[fixed_only.count() - 8 :]

        def held(some) -> float:  # type: ignore[no-untyped-def]
            outcomes = [s.outcome for take in some for s in take.silences.all()]
            return outcomes.count("held") / len(outcomes)

        self.assertGreater(held(late), held(early) + 0.3)

    def test_the_pages_are_timed(self) -> None:
        out = io.StringIO()
        call_command("pages", times=1, stdout=out)
        lines = out.getvalue().splitlines()
        self.assertEqual(lines[0], f"{Take.objects.count()} takes")
        self.assertEqual(len(lines), 20)
        self.assertNotIn("answered", out.getvalue())

    def test_every_page_of_the_log_and_every_reading_opens(self) -> None:
        for page in (1, 2, 3, 99, "x"):
            self.assertEqual(self.client.get(reverse("log:page"), {"page": page}).status_code, 200)
        for take in Take.objects.order_by("drill_name", "started_at")[::9]:
            self.assertContains(self.client.get(take.get_absolute_url()), "simulated player")

    def test_no_two_pages_answer_otherwise(self) -> None:
        found = answers(self.client)
        self.assertEqual(disagreements(found), [])
        self.assertEqual({len(found[question]) for question in ("how long", "by what")}, {4})
        self.assertGreater(sum(question.startswith("asked by") for question in found), 3)

    def test_a_demo_drill_is_played_again_by_hand(self) -> None:
        take = Take.objects.filter(drill_name="Two and four").first()
        assert take
        page = self.client.get(reverse("takes:play"), {"again": take.pk})
        self.assertContains(page, '"input": "keys"')
        self.client.post(reverse("accounts:demo"))  # back
        Take.objects.filter(pk=take.pk).update(player=local_player())
        page = self.client.get(reverse("takes:play"), {"again": take.pk})
        self.assertContains(page, '"input": "simulated"')

    def test_entered_and_left_by_one_button(self) -> None:
        self.assertContains(self.client.get(reverse("log:page")), "Go back to your own")
        self.assertNotContains(self.client.get(reverse("log:page")), "<h1>0 takes")
        self.client.post(reverse("accounts:demo"))
        page = self.client.get(reverse("log:page"))
        self.assertContains(page, "<h1>0 takes")
        self.assertContains(page, "look at the demo")
        self.assertNotContains(page, "Go back to your own")

    def test_made_only_where_there_is_none(self) -> None:
        before = Take.objects.count()
        call_command("demo", "--if-new", stdout=io.StringIO())
        self.assertEqual(Take.objects.count(), before)

    def test_her_ladders_tell_of_a_fall_an_off_day_a_break_and_a_goal(self) -> None:
        player = Player.objects.get(username="demo")
        ladders = Ladder.objects.of(player).filter(name__in=[climb.name for climb in CLIMBS])
        found = {one.ladder.spec["rule"]["kind"]: one for one in standings(ladders, timezone.now())}
        self.assertEqual(set(found), {"streak", "edge", "stay"})
        self.assertTrue(found["streak"].step.done)
        self.assertIn(False, [one.clean for one in found["streak"].tried])
        self.assertEqual(Session.objects.filter(player=player, is_off=True).count(), 1)
        days = sorted({one.at.date() for standing in found.values() for one in standing.tried})
        self.assertGreaterEqual(max((b - a).days for a, b in pairwise(days)) - 1, 9)
