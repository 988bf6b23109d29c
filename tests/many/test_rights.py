"""Rights, walked: each address has a rule and each rule an address; each way of asking, by each kind of viewer."""

from __future__ import annotations

import logging
from collections.abc import Iterator
from typing import Any
from uuid import uuid4

from django.apps import apps
from django.db import transaction
from django.test import Client, TestCase
from django.urls import URLPattern, URLResolver, get_resolver, reverse

from studio.accounts.models import Player
from studio.takes.models import Take
from studio.teaching.middleware import LOOKED, SCOPES
from studio.teaching.models import Scope
from tests.many.people import SECRET, Things, client_of
from tests.many.rights import RULES
from tests.studio.playing import begin_body

WAYS = ("get", "post")
DOOR = (302, 401)


def addresses(
    patterns: Any = None, space: tuple[str, ...] = (), above: tuple[str, ...] = ()
) -> Iterator[tuple[str, list[str]]]:
    """Return every address by its name, with the names of what stands in it."""
    for one in get_resolver().url_patterns if patterns is None else patterns:
        words = (*above, *one.pattern.converters)
        if isinstance(one, URLResolver):
            yield from addresses(one.url_patterns, (*space, one.namespace) if one.namespace else space, words)
        elif isinstance(one, URLPattern):
            yield ":".join((*space, one.name or "")), list(words)


class TableTests(TestCase):
    def test_each_address_has_a_rule_and_each_rule_an_address(self) -> None:
        self.assertEqual({name for name, _ in addresses()}, set(RULES))

    def test_each_model_leads_to_a_player(self) -> None:
        def leads(model: Any, steps: int = 3) -> bool:
            owners = [field for field in model._meta.get_fields() if field.many_to_one or field.one_to_one]
            found = [field.related_model for field in owners if field.concrete]
            return model is Player or (steps > 0 and any(leads(one, steps - 1) for one in found if one is not model))

        ours = [model for model in apps.get_models() if model.__module__.startswith("studio.")]
        self.assertGreater(len(ours), 20)
        self.assertEqual([model.__name__ for model in ours if not leads(model)], [])


class WalkTests(TestCase):
    """Six kinds of viewer, every address, both ways of asking, one thing of each kind."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.things = Things()

    def setUp(self) -> None:
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        of = self.things
        viewers = {"pupil": of.pupil, "teacher": of.teacher, "former": of.former, "another": of.another}
        viewers["owner"] = of.owner
        self.clients = {name: client_of(player) for name, player in viewers.items()} | {"nobody": client_of(None)}

    def path(self, name: str, words: list[str]) -> str:
        """Return an address with the pupil's things in it; one that can't be made fails."""
        of = self.things
        stretch = of.piece.stretches.first()
        assert stretch is not None
        by_name: dict[str, Any] = {
            "take_id": of.take.pk,
            "own_id": of.own.pk,
            "key": of.click.key,
            "ladder_id": of.ladder.pk,
            "exercise_id": of.ladder.exercise_id,
            "piece_id": of.piece.pk,
            "stretch_id": stretch.pk,
            "mark_id": of.mark.pk,
            "upload_id": of.upload.pk,
            "score_id": uuid4(),
            "token": of.routine.token,
            "player_id": of.pupil.pk,
            "remark_id": of.remark.pk,
            "assignment_id": of.assignment.pk,
            "consent_id": of.consent.pk,
            "session_id": 1,
            "year": 2026,
            "number": 11 if name in ("progress:month", "teaching:months") else 1,
            "form": "wav",
            "voice": "wood",
            "kind": "click",
            "rate_hz": 48000,
            "rate": 48000,
            "sound": "wood",
            "pk": {"hearing:forget": of.delay.pk, "hearing:forget-instrument": of.instrument.pk}.get(name, 1),
        }
        return reverse(name, kwargs={each: by_name[each] for each in words})

    def ask(self, client: Client, way: str, name: str, path: str) -> Any:
        if way == "get":
            return client.get(path)
        if name in ("takes:begin", "takes:end", "takes:discard", "takes:batch"):
            body = {"takes:begin": begin_body(), "takes:end": {"how": "complete", "batches": 2}}.get(name, {})
            if name == "takes:batch":
                body = {"notes": [], "pairs": []}
            return client.post(path, body, content_type="application/json", headers={"Accept": "application/json"})
        return client.post(path)

    def allowed(self, rule: str, viewer: str) -> str:
        """Return what a viewer is answered by a rule: ``yes``, ``gone``, ``no``, ``door``, ``way``."""
        if rule == "-":
            return "way"
        if rule in ("open", "token", "out"):
            return "any" if rule == "out" else "yes"
        if viewer == "nobody":
            return "door"
        if rule == "each":
            return "yes"
        if rule == "teach":
            return "yes" if viewer in ("teacher", "former", "owner") else "no"
        if rule == "owner":
            return "yes" if viewer == "owner" else "no"
        mine = {"own": ("pupil",), "pupils": ("teacher",), "by": ("teacher",), "own by": ("pupil", "teacher")}[rule]
        return "yes" if viewer in mine else "gone"

    def test_every_address_by_every_viewer(self) -> None:
        asked = 0
        for name, words in addresses():
            for way in WAYS:
                rule = getattr(RULES[name], way)
                for viewer in self.clients:
                    answer = self.answer(viewer, way, name, words)
                    asked += 1
                    with self.subTest(name, way=way, viewer=viewer, rule=rule):
                        self.check(answer, self.allowed(rule, viewer), name, viewer)
        self.assertGreater(asked, 1500)

    def answer(self, viewer: str, way: str, name: str, words: list[str]) -> Any:
        """Ask, and undo what came of it."""
        client = self.clients[viewer]
        cookies = client.cookies.copy()
        with transaction.atomic():
            answer = self.ask(client, way, name, self.path(name, words))
            transaction.set_rollback(True)
        client.cookies = cookies
        return answer

    def check(self, answer: Any, expected: str, name: str, viewer: str) -> None:
        status = answer.status_code
        self.assertLess(status, 500)
        is_door = status in DOOR and (status == 401 or "/account/login/" in answer.headers.get("Location", ""))
        if expected == "way":
            # A page that asks for an account does so before it says how it may be asked.
            self.assertTrue(status == 405 or is_door, status)
        elif expected == "door":
            self.assertTrue(is_door, status)
        elif expected == "any":
            self.assertIn(status, (200, 302))
        elif expected == "gone":
            self.assertIn(status, (403, 404) if name == "takes:begin" else (404,))
        elif expected == "no":
            self.assertEqual(status, 403)
        else:
            self.assertFalse(is_door, answer.headers.get("Location"))
            nothing = NOTHING_THERE.get(name)
            self.assertTrue(status == nothing or status not in (403, 404, 405), status)
        knows = viewer == "pupil" or (viewer == "teacher" and name.startswith("teaching:"))
        if expected == "yes" and not knows and not answer.streaming:
            text, of = answer.content.decode(errors="replace"), self.things
            for foreign in (SECRET, str(of.take.pk), str(of.ladder.pk), str(of.piece.pk), str(of.own.pk)):
                self.assertNotIn(foreign, text)


# What is answered with "not there" to those who may ask, since the factory makes none of it.
NOTHING_THERE = {
    "scores:score": 404,
    "pieces:score": 404,
    "joining:end-session": 404,
    "mfa_remove_webauthn": 404,
    "mfa_edit_webauthn": 404,
    "mfa_deactivate_totp": 404,
    "ladders:word": 404,
    "plan:choose": 404,  # no week is named
    "plan:ics": 404,  # no routine
    "plan:routine-file": 404,
    "takes:move": 404,  # to no exercise
    "takes:silence": 404,
    "recordings:choose": 404,
    "hearing:stroke": 404,
    "mfa_view_recovery_codes": 404,
    "mfa_generate_recovery_codes": 403,
    "mfa_download_recovery_codes": 404,
}


class LookWalkTests(WalkTests):
    """The same addresses below ``/pupils/…/see/``: only by consent, only what is looked at, and nothing is changed."""

    def test_every_address_by_every_viewer(self) -> None:
        for name, words in addresses():
            path = f"/pupils/{self.things.pupil.pk}/see{self.path(name, words)}"
            for way in WAYS:
                for viewer in self.clients:
                    with self.subTest(name, way=way, viewer=viewer):
                        self.check_look(name, way, viewer, self.clients[viewer], path)

    def check_look(self, name: str, way: str, viewer: str, client: Client, path: str) -> None:
        answer = self.ask(client, way, name, path)
        if viewer == "nobody":
            self.assertEqual((answer.status_code, "/account/login/" in answer.headers["Location"]), (302, True))
            return
        may = viewer == "teacher" and name in LOOKED and SCOPES.get(name, Scope.TAKES) == Scope.TAKES
        if not may:
            self.assertEqual(answer.status_code, 404)
        elif way == "post":
            self.assertEqual(answer.status_code, 405)
        elif name not in NOTHING_THERE:
            self.assertIn(answer.status_code, (200, 302))
            self.assertNotIn(SECRET, answer.content.decode(errors="replace"))
            for link in ("/play/", f"/takes/{self.things.take.pk}/delete/"):
                self.assertNotIn(f'href="{link}', answer.content.decode(errors="replace"))

    def test_a_link_shows_one_reading_and_nothing_else(self) -> None:
        prefix, nobody = f"/shown/{self.things.shown.token}", client_of(None)
        for name, words in addresses():
            with self.subTest(name):
                answer = self.ask(nobody, "get", name, prefix + self.path(name, words))
                self.assertEqual(answer.status_code, 200 if name in ("readings:reading", "readings:silence") else 404)
                self.assertNotIn(SECRET, answer.content.decode(errors="replace"))
        other = Take.objects.exclude(pk=self.things.take.pk).first()
        self.assertIsNone(other)
        self.assertEqual(nobody.get(f"{prefix}/takes/{uuid4()}/").status_code, 404)
        self.assertEqual(nobody.post(f"{prefix}/takes/{self.things.take.pk}/").status_code, 405)
