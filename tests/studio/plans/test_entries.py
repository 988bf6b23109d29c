"""What a plan names, by id: renaming loses nothing, capitals are no matter, days of earlier versions are read."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.test import TestCase

from giusto.drill import validate
from giusto.plan.routine import routine_of
from studio.accounts.models import local_player
from studio.archive.reading import _bind
from studio.drills.actions import keep_drill
from studio.drills.models import OwnDrill
from studio.drills.shelf import shelf
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.parts import split
from studio.pieces.models import Piece
from studio.plans.models import Day, Entry
from studio.plans.older import by_entries, names_in
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import MONDAY, a_routine, in_technique


class EntryTests(TestCase):
    def lines(self) -> list[Any]:
        """Return the lines of Monday."""
        with at(MONDAY):
            page = self.client.get("/today/")
        return [line.line for line in page.context["lines"]]

    def post(self, path: str, **words: str) -> None:
        with at(MONDAY):
            self.client.post(f"/today/{path}/", words)

    def test_what_is_renamed_stays_in_the_plan_and_keeps_what_is_over(self) -> None:
        player = local_player()
        ladder = start_ladder(player=player, ladder=ladder_core())
        own = keep_drill(player=player, drill=validate(shelf()["two-and-four"].drill.plain()), name="Mine", family="")
        piece = Piece.objects.create(player=player, name="Low Water", goal_bpm=80, last_bar=8, begins=[1])
        a_routine(in_technique("quarters"), in_technique("Mine"), {**in_technique("LOW WATER"), "block": "application"})
        before = self.lines()
        self.post("over", word=next(one.item.word for one in before if one.item.name == "Quarters"))
        for row, model in ((ladder, Ladder), (own, OwnDrill), (piece, Piece)):
            model.objects.filter(pk=row.pk).update(name=f"{row.name} anew")
        after = self.lines()
        for was, now in zip(before, after, strict=True):
            if was.item.slot.exercise:
                self.assertEqual(now.item.name, f"{was.item.name} anew")
                self.assertEqual((now.item.word, now.item.url), (was.item.word, was.item.url))
        self.assertEqual([one.is_over for one in after if one.item.name == "Quarters anew"], [True])
        self.assertContains(self.client.get("/routine/"), 'value="Quarters anew"')
        self.assertIn("Low Water anew", self.client.get("/routine/file/").content.decode())

    def test_a_routine_that_is_kept_again_under_the_new_names_keeps_its_entries(self) -> None:
        ladder = start_ladder(player=local_player(), ladder=ladder_core())
        a_routine(in_technique("Quarters"))
        entry = Entry.objects.get()
        Ladder.objects.filter(pk=ladder.pk).update(name="Fourths")
        a_routine(in_technique("Fourths"))
        self.assertEqual((Entry.objects.get().pk, Entry.objects.get().name), (entry.pk, "Fourths"))
        other = start_ladder(player=local_player(), ladder=ladder_core())
        a_routine(in_technique("Quarters"))  # the name is another's by now
        self.assertEqual(Entry.objects.get(name="Quarters").exercise_id, other.exercise_id)

    def test_a_swap_to_a_new_name_leaves_the_routine_its_own(self) -> None:
        ladder = start_ladder(player=local_player(), ladder=ladder_core())
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, in_technique("Quarters"))
        Ladder.objects.filter(pk=ladder.pk).update(name="Fourths")
        self.post("swap", word=self.lines()[0].item.word, name="fourths")
        self.assertEqual([line.item.name for line in self.lines()][:2], ["Fourths", "Fourths"])
        self.assertTrue(all(line.item.url for line in self.lines()[:2]))

    def test_a_name_stands_for_what_comes_later(self) -> None:
        a_routine(in_technique("Quarters"))
        self.assertEqual(self.lines()[1].item.what, "In your own way.")
        start_ladder(player=local_player(), ladder=ladder_core())
        self.assertNotEqual(self.lines()[1].item.url, "")

    def test_keys_in_turn_whatever_their_capitals(self) -> None:
        player = local_player()
        ladder = start_ladder(player=player, ladder=ladder_core(rule={"kind": "streak", "clean": 3}))
        split(player=player, ladder=ladder, hands=False, keys=["C", "Bb"], sections=[])
        a_routine(in_technique("Scales", ladder="QUARTERS", keys={"all": ["c", "bb"], "per_session": 1}))
        first = self.lines()[1].item
        self.assertIn("in C", first.name)
        with at(MONDAY):
            play_asked(self.client, first.url, clean=True, moment=MONDAY)
        tomorrow = MONDAY + timedelta(days=1)
        with at(tomorrow):
            page = self.client.get("/today/")
        self.assertIn("in Bb", page.context["lines"][1].line.item.name)  # C was played: it goes to the end


class OlderTests(TestCase):
    def test_days_by_names_become_days_by_entries(self) -> None:
        scales = {"name": "The scales", "block": "a/b", "ladder": "Major Scales"}
        spec = {"exercises": [scales, {"name": "Reach", "block": "c"}]}
        swapped = {"c/Reach/": "Every beat"}
        self.assertEqual(names_in(spec, [swapped]), ["Major Scales", "Reach", "Every beat"])
        entries = {"major scales": "1", "reach": "2", "every beat": "3"}
        over, there = by_entries(["a/b/The scales/F", "c//"], swapped, spec, entries)
        self.assertEqual((over, there), (["a/b/1/F", "c//"], {"c/2/": "3"}))

    def test_an_archive_of_an_earlier_version_has_no_entries(self) -> None:
        player = local_player()
        spec = routine_of(
            {
                "giusto": "routine/1",
                "days": ["mon"],
                "minutes": 10,
                "start": "18:00",
                "zone": "UTC",
                "blocks": [{"name": "technique", "minutes": [5, 10]}],
                "exercises": [{"name": "Every beat", "block": "technique", "minutes": 5}],
            }
        ).plain()
        Day.objects.create(player=player, day=MONDAY.date(), swapped={"technique/Every beat/": "Reach"})
        _bind(player, spec)
        every, reach = (Entry.objects.get(name=name) for name in ("Every beat", "Reach"))
        self.assertEqual(every.slug, "every-beat")
        self.assertEqual(Day.objects.get().swapped, {f"technique/{every.pk}/": str(reach.pk)})
