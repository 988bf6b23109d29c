"""One answer to whether a take counts as clean."""

from datetime import date, timedelta
from unittest import TestCase

from giusto.practice.clean import Limits, Margins
from tests.giusto.practice.over_takes import EVENING, facts, silence


class CleanTests(TestCase):
    def test_by_hand(self) -> None:
        held, missed = Margins(4, 4, 0, 0.4, 3.0, 1.0), Margins(4, 3, 0, 1.4, 3.0, 1.0)
        unread = Margins(4, 3, 1, 0.4, 3.0, 1.0)
        cases = (
            (facts(margins=held), True),
            (facts(margins=missed), False),
            (facts(margins=missed, said=True), False),  # a reading that says no is not talked over
            (facts(margins=held, said=False), False),  # the player's no always counts
            (facts(margins=unread), None),
            (facts(margins=unread, said=True), True),
            (facts(margins=held, is_whole=False), None),  # broken off: its player is asked
            (facts(margins=held, is_whole=False, said=True), True),
            (facts(margins=missed, is_whole=False), False),
            (facts(margins=None, by_reading=True), True),  # what an earlier version said stands
            (facts(margins=None, by_reading=None), None),
        )
        for number, (one, expected) in enumerate(cases):
            with self.subTest(case=number):
                self.assertIs(one.clean(), expected)

    def test_the_chance_is_the_readings_unless_the_player_said(self) -> None:
        """Nobody measured what has no margins or was broken off; what the player said is as good as certain."""
        surely = Margins(4, 4, 0, 0.4, 3.0, 1.0, chance=0.97, return_sd=0.01)
        for one, expected in (
            (facts(margins=surely), 0.97),
            (facts(margins=None), None),
            (facts(margins=surely, is_whole=False), None),
            (facts(margins=None, is_whole=False), None),
            (facts(margins=surely, said=False), 0.0),
            (facts(margins=None, said=True), 1.0),
        ):
            self.assertEqual(one.chance(), expected)

    def test_words_of_silences(self) -> None:
        said = [silence(outcome=word).is_held for word in ("held", "early", "late", "edge", "unreadable")]
        self.assertEqual(said, [True, False, False, False, False])
        self.assertEqual([silence(outcome=word).is_readable for word in ("edge", "unreadable")], [True, False])

    def test_by_the_limits_that_are_given(self) -> None:
        """Without silences the spread counts: 3 % of a slot is clean by 4, and not by 2."""
        one = facts(margins=Margins(0, 0, 0, None, 3.0, 1.0))
        self.assertIs(one.clean(), True)
        self.assertIs(one.clean(Limits(spread_percent=2.0)), False)
        self.assertIs(one.clean(Limits(missed_percent=0.5)), False)
        self.assertTrue(facts(margins=Margins(0, 0, 0, None, 1.9, 1.0)).easy())
        self.assertFalse(one.easy())
        self.assertFalse(facts(margins=None).easy())

    def test_when(self) -> None:
        one = facts(2, played_s=90.0)
        self.assertEqual((one.day, one.minutes), (date(2026, 10, 7), 1.5))
        self.assertEqual(one.end, EVENING + timedelta(days=2, seconds=90))
        self.assertAlmostEqual(one.days - facts(0).days, 2)
