"""Who may do what: every verb against every kind of player, and every address against what is another's."""

import inspect
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import Any

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.practice.ladder import ladder_of
from studio.accounts.models import DEMO, Player, local_player
from studio.drills.actions import keep_drill
from studio.ladders.actions import start_ladder
from studio.pieces.models import Piece
from studio.recordings.models import Upload
from tests.drills import plain
from tests.studio.ladders.climbing import ladder as plain_ladder
from tests.studio.playing import begin_body, play, post

STUDIO = Path(__file__).parents[2] / "src/studio"
OF_MANY = ("joining", "teaching")  # by roles and consent: tests/many/test_policies.py


def all_policies() -> dict[str, Callable[..., bool]]:
    """Return every policy of the site by its app and name; a new one has to be in the matrix."""
    found = {}
    for path in sorted(STUDIO.glob("*/policies.py")):
        if path.parent.name in OF_MANY:
            continue
        module = import_module(f"studio.{path.parent.name}.policies")
        for name, policy in inspect.getmembers(module, inspect.isfunction):
            if name.startswith("may_") and policy.__module__ == module.__name__:
                found[f"{path.parent.name}.{name}"] = policy
    return found


class VerbTests(TestCase):
    """A row for each kind of player, a column for each policy: those that begin something, and those of a thing."""

    def things(self) -> dict[str, Any]:
        """Return what each policy is asked about, all the owner's."""
        owner = local_player()
        drill = keep_drill(player=owner, drill=validate(plain()), name="Mine", family="dropped")
        return {
            "drills.may_change": drill,
            "ladders.may_change": start_ladder(player=owner, ladder=ladder_of(plain_ladder())),
            "pieces.may_change": Piece(player=owner, name="A groove", goal_bpm=90, last_bar=4, begins=[1]),
            "recordings.may_change": Upload(player=owner, number=1, drill=plain()),
            "takes.may_change": play(self.client),
        }

    def test_matrix(self) -> None:
        owner, things, policies = local_player(), self.things(), all_policies()
        beginning = {name for name in policies if name not in things}
        self.assertEqual(
            set(things), {name for name in policies if len(inspect.signature(policies[name]).parameters) > 1}
        )
        demo = Player.objects.create(username=DEMO)
        rows = (
            ("owner", owner, True, True),
            ("another", Player.objects.create(username="another"), True, False),
            ("the demo", demo, True, False),
            ("inactive owner", Player(pk=owner.pk, username="x", is_active=False), False, False),
            ("nobody", AnonymousUser(), False, False),
        )
        for name, player, begins, changes in rows:
            for policy in sorted(beginning):
                with self.subTest(name, policy=policy):
                    is_kept_out = player is demo and policy == "accounts.may_describe"  # nobody renames the demo
                    self.assertEqual(policies[policy](player), begins and not is_kept_out)
            for policy, thing in things.items():
                with self.subTest(name, policy=policy):
                    self.assertEqual(policies[policy](player, thing), changes)


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
