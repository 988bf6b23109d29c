"""Pauses by time played and loudness, by hand."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from unittest import TestCase

from giusto.plan.rest import Pause, TakeLoad, pause_due

SIX = datetime(2026, 11, 26, 18, tzinfo=UTC)


def takes(*minutes: tuple[float, float], loud: bool = False) -> list[TakeLoad]:
    """Return takes from so many minutes after six to so many."""
    return [TakeLoad(SIX + timedelta(minutes=a), SIX + timedelta(minutes=b), loud) for a, b in minutes]


def due(some: list[TakeLoad], after: float) -> Pause | None:
    """Return the pause that is due so many minutes after six."""
    return pause_due(some, SIX + timedelta(minutes=after))


class PauseTests(TestCase):
    def test_after_twenty_five_minutes_played(self) -> None:
        self.assertIsNone(due(takes((0, 12), (14, 26)), 27))
        self.assertEqual(due(takes((0, 12), (14, 27)), 28), Pause(25, False))

    def test_short_gaps_one_after_the_other_are_no_rest(self) -> None:
        self.assertEqual(due(takes((0, 10), (11, 20), (21, 30)), 31), Pause(28, False))

    def test_sooner_where_it_was_loud(self) -> None:
        self.assertEqual(due(takes((0, 15), loud=True), 16), Pause(15, True))
        self.assertIsNone(due(takes((0, 15)), 16))

    def test_minutes_played_are_rounded_and_loud_ones_told_where_they_lead_to_it(self) -> None:
        self.assertEqual(due(takes((0, 29.6)), 30), Pause(30, False))
        mixed = [*takes((0, 14), loud=True), *takes((14, 26))]
        self.assertEqual(due(mixed, 26), Pause(26, False))  # fourteen loud minutes are no reason yet
        self.assertIsNone(due(mixed[:1], 14))
        self.assertFalse(TakeLoad(SIX, SIX).is_loud)

    def test_the_gap_is_that_before_each_take(self) -> None:
        """Three takes, the first pause long before: what was played since then counts, gap by gap."""
        some = takes((0, 10), (20, 32), (33, 46))
        self.assertEqual(due(some, 47), Pause(25, False))

    def test_a_gap_of_five_minutes_is_a_pause(self) -> None:
        self.assertIsNone(due(takes((0, 20), (25, 35)), 36))
        self.assertIsNone(due(takes((0, 30)), 35))
        self.assertIsNone(due([], 35))
