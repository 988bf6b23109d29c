"""The page of reach: what was tried, what to try next, and where clock and lean expect it."""

from __future__ import annotations

from datetime import UTC, datetime

from django.test import TestCase
from django.urls import reverse

from giusto.simulation.player import SimulatedPlayer
from studio.accounts.models import local_player
from studio.reach.tested import drill_to_try, silences_until, tested, to_try
from studio.takes.models import Reading
from studio.takes.reading import read_take
from tests.drills import fixed, plain
from tests.studio.ladders.climbing import at
from tests.studio.playing import play

NOW = datetime(2026, 11, 25, 12, tzinfo=UTC)
UNEVEN = SimulatedPlayer(clock_percent=1.5, hand_ms=6.0)
HOLDS, RUSHES = SimulatedPlayer(clock_percent=0.5, hand_ms=4.0), SimulatedPlayer(bias_percent=3.0, clock_percent=0.6)


class ReachTests(TestCase):
    def setUp(self) -> None:
        self.enterContext(at(NOW))  # takes of these tests are of that week, and old ones count for less

    def page(self, **words: object):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("reach:page"), words)

    def test_without_a_silence_it_says_how_to_begin(self) -> None:
        page = self.page()
        self.assertContains(page, "No silence yet")
        self.assertContains(page, "Try 8 beats alone")
        self.assertEqual(self.page(bpm="x").status_code, 200)
        self.assertEqual(self.page(bpm="-5").status_code, 200)
        self.assertEqual(self.page(bpm="nan").status_code, 200)

    def test_held_short_ones_and_lost_long_ones(self) -> None:
        for seed in range(3):
            play(self.client, player=HOLDS, seed=seed)
            play(self.client, drill=plain(silence=fixed(2, 6), cycles=24), player=RUSHES, seed=seed)
        known = silences_until(local_player(), NOW)
        found = tested(known, to_try(known, 96, NOW), NOW)
        assert found
        assert found.reach.beats
        self.assertEqual({one.beats for one in found.silences}, {9.0, 25.0})
        self.assertEqual((found.reach.silences, found.reach.takes), (len(found.silences), 6))
        page = self.page()
        self.assertContains(page, "beats alone")
        self.assertContains(page, "By your clock and your lean alone")
        for one in page.context["tested"].at.tried:
            self.assertContains(page, f"{100 * one.chance:.0f}\u00a0%")
        self.assertContains(page, reverse("readings:silence", args=[found.silences[0].take, found.silences[0].number]))
        self.assertEqual(self.client.get(page.context["play"]).status_code, 200)

    def test_all_held_says_at_least(self) -> None:
        """One held silence of uneven notes tells of no beat for sure; a take of four more tells of some beats."""
        play(self.client, drill=plain(cycles=4), player=UNEVEN)
        self.assertContains(self.page(), "How long you hold is not sure yet")
        may_be = r"may be less than 0\.5 to \d+ beats, by 1 silence of 1 take: more takes tell"
        self.assertRegex(self.page().content.decode(), f"It {may_be}")
        self.assertRegex(self.client.get("/progress/").content.decode(), f"Near 96 it {may_be}")
        self.assertNotContains(self.page(), "your reach:")
        self.assertNotContains(self.page(), "at least")
        play(self.client, player=HOLDS, seed=2)
        self.assertRegex(self.page().content.decode(), r"You hold at least \d(\.5)? beats alone")
        self.assertNotContains(self.page(), "By your clock")

    def test_steady_notes_tell_of_some_beats_at_once(self) -> None:
        """One held silence, and a clock of half a percent, which the take's other notes show."""
        play(self.client, drill=plain(cycles=4), player=HOLDS)
        self.assertRegex(self.page().content.decode(), r"You hold at least [2-4](\.5)? beats alone")

    def test_sizes_that_no_take_can_have_shown_tell_nothing(self) -> None:
        """As an archive may bring them in that somebody wrote to: every page that tells of reach opens."""
        takes = [play(self.client, player=HOLDS, seed=seed) for seed in (1, 2)]
        for odd in ({"free": "x"}, {"free": [1e300, 0, 0], "free_sd": [1, 1, 1]}, [1], {}):
            Reading.objects.update(sizes=odd)
            for page in ("/today/", "/reach/", "/progress/", "/work/", takes[0].get_absolute_url()):
                self.assertEqual(self.client.get(page).status_code, 200, (odd, page))
            self.assertEqual(read_take(takes[1].pk).refusal, "")

    def test_tempi_are_kept_apart(self) -> None:
        play(self.client, player=HOLDS)
        play(self.client, player=HOLDS, seed=2)
        play(self.client, drill=plain(bpm=60), player=RUSHES, started_at="2026-11-25T11:00:00Z")
        self.assertContains(self.page(), "How long you hold, near 60")
        self.assertContains(self.page(), "Near 96")
        self.assertContains(self.page(bpm=96), "at least")

    def test_the_next_length_in_whole_cycles(self) -> None:
        for beats, silent in ((1, 1), (9, 2), (16, 4), (1024, 256)):
            silence = drill_to_try(beats, 84).clicks.silence
            self.assertEqual(silence and silence.silent, silent)  # type: ignore[union-attr]

    def test_queries_are_bounded(self) -> None:
        play(self.client, player=HOLDS)
        with self.assertNumQueries(5):
            self.page()
        play(self.client, player=RUSHES, seed=2)
        with self.assertNumQueries(5):
            self.page()


class AlternationTests(TestCase):
    def test_what_each_showed_and_how_they_stand_to_one_another(self) -> None:
        for seed in range(5):
            at = f"2026-11-2{seed}T11:00:00Z"
            play(self.client, drill=plain(silence=None), player=HOLDS, seed=seed, started_at=at)
        page = self.client.get(reverse("reach:page"), {"bpm": 96})
        self.assertContains(page, "How much you lean on the click shows from three takes")
        leaning = SimulatedPlayer(clock_percent=2.5, hand_ms=4.0, alpha=0.8)
        for seed in range(5):
            play(self.client, drill=plain(silence=fixed(1, 7), cycles=8), player=leaning, seed=seed)
        page = self.client.get(reverse("reach:page"))
        self.assertContains(page, "times</b> as wide from one to the next as with the click")
        self.assertContains(page, "Spread with the click, of a note’s length")
        self.assertEqual(page.context["alternation"].found.alone_takes, 5)
