"""Whatever is sent to whatever address of a studio, by pupil, teacher, owner or nobody: never an error of ours."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from django.core.cache import cache

from tests.many.people import Things, client_of
from tests.studio import test_every_address as odd

BY = ("pupil", "teacher", "owner", "nobody")
OUT = "/account/logout/"  # whoever goes there is gone for the rest


class OddStudioTests(odd.EveryAddressTests):
    """As in the suite of one player, by each of four."""

    things: Things

    @classmethod
    def setUpTestData(cls) -> None:
        cls.things = of = Things()
        cls.take, cls.ladder, cls.piece, cls.own = of.take, of.ladder, of.piece, of.own

    def value(self, name: str, kind: str) -> Any:
        """Return something for a part of an address: what is there, as a rule, or what is not."""
        of = self.things
        there = {
            "player_id": of.pupil.pk,
            "remark_id": of.remark.pk,
            "assignment_id": of.assignment.pk,
            "consent_id": of.consent.pk,
            "upload_id": of.upload.pk,
            "token": of.shown.token,
        }
        return there[name] if name in there and self.rng.random() < 0.8 else super().value(name, kind)

    def addresses(self) -> Iterator[str]:
        """Yield every address, some of them as they are looked at."""
        of = self.things
        looks = ("", f"/pupils/{of.pupil.pk}/see", f"/shown/{of.shown.token}")
        for address in super().addresses():
            if address != OUT:
                yield self.rng.choices(looks, (6, 2, 1))[0] + address

    def test_no_address_fails(self) -> None:
        for who in BY:
            with self.subTest(who):
                cache.clear()
                self.client = client_of(getattr(self.things, who, None))
                super().test_no_address_fails()
