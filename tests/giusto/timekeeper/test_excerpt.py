"""The stretches that stand for a long take: cut between silences, none twice, and all of a short one."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.timekeeper.excerpt import EXCERPT, EXCERPTS, excerpt
from giusto.timekeeper.take import Chain
from tests.giusto.takes import silent_chain


def chain(n: int, *, every: int) -> Chain:
    """Return a take of n moments that are numbered by their errors, with ends every so many."""
    whole = silent_chain(np.arange(n, dtype=np.float64), 500.0)
    return replace(whole, ends=np.arange(0, n, every))


class ExcerptTests(TestCase):
    def test_a_short_take_is_itself(self) -> None:
        whole = chain(EXCERPT * EXCERPTS, every=16)
        self.assertIs(excerpt(whole), whole)

    def test_a_long_take_is_three_stretches_from_its_beginning_middle_and_end(self) -> None:
        whole = chain(9_001, every=10)
        found = excerpt(whole).error_ms
        self.assertTrue(EXCERPT * EXCERPTS * 0.9 <= found.size <= EXCERPT * EXCERPTS * 1.1)
        numbers = found[np.isfinite(found)]
        self.assertEqual(numbers.size, np.unique(numbers).size)  # none twice
        self.assertTrue(np.all(np.diff(numbers) > 0))
        cuts = np.flatnonzero(np.diff(numbers) > 1)
        self.assertEqual(cuts.size, EXCERPTS - 1)
        begins = [numbers[0], *numbers[cuts + 1]]
        self.assertEqual([begin % 10 for begin in begins], [0, 0, 0])  # between silences
        np.testing.assert_allclose(begins, [0, (9_000 - EXCERPT) / 2, 9_000 - EXCERPT], atol=15)
