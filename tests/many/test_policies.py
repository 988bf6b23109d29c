"""Who may do what as teacher, pupil and owner: every verb against every kind of player."""

from __future__ import annotations

import inspect
from typing import Any

from django.contrib.auth.models import AnonymousUser
from django.test import TestCase

from studio.accounts.models import Player
from studio.joining import policies as joining
from studio.teaching import policies as teaching
from tests.many.people import Things

WHO = ("pupil", "teacher", "former", "another", "owner")
# A row for each verb: whom it allows. "former" teaches, and the pupil has ended what was agreed.
MATRIX = {
    "may_invite": ("teacher", "former", "owner"),
    "may_look_after": ("owner",),
    "may_teach": ("teacher", "former", "owner"),
    "may_speak": ("teacher",),
    "may_let_in": ("teacher",),
    "may_change_remark": ("teacher",),
    "may_put_away": ("pupil",),
    "may_answer": ("pupil",),
    "may_take_back": ("teacher",),
    "may_withdraw": ("pupil", "teacher"),
    "may_show": ("pupil",),
}


class VerbTests(TestCase):
    def test_matrix(self) -> None:
        of = Things()
        about: dict[str, Any] = {
            "may_speak": of.pupil,
            "may_let_in": of.pupil,
            "may_change_remark": of.remark,
            "may_put_away": of.remark,
            "may_answer": of.assignment,
            "may_take_back": of.assignment,
            "may_withdraw": of.consent,
            "may_show": of.take,
        }
        verbs = {
            name: verb
            for module in (joining, teaching)
            for name, verb in inspect.getmembers(module, inspect.isfunction)
            if name.startswith("may_") and verb.__module__ == module.__name__
        }
        self.assertEqual(set(verbs), set(MATRIX))
        for name, verb in verbs.items():
            thing = [about[name]] if name in about else []
            for who in WHO:
                with self.subTest(name, who=who):
                    self.assertEqual(verb(getattr(of, who), *thing), who in MATRIX[name])
            with self.subTest(name, who="nobody"):
                self.assertFalse(verb(AnonymousUser(), *thing))
        Player.objects.update(is_active=False)
        for name, verb in verbs.items():
            thing = [about[name]] if name in about else []
            for who in WHO:
                with self.subTest(name, who=f"{who}, locked"):
                    self.assertFalse(verb(Player.objects.get(username=who), *thing))
