"""The state of a ladder: what a new rung forgets, and what nothing takes back."""

from unittest import TestCase

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

    def test_terms_end_at_the_last_rung(self) -> None:
        self.assertEqual(Terms((60.0, 64.0, None)).last, 3)
