"""The state of a ladder: what a new rung forgets, and what nothing takes back."""

from unittest import TestCase

from giusto.practice.ladder.rules import RULES
from giusto.practice.ladder.state import State, Terms, Why


class StateTests(TestCase):
    def test_a_rung_anew_forgets_what_was_counted_on_the_one_before_and_nothing_else(self) -> None:
        full = State(
            rung=3, streak=2, misses=1, chances=4, cleans=2.5, secure=2, minutes=3.0, kept=Why.STAY, totals=(1, 2)
        )
        found = full.at(4, why=Why.MOVED)
        self.assertEqual(found, State(rung=4, secure=2, why=Why.MOVED, totals=(1, 2)))

    def test_secure_only_grows(self) -> None:
        self.assertEqual(State(rung=3, secure=2).passed().secure, 3)
        self.assertEqual(State(rung=1, secure=2).passed().secure, 2)

    def test_a_return_goes_on_rung_by_rung_and_ends_where_it_was_to_or_at_what_is_not_clean(self) -> None:
        rule, terms = RULES["streak"](kind="streak", clean=3), Terms((60.0, 64.0, 68.0, 72.0))
        on_the_way = rule.return_on(State(rung=1, target=3), True, terms)
        self.assertEqual((on_the_way.rung, on_the_way.target, on_the_way.why), (2, 3, Why.RETURNING))
        there = rule.return_on(State(rung=3, target=3), True, terms)
        self.assertEqual((there.rung, there.target), (4, 0))
        self.assertEqual(rule.return_on(State(rung=2, target=3), False, terms).target, 0)
        self.assertEqual(rule.return_on(State(rung=2, target=3), False, terms).rung, 2)
        at_the_top = rule.return_on(State(rung=4, target=5), True, terms)
        self.assertEqual((at_the_top.rung, at_the_top.target), (4, 0))

    def test_terms_end_at_the_last_rung(self) -> None:
        self.assertEqual(Terms((60.0, 64.0, None)).last, 3)
