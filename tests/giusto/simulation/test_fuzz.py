"""Odd takes of any drill: the core answers each with a reading or with an error of its own."""

import warnings
from unittest import TestCase

from giusto.simulation.fuzz import KINDS, case


class FuzzTests(TestCase):
    def test_nothing_but_its_own_family_is_raised(self) -> None:
        """`./giusto bench` tries 5,000; a warning (a division by nothing) counts as a failure here."""
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            found = [case(number, seed=1) for number in range(220)]
        self.assertEqual({one.kind for one in found}, set(KINDS))
        refused = [(one.number, one.kind, one.refusal) for one in found if one.refusal]
        self.assertEqual(refused, [])
