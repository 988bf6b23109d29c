"""What a take is a take of: 96 and 98, and a renamed drill, are the same exercise."""

from datetime import UTC, datetime

from django.test import TestCase, override_settings

from giusto.drill import validate
from studio.accounts.models import local_player
from studio.drills.actions import keep_drill
from studio.drills.shelf import shelf
from studio.exercises.actions import exercise_for, session_for
from studio.exercises.models import Exercise, Session
from studio.takes.models import Take
from tests.drills import fixed, plain
from tests.studio.playing import play


class ExerciseTests(TestCase):
    def setUp(self) -> None:
        self.player = local_player()

    def found(self, origin: str = "", **changes: object) -> Exercise:
        return exercise_for(player=self.player, drill=validate(plain(**changes)), origin=origin)

    def test_tempo_and_name_do_not_matter(self) -> None:
        one, other = self.found(bpm=96), self.found(bpm=98, name="Renamed")
        self.assertEqual((one, one.shelf_slug), (other, "two-heard-two-silent"))

    def test_a_rung_of_the_drill_it_started_from(self) -> None:
        longer = self.found("two-heard-two-silent", silence=fixed(2, 5), grid=4, cycles=28)
        self.assertEqual(longer.shelf_slug, "two-heard-two-silent")
        offbeats = self.found("two-heard-two-silent", on=["1+1/2", "2+1/2", "3+1/2", "4+1/2"])
        self.assertNotEqual(offbeats, longer)

    def test_an_own_drill(self) -> None:
        drill = validate(plain(on=["1", "3+1/2"], silence=None))
        own = keep_drill(player=self.player, drill=drill, name="Mine", family="moved")
        self.assertEqual(exercise_for(player=self.player, drill=drill, origin=str(own.pk)).own_drill, own)
        self.assertEqual(exercise_for(player=self.player, drill=drill).own_drill, own)

    def test_any_other_drill_by_its_key(self) -> None:
        changes = dict(on=["1", "3+1/2"], silence=fixed(1, 3), beats=5)
        one, other = self.found(**changes), self.found(**{**changes, "bpm": 70, "silence": fixed(1, 4)})
        self.assertEqual((one, one.shelf_slug, one.own_drill), (other, "", None))

    def test_takes_know_exercise_rung_and_session(self) -> None:
        slow = play(self.client, drill=plain(bpm=80))
        fast = play(self.client, drill=plain(bpm=120, silence=fixed(2, 3)))
        self.assertEqual(slow.exercise.shelf_slug, "two-heard-two-silent")
        self.assertEqual((fast.tempo_bpm, fast.silent_cycles, fast.slots), (120, 3, 2))
        self.assertEqual(slow.session, fast.session)

    def test_every_drill_of_the_shelf_is_its_own_exercise(self) -> None:
        found = {exercise_for(player=self.player, drill=b.drill, origin=slug).pk for slug, b in shelf().items()}
        self.assertEqual(len(found), len(shelf()))


@override_settings(TIME_ZONE="Europe/Vienna")
class SessionTests(TestCase):
    def test_a_session_is_a_local_day(self) -> None:
        player = local_player()
        late = session_for(player=player, at=datetime(2026, 11, 25, 22, 59, tzinfo=UTC))  # 23:59 in Vienna
        early = session_for(player=player, at=datetime(2026, 11, 25, 23, 1, tzinfo=UTC))
        self.assertEqual([late.day.day, early.day.day], [25, 26])
        session_for(player=player, at=datetime(2026, 11, 25, 8, 0, tzinfo=UTC))
        self.assertEqual(Session.objects.count(), 2)
        self.assertEqual(Take.objects.count(), 0)
