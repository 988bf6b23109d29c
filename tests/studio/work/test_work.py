"""Work: exercises and pieces by when they are due, a line each; what was there before leads to it."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.test import TestCase

from studio.accounts.models import Player, local_player
from studio.ladders.actions import start_ladder
from studio.pieces.actions import climb_stretch, keep_piece, know_piece
from studio.pieces.models import Piece
from studio.pieces.standing import piece_standing
from studio.places import PLACES, place_of
from studio.work.due import Work, work_of
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import a_routine, in_technique

MONDAY = datetime(2026, 11, 2, 17, tzinfo=UTC)


def a_piece(name: str = "Rain") -> Piece:
    """Return a piece of sixteen bars without a score."""
    return keep_piece(
        player=local_player(), name=name, goal_bpm=90, first_bar=1, last_bar=16, begins=[1, 5, 9, 13], beats=4, grid=2
    )


class WorkTests(TestCase):
    def work(self, find: str = "") -> Work:
        with at(MONDAY):
            return work_of(local_player(), MONDAY, find)

    def test_nothing_yet_says_how_to_begin(self) -> None:
        page = self.client.get("/work/")
        self.assertContains(page, "Nothing to work on yet.")
        self.assertContains(page, "Begin an exercise")

    def test_by_when_the_plan_asks_for_it(self) -> None:
        for name in ("Quarters", "Other", "Third"):
            start_ladder(player=local_player(), ladder=ladder_core(name=name, rule={"kind": "streak", "clean": 1}))
        # The third is on from Tuesday on; the other one is in no plan.
        season = {"from": "2026-11-03", "weeks_on": 4, "weeks_off": 4}
        a_routine(in_technique("Quarters"), in_technique("Third", season=season))
        groups = {group.name: [line.name for line in group.lines] for group in self.work().groups}
        self.assertIn("Quarters", groups["Today"])
        self.assertEqual(groups["Tomorrow"], ["Third"])
        self.assertEqual(groups["Resting"], ["Other"])
        self.assertEqual(self.work().due, len(groups["Today"]))

    def test_a_piece_with_ten_ladders_is_one_line(self) -> None:
        piece = a_piece()
        know_piece(player=local_player(), piece=piece)
        standings = piece_standing(piece, MONDAY).stretches
        for one in piece.stretches.all()[:4]:
            climb_stretch(player=local_player(), stretch=one, standings=standings)
        lines = [line for group in self.work().groups for line in group.lines]
        self.assertEqual([line.name for line in lines], ["Rain"])
        self.assertEqual(lines[0].kind, "piece, 16 bars")

    def test_a_thread_hangs_as_far_as_its_exercise_is_held(self) -> None:
        ladder = start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 1}))
        with at(MONDAY):
            address = self.client.get(ladder.get_absolute_url()).context["shown"].url
            play_asked(self.client, address, clean=True, moment=MONDAY)
        with at(MONDAY + timedelta(minutes=2)):
            line = work_of(local_player(), MONDAY + timedelta(minutes=2)).groups[0].lines[0]
        steps = len(ladder.core.values)
        self.assertAlmostEqual(line.hung or 0.0, 1 / steps)
        self.assertLess(line.bob_y, line.ring_y)

    def test_some_of_it_by_a_part_of_its_name(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core())
        a_piece("Lanterns")
        found = [line.name for group in self.work("LANT").groups for line in group.lines]
        self.assertEqual(found, ["Lanterns"])
        self.assertContains(self.client.get("/work/?find=xyz"), "Nothing here has that in its name.")

    def test_nobody_elses(self) -> None:
        piece = a_piece()
        Piece.objects.filter(pk=piece.pk).update(player=Player.objects.create(username="other"))
        self.assertNotContains(self.client.get("/work/"), "Rain")

    def test_what_was_there_before_leads_on(self) -> None:
        for old in ("/climb/", "/pieces/"):
            self.assertRedirects(self.client.get(old), "/work/")
        self.assertRedirects(self.client.get("/climb/?deleted=1"), "/work/?deleted=1")
        self.assertRedirects(self.client.get("/"), "/today/")


class PlaceTests(TestCase):
    def test_five_places_and_each_page_in_one(self) -> None:
        self.assertEqual([name for name, _, _ in PLACES], ["Today", "Click", "Work", "Log", "Progress"])
        for view, place in (
            ("plan:today", "Today"),
            ("plan:close", "Today"),
            ("plan:weeks", "Work"),
            ("plan:routine", "Work"),
            ("ladders:climb", "Work"),
            ("pieces:stretch", "Work"),
            ("drills:set", "Click"),
            ("readings:silence", "Log"),
            ("recordings:drop", "Log"),
            ("reach:page", "Progress"),
            ("accounts:you", ""),
            ("", ""),
        ):
            self.assertEqual(place_of(view), place, view)

    def test_the_head_marks_where_one_is(self) -> None:
        for path, place in (("/work/", "Work"), ("/weeks/", ""), ("/log/", "Log"), ("/reach/", "Progress")):
            page = self.client.get(path, follow=True)
            here = [one.name for one in page.context["places"] if one.is_here]
            self.assertEqual(here, [place] if place else ["Today"], path)  # without a routine the weeks lead to Today
