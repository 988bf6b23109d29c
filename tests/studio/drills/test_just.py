"""Just the click: rounds of what the sentence says, and how it reaches the player."""

from __future__ import annotations

from typing import Any

from django.test import TestCase

from giusto.drill import validate
from studio.accounts.models import local_player
from studio.drills.just import just_the_click
from studio.drills.models import delivery_of
from tests.drills import fixed, plain


def made(**changes: Any) -> dict[str, Any]:
    """Return the rounds of a drill."""
    return just_the_click(validate(plain(**changes)), school="syllables")


class JustTests(TestCase):
    def test_a_bar_over_and_over_without_its_silences(self) -> None:
        found = made(silence=fixed(2, 2), bpm=120)
        self.assertEqual(found["beat_s"], 0.5)
        self.assertEqual(found["plain"]["beats"], 4)
        self.assertEqual([beat for beat, _, _ in found["plain"]["clicks"]], [0, 1, 2, 3])

    def test_dropping_out_as_the_drill_does(self) -> None:
        """Two bars with the click, two alone: by the drill's own text."""
        found = made(silence=fixed(2, 2), cycles=8)["dropping"]
        self.assertEqual(found["beats"], 32)
        self.assertEqual([beat for beat, _, _ in found["clicks"]], [*range(8), *range(16, 24)])

    def test_two_and_four_and_every_second_bar(self) -> None:
        found = made(on=["2", "4"], silence=None)["plain"]
        self.assertEqual([beat for beat, _, _ in found["clicks"]], [1, 3])
        found = made(on=["1"], silence=None, every=2)["plain"]
        self.assertEqual((found["beats"], [beat for beat, _, _ in found["clicks"]]), (8, [0]))


class DeliveryTests(TestCase):
    def say(self, **words: str) -> None:
        start = {"voice": "wood", "level": "soft", "accent": "some", "seen": "no", "felt": "no", "way": "heard"}
        self.client.post("/set/delivery/", start | words)

    def test_louder_and_softer_by_a_step_and_no_further(self) -> None:
        self.say(step="louder")
        self.assertEqual(delivery_of(local_player()).level, "plain")
        self.say(level="full", step="louder")
        self.assertEqual(delivery_of(local_player()).level, "full")
        self.say(level="faint", step="softer")
        self.assertEqual(delivery_of(local_player()).level, "faint")

    def test_only_felt_only_seen_and_heard_again(self) -> None:
        for way in ("felt", "seen", "heard"):
            self.say(way=way)
            found = delivery_of(local_player())
            self.assertEqual([name for name in ("heard", "seen", "felt") if getattr(found, name)], [way])

    def test_seen_beside_heard(self) -> None:
        self.say(seen="yes")
        found = delivery_of(local_player())
        self.assertEqual((found.heard, found.seen, found.felt), (True, True, False))
