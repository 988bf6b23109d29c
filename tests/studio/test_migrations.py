"""Databases of an earlier version, brought over."""

from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.test import TransactionTestCase
from django.utils import timezone

BEFORE = [("takes", "0003_notes_exercises_and_judgement"), ("accounts", "0001_player"), ("exercises", "0001_exercises")]
AFTER = [("takes", "0004_demo_apart")]


class DemoApartTests(TransactionTestCase):
    def migrate(self, targets: list[tuple[str, str]]):  # type: ignore[no-untyped-def]
        executor = MigrationExecutor(connection)
        executor.migrate(targets)
        return executor.loader.project_state(targets).apps

    def setUp(self) -> None:
        self.addCleanup(lambda: self.migrate(MigrationExecutor(connection).loader.graph.leaf_nodes()))

    def test_the_demos_takes_go_to_a_player_of_their_own(self) -> None:
        apps = self.migrate(BEFORE)
        players, takes = apps.get_model("accounts", "Player").objects, apps.get_model("takes", "Take").objects
        owner = players.create(username="local", display_name="Ilse", instrument="drum")
        drilled = apps.get_model("exercises", "Exercise").objects.create(player=owner, shelf_slug="seven", key="k")
        day = apps.get_model("exercises", "Session").objects.create(player=owner, day=timezone.localdate())
        for is_demo in (True, False):
            takes.create(
                player=owner,
                exercise=drilled,
                session=day,
                drill={},
                input="keys",
                tempo_bpm=96,
                beats=4,
                cycles=8,
                zero_audio_s=1.0,
                is_demo=is_demo,
            )
        apps = self.migrate(AFTER)
        takes = apps.get_model("takes", "Take").objects
        whose = dict(takes.values_list("player__username", "player__display_name"))
        self.assertEqual(whose, {"demo": "Ilse", "local": ""})
        for take in takes.select_related("player", "exercise__player", "session__player"):
            self.assertEqual(take.exercise.player, take.player)
            self.assertEqual(take.session.player, take.player)
            self.assertEqual(take.exercise.shelf_slug, "seven")
