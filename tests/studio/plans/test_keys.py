"""A take in a key is a take of that key: its own ladder and count, and its name wherever the take is shown."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

from django.test import TestCase

from giusto.drill import validate
from studio.accounts.models import local_player
from studio.drills.actions import keep_drill
from studio.exercises.models import Exercise
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import a_routine, in_technique

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)
IN_TURN = {"all": ["C", "G", "F"], "per_session": 2}


class KeyTests(TestCase):
    def setUp(self) -> None:
        self.moment = MONDAY

    def get(self, path: str) -> Any:
        with at(self.moment):
            return self.client.get(path)

    def post(self, path: str, **words: str) -> Any:
        with at(self.moment):
            return self.client.post(f"/today/{path}/", words)

    def play(self, address: str) -> Take:
        with at(self.moment):
            take = play_asked(self.client, address, clean=True, moment=self.moment)
        self.moment += timedelta(minutes=2)
        return take

    def keys_of(self, path: str, day: int) -> list[str]:
        weeks = self.get(path).context["weeks"]
        days = [one for week in weeks for one in week.days if one.date.day == day and one.date.month == 11]
        return [slot.key for slot in days[0].slots if slot.key]

    def test_each_key_has_its_ladder_its_count_and_its_name_on_every_page(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 3}))
        with at(self.moment):
            a_routine(in_technique("Quarters", keys=IN_TURN), minutes=12)
        self.assertEqual(
            sorted(Ladder.objects.exclude(exercise__whole=None).values_list("exercise__music_key", flat=True)),
            ["C", "F", "G"],
        )
        with at(self.moment):
            a_routine(in_technique("Quarters", keys=IN_TURN), minutes=12)  # kept again: nothing is made twice
        self.assertEqual(Ladder.objects.count(), 4)
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.item.name for line in lines[1:3]], ["Quarters, in C", "Quarters, in G"])
        self.post("over", word=lines[0].item.word)
        answer = self.post("begin")
        ready = self.get(answer.url)
        self.assertContains(ready, "<b>in C</b>")
        take = self.play(answer.url)
        self.assertEqual(take.exercise.music_key, "C")
        self.assertContains(self.get(take.get_absolute_url()), ", in C</b>")
        self.assertContains(self.get("/log/"), ", in C")
        self.assertEqual(len(self.get("/log/?key=c").context["page"]), 1)
        self.assertEqual(len(self.get("/log/?key=F").context["page"]), 0)
        self.assertContains(self.get("/progress/month/2026/11/"), "Quarters, in C")
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.spent.takes for line in lines[1:3]], [1, 0])
        self.assertEqual([line.item.so_far for line in lines[1:3]], [1, 0])

    def test_a_key_that_was_skipped_comes_first_next_time(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core())
        with at(self.moment):
            a_routine(in_technique("Quarters", keys=IN_TURN), minutes=12)
        lines = self.get("/today/").context["today"].lines
        self.play(lines[1].item.url)
        self.assertEqual(self.keys_of("/weeks/", 3), ["F", "C"])  # while G may still be played today
        self.post("over", word=lines[2].item.word)
        self.assertEqual(self.keys_of("/weeks/", 3), ["G", "F"])
        self.moment = MONDAY + timedelta(days=1)
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.item.slot.key for line in lines if line.item.slot.key], ["G", "F"])

    def test_a_drill_that_is_no_ladder_has_keys_as_well(self) -> None:
        with at(self.moment):
            a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2, "keys": IN_TURN}, minutes=12)
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.item.name for line in lines[:2]], ["Every beat, in C", "Every beat, in G"])
        take = self.play(lines[1].item.url)
        self.assertEqual((take.exercise.music_key, take.exercise.whole.name), ("G", "Every beat"))
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.spent.takes for line in lines[:2]], [0, 1])
        self.post("close")
        self.moment = MONDAY + timedelta(days=1)
        lines = self.get("/today/").context["today"].lines
        self.assertEqual([line.item.slot.key for line in lines[:2]], ["C", "F"])  # C wasn't played, F never
        self.assertRedirects(self.get(f"/climb/exercise/{take.exercise_id}/"), "/set/?drill=every-beat")

    def test_a_part_of_a_long_name_is_called_by_its_beginning(self) -> None:
        long = ("An exercise of many words " * 5)[:118].strip()
        drill = validate(plain(name=long, silence=None))
        keep_drill(player=local_player(), drill=drill, name=long, family="follow")
        with at(self.moment):
            a_routine(in_technique(long, keys=IN_TURN), minutes=12)
        self.post("begin")
        for part in Exercise.objects.exclude(whole=None):
            self.assertTrue(part.name.endswith(f", {part.part_name}"), part.name)
            self.assertLessEqual(len(part.name), 120)
        self.assertEqual(Exercise.objects.exclude(whole=None).count(), 3)

    def test_keys_of_what_is_nothing_here_go_by_the_calendar(self) -> None:
        with at(self.moment):
            a_routine(in_technique("Scales from the book", keys=IN_TURN), minutes=12)
        self.assertFalse(Exercise.objects.exists())
        self.assertNotEqual(self.keys_of("/weeks/", 2), self.keys_of("/weeks/", 3))

    def test_a_routine_that_was_there_before_gets_its_keys_when_the_day_begins(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core())
        with at(self.moment):
            a_routine(in_technique("Quarters", keys=IN_TURN), minutes=12)
        Exercise.objects.exclude(whole=None).delete()
        self.post("begin")
        self.assertEqual(Ladder.objects.exclude(exercise__whole=None).count(), 3)
