"""Whatever is sent to whatever address of a studio, by pupil, teacher, owner or nobody: never an error of ours."""

from __future__ import annotations

from collections.abc import Iterator
from random import Random
from typing import Any

from django.core.cache import cache
from hypothesis import strategies as st
from hypothesis.strategies import SearchStrategy

from tests.many.people import Things, client_of
from tests.studio import test_every_address as odd

BY = ("pupil", "teacher", "owner", "nobody")
SHORT = 2  # rounds, as in the suite
OUT = "/account/logout/"  # whoever goes there is gone for the rest


class OddStudioTests(odd.EveryAddressTests):
    """As in the suite of one player, by each of four."""

    things: Things

    @classmethod
    def setUpTestData(cls) -> None:
        cls.things = of = Things()
        cls.take, cls.ladder, cls.piece, cls.own = of.take, of.ladder, of.piece, of.own

    def there(self) -> dict[str, Any]:
        """Return what is there, by the name of the part of an address that leads to it."""
        of = self.things
        return super().there() | {
            "player_id": of.pupil.pk,
            "remark_id": of.remark.pk,
            "assignment_id": of.assignment.pk,
            "consent_id": of.consent.pk,
            "upload_id": of.upload.pk,
            "token": of.shown.token,
        }

    def before(self) -> SearchStrategy[str]:
        """Return what may stand before an address: nothing, as a rule, or whose things are looked at."""
        of = self.things
        looks = ("", "", "", "", "", "", f"/pupils/{of.pupil.pk}/see", f"/pupils/{of.pupil.pk}/see")
        return st.sampled_from((*looks, f"/shown/{of.shown.token}"))

    def routes(self) -> Iterator[tuple[str, dict[str, str]]]:
        """Yield every address but the one behind which nobody is in any more."""
        return ((route, kinds) for route, kinds in super().routes() if route != OUT)

    def test_no_address_fails(self) -> None:
        """Each address by one of them, drawn anew each run; in a long run by all."""
        drawn = Random(self.seed)
        of = {route: BY if odd.ROUNDS > SHORT else (drawn.choice(BY),) for route, _ in self.routes()}
        for who in BY:
            with self.subTest(who):
                cache.clear()
                self.client = client_of(getattr(self.things, who, None))
                self.hold_all(one for one in self.routes() if who in of[one[0]])
        self.assertGreater(self.asked, odd.ROUNDS * 300)
