"""Who may do what: every verb against every kind of player, and every address against what is another's."""

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.practice.ladder import ladder_of
from studio.accounts.models import Player, local_player
from studio.drills import policies as of_drills
from studio.drills.actions import keep_drill
from studio.ladders import policies as of_ladders
from studio.ladders.actions import start_ladder
from studio.takes import policies as of_takes
from tests.drills import plain
from tests.studio.ladders.climbing import ladder as plain_ladder
from tests.studio.playing import begin_body, play, post


class VerbTests(TestCase):
    """A row for each kind of player: may keep, change the drill, play, change the take."""

    def test_matrix(self) -> None:
        owner = local_player()
        drill = keep_drill(player=owner, drill=validate(plain()), name="Mine", family="dropped")
        take = play(self.client)
        ladder = start_ladder(player=owner, ladder=ladder_of(plain_ladder()))
        rows = (
            ("owner", owner, True, True),
            ("another", Player.objects.create(username="another"), True, False),
            ("inactive owner", Player(pk=owner.pk, username="x", is_active=False), False, False),
            ("nobody", AnonymousUser(), False, False),
        )
        for name, player, begins, changes in rows:
            with self.subTest(name):
                self.assertEqual(of_drills.may_keep(player), begins)
                self.assertEqual(of_takes.may_play(player), begins)
                self.assertEqual(of_drills.may_change(player, drill), changes)
                self.assertEqual(of_takes.may_change(player, take), changes)
                self.assertEqual(of_ladders.may_climb(player), begins)
                self.assertEqual(of_ladders.may_change(player, ladder), changes)


class AddressTests(TestCase):
    """What belongs to another player is not there: 404, and nothing of it changes."""

    def setUp(self) -> None:
        other = Player.objects.create(username="another")
        self.take = play(self.client)
        self.take.player = other
        self.take.save(update_fields=["player"])
        self.own = keep_drill(player=other, drill=validate(plain()), name="Theirs", family="dropped")

    def test_takes(self) -> None:
        pk = self.take.pk
        gets = ("readings:reading", "takes:download", "readings:silence", "takes:silence")
        for name in gets:
            number = [1] if "silence" in name else []
            with self.subTest(name):
                self.assertEqual(self.client.get(reverse(name, args=[pk, *number])).status_code, 404)
        for name in ("takes:delete", "takes:restore", "takes:note", "readings:pin", "readings:read"):
            with self.subTest(name):
                self.assertEqual(self.client.post(reverse(name, args=[pk])).status_code, 404)
        self.take.refresh_from_db()
        self.assertIsNone(self.take.deleted_at)

    def test_what_a_browser_sends(self) -> None:
        for path, body in (("batches/5/", {"notes": [], "pairs": []}), ("end/", {"how": "complete", "batches": 2})):
            with self.subTest(path):
                self.assertIn(post(self.client, f"/takes/{self.take.pk}/{path}", body).status_code, (403, 404, 409))
        self.assertEqual(self.take.batches.count(), 2)
        self.assertIn(post(self.client, f"/takes/{self.take.pk}/begin/", begin_body()).status_code, (403, 404, 409))

    def test_drills(self) -> None:
        for name in ("drills:copy", "drills:delete", "drills:restore"):
            with self.subTest(name):
                self.assertEqual(self.client.post(reverse(name, args=[self.own.pk])).status_code, 404)
        self.own.refresh_from_db()
        self.assertIsNone(self.own.deleted_at)
