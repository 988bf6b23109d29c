"""The demo takes, and readings made anew."""

import io
import re
from datetime import timedelta
from html import unescape
from itertools import pairwise
from tempfile import TemporaryDirectory

from django.core.management import CommandError, call_command
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

import giusto
from studio.accounts.models import Player, local_player
from studio.demo.climbing import CLIMBS
from studio.exercises.models import Session
from studio.ladders.models import Ladder
from studio.ladders.standing import standings
from studio.takes.models import Reading, Silence, Take
from studio.takes.reading import read_take
from tests.studio.answers import answers, disagreements

WEDNESDAY = 2


def told(reading: Reading) -> list[object]:
    """Return what a reading says, its numbers as far as two machines agree on them."""
    numbers = (reading.heard_ms, reading.interval_sd_ms, reading.clock_sd_ms, reading.motor_sd_ms, reading.alpha)
    rounded = [number is not None and round(number, 3) for number in numbers]
    silences = Silence.objects.filter(take_id=reading.take_id).order_by("number")
    outcomes = silences.values_list("outcome", flat=True)
    return [reading.verdict, reading.is_clean, reading.refusal_code, *rounded, *outcomes]


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
        fixed_only = takes.filter(drill_name="Two bars alone", exercise__climbs=False)
        early, late = fixed_only[:8], fixed_only[fixed_only.count() - 8 :]

        def held(some) -> float:  # type: ignore[no-untyped-def]
            outcomes = [s.outcome for take in some for s in take.silences.all()]
            return outcomes.count("held") / len(outcomes)

        self.assertGreater(held(late), held(early) + 0.3)

    def test_what_ships_is_what_would_be_read_today(self) -> None:
        """A change of the core, or another version, asks for ``./giusto manage demo --ship``."""
        versions = Reading.objects.values_list("core_version", flat=True)
        self.assertEqual(set(versions), {giusto.__version__})
        for take in Take.objects.order_by("drill_name", "started_at")[::40]:
            with self.subTest(take.drill_name):
                before, after = told(take.reading), told(read_take(take.pk))
                self.assertEqual(before, after)

    def test_an_evening_is_an_evening_in_every_zone(self) -> None:
        at = [timezone.localtime(take.started_at) for take in Take.objects.order_by("started_at")]
        self.assertLessEqual({one.hour for one in at}, set(range(16, 24)))
        self.assertLessEqual(timezone.localdate() - at[-1].date(), timedelta(days=1))

    def test_the_pages_are_timed(self) -> None:
        out = io.StringIO()
        call_command("pages", times=1, stdout=out)
        lines = out.getvalue().splitlines()
        self.assertEqual(lines[0], f"{Take.objects.count()} takes")
        self.assertEqual(len(lines), 20)
        self.assertNotIn("answered", out.getvalue())

    def test_before_a_first_start_it_says_what_is_missing(self) -> None:
        said = self.assertRaisesRegex(CommandError, "no styles are collected yet: ./giusto start does that")
        with TemporaryDirectory() as nothing, override_settings(STATIC_ROOT=nothing), said:
            call_command("pages", times=1)

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
        for bpm in (84, 96):  # what clock and lean let expect, of the same takes
            self.assertContains(self.client.get(reverse("reach:page"), {"bpm": bpm}), "The two agree.")

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
        self.assertContains(self.client.get(reverse("log:page")), "leave</button>")
        self.assertNotContains(self.client.get(reverse("log:page")), "<h1>No takes")
        self.client.post(reverse("accounts:demo"))
        page = self.client.get(reverse("log:page"))
        self.assertContains(page, "<h1>No takes")
        self.assertContains(page, "look at the demo")
        self.assertNotContains(page, "leave</button>")

    def test_words_that_may_not_be_shown_are_not(self) -> None:
        """The table of words of the design: bars, early and late, held, a step; names in files stay as they are."""
        never = re.compile(
            r"\b(cycles?|rungs?|secure|notch(es)?|percentage points|silent bars?|tables differ|Andante|cannot tell"
            r"|too close to call|Set the click|slots?|of the gap|against your place)\b|±|[−+]\d"
        )
        unseen = r"<script.*?</script>|<option.*?</option>|<code>.*?</code>|<[^>]+>"
        takes = Take.objects.filter(player__username="demo").order_by("drill_name", "-started_at")[::12]
        ladders = Ladder.objects.filter(player__username="demo", exercise__whole=None)
        pages = ["/today/", "/today/close/", "/work/", "/climb/new/", "/log/", "/progress/", "/progress/exercises/"]
        pages += ["/progress/month/", "/reach/", "/weeks/", "/routine/", "/play/?drill=two-heard-two-silent"]
        pages += [one.get_absolute_url() for one in (*takes, *ladders)]
        for path in pages:
            with self.subTest(path):
                page = self.client.get(path, follow=True).content.decode()
                text = re.sub(unseen, " ", page, flags=re.DOTALL)
                found = never.search(unescape(text))
                self.assertIsNone(found, found and unescape(text)[max(found.start() - 60, 0) : found.end() + 40])

    def test_made_only_where_there_is_none(self) -> None:
        before = Take.objects.count()
        call_command("demo", "--if-new", stdout=io.StringIO())
        self.assertEqual(Take.objects.count(), before)

    def test_her_story_is_told_by_two_ladders_and_a_piece(self) -> None:
        """A fall, an off day, nine days away: and Work shows three things, not sixteen."""
        player = Player.objects.get(username="demo")
        work = self.client.get("/work/").context["work"]
        names = [line.name for group in work.groups for line in group.lines]
        asked = [] if timezone.localdate().weekday() == WEDNESDAY else ["Every beat"]  # on Wednesdays she rests
        self.assertEqual(sorted(names), [*asked, "Lanterns for Odo", "Scale in eighths", CLIMBS[0].name])
        ladders = Ladder.objects.of(player).filter(name__in=[climb.name for climb in CLIMBS])
        found = {one.ladder.spec["rule"]["kind"]: one for one in standings(ladders, timezone.now())}
        clean = [one.clean for one in found["streak"].tried]
        self.assertIn(False, clean)
        self.assertIn(True, clean)
        self.assertGreater(found["streak"].step.secure, 2)
        self.assertFalse(found["streak"].step.done)  # there is something left to climb
        self.assertEqual(Session.objects.filter(player=player, is_off=True).count(), 1)
        days = sorted({one.at.date() for standing in found.values() for one in standing.tried})
        self.assertGreaterEqual(max((b - a).days for a, b in pairwise(days)) - 1, 9)
