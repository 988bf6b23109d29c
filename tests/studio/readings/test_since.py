"""The first take against the latest, and the course between them."""

from __future__ import annotations

from django.test import TestCase

from giusto.simulation.player import SimulatedPlayer
from tests.studio.playing import play


class SinceTests(TestCase):
    def test_a_lean_that_went_is_more_than_chance(self) -> None:
        for day in range(8):
            hand = SimulatedPlayer(bias_percent=2.4 - 0.3 * day, clock_percent=0.5, hand_ms=3.0)
            take = play(self.client, player=hand, seed=day, started_at=f"2026-11-{10 + day}T10:00:00Z")
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "Since the first take")
        since = page.context["since"]
        lean = since.lines[0]
        self.assertEqual((since.takes, lean.name, lean.is_sure), (8, "Lean in the silence", True))
        self.assertIn("fast", lean.before)
        self.assertIn("more than chance", page.content.decode())

    def test_eight_takes_where_nothing_is_sure_and_nothing_of_what_came_later(self) -> None:
        takes = [play(self.client, seed=day, started_at=f"2026-11-{10 + day}T10:00:00Z") for day in range(9)]
        self.assertNotContains(self.client.get(takes[6].get_absolute_url()), "Since the first take")
        page = self.client.get(takes[7].get_absolute_url())
        self.assertEqual(page.context["since"].takes, 8)
        self.assertContains(page, "may be chance")
