"""What is held, counted by tempo and length."""

from itertools import pairwise
from math import sqrt
from unittest import TestCase

from giusto.practice.over_takes.held import TEMPOS, Cell, held
from tests.giusto.practice.over_takes import silence


class HeldTests(TestCase):
    def test_counted_by_tempo_and_length_by_hand(self) -> None:
        """Nine beats at 96 last 5.6 s, which is the thread's 5 s; at 72, 7.5 s, which is nearer to 10."""
        some = [silence()] * 5 + [silence(outcome="early")] + [silence(tempo_bpm=72.0)] * 4
        found = held(some)
        self.assertEqual((found.tempos, found.lengths), ((72, 96), (5.0, 10.0)))
        self.assertEqual(found.cells[96, 5.0], Cell(5, 6))
        self.assertEqual((found.longest(96), found.longest(72)), (5.0, 10.0))

    def test_what_is_too_close_to_call_or_unreadable_counts_nowhere(self) -> None:
        some = [silence(outcome=outcome) for outcome in ("held", "edge", "unreadable", "late")]
        self.assertEqual(held(some).cells[96, 5.0], Cell(1, 2))
        self.assertEqual(held([silence(outcome="edge")]).tempos, ())

    def test_one_tempo_gives_way_to_the_next_halfway_in_octaves(self) -> None:
        for below, above in pairwise(TEMPOS):
            border = sqrt(below * above)
            found = [held([silence(tempo_bpm=border * part)]).tempos for part in (0.999, 1.001)]
            self.assertEqual(found, [(below,), (above,)])

    def test_in_cycles(self) -> None:
        self.assertEqual(held([silence()], in_cycles=True).lengths, (2.0,))
        self.assertEqual(held([silence(beats=13.0, cycle_beats=3)], in_cycles=True).lengths, (4.0,))

    def test_two_in_three_of_at_least_four(self) -> None:
        told = [Cell(*pair).is_held for pair in ((3, 3), (3, 4), (2, 4), (4, 6), (13, 18), (5, 8))]
        self.assertEqual(told, [False, True, False, True, True, False])

    def test_the_eight_tempos_with_the_most_silences_are_shown(self) -> None:
        tempos = (30, 40, 48, 60, 72, 84, 96, 108, 120)
        some = [silence(tempo_bpm=float(bpm)) for index, bpm in enumerate(tempos) for _ in range(1 + index)]
        self.assertEqual(held(some).tempos, tempos[1:])
