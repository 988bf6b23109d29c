"""Keys of an earlier rule are made anew, and every history goes on."""

from io import StringIO

from django.core.management import call_command
from django.test import TestCase
from django.utils import timezone

from giusto.drill import validate
from giusto.drill.identity import drill_key, exercise_key, rung_key
from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.drills.actions import keep_drill
from studio.drills.models import OwnDrill
from studio.exercises.models import Exercise
from studio.ladders.actions import climb_exercise
from studio.ladders.standing import standings
from studio.takes.models import Take
from studio.takes.rekey import rekey, stale
from tests.drills import plain
from tests.studio.playing import play

EARLIER = "6b324a55c72b9c6490bfa2594b28bb45"  # what a key looked like before it said its version


def said(*arguments: str) -> str:
    out = StringIO()
    call_command("rekey", *arguments, stdout=out)
    return out.getvalue()


class RekeyTests(TestCase):
    def setUp(self) -> None:
        self.drill = plain(name="A drill of no shelf", on=["1", "3+1/2"])
        self.take = play(self.client, drill=self.drill)
        self.player = local_player()
        rule = {"kind": "streak", "clean": 3}
        vary = {"what": "tempo", "from": 96, "to": 112, "by": 4}
        ladder = ladder_of({"giusto": "ladder/1", "drill": self.drill, "vary": vary, "rule": rule})
        self.ladder = climb_exercise(player=self.player, exercise=self.take.exercise, ladder=ladder)
        keep_drill(player=self.player, drill=validate(plain(on=["2"])), name="My two", family="sparse")

    def age(self) -> None:
        Take.objects.update(drill_key=EARLIER, rung_key=EARLIER)
        OwnDrill.objects.update(drill_key=EARLIER)
        Exercise.objects.exclude(key="").update(key=EARLIER)

    def test_a_ladder_stands_where_it_stood(self) -> None:
        before = standings([self.ladder], timezone.now())[0].attempts
        self.assertEqual(len(before), 1)
        self.age()
        self.assertEqual(standings([self.ladder], timezone.now())[0].attempts, [])
        self.assertTrue(stale())
        self.assertEqual(said("--if-stale"), "3 keys computed anew\n")
        self.assertFalse(stale())
        self.assertEqual(standings([self.ladder], timezone.now())[0].attempts, before)
        take, drill = Take.objects.get(), validate(self.drill)
        self.assertEqual((take.drill_key, take.rung_key), (drill_key(drill), rung_key(drill)))
        self.assertEqual(take.exercise and take.exercise.key, exercise_key(drill))
        self.assertEqual(OwnDrill.objects.get().drill_key, drill_key(validate(plain(on=["2"]))))

    def test_what_is_of_this_version_is_left_alone(self) -> None:
        self.assertEqual((said("--if-stale"), said()), ("", "0 keys computed anew\n"))

    def test_two_that_are_one_by_the_new_rule_become_one(self) -> None:
        other = Exercise.objects.create(player=self.player, key="of an earlier rule", name="The same, said otherwise")
        Take.objects.update(exercise=other)
        rekey()
        self.assertEqual(Take.objects.get().exercise, self.ladder.exercise)

    def test_an_exercise_without_takes_is_known_as_looked_at(self) -> None:
        Exercise.objects.create(player=self.player, key=EARLIER, name="Never played")
        rekey()
        self.assertFalse(stale())
