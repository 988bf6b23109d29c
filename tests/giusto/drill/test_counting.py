"""The fifteen figures, and how they are counted."""

from itertools import combinations
from unittest import TestCase

from giusto.drill import validate
from giusto.drill.counting import beat_figure_places, beat_figures, counts
from tests.drills import plain


class FiguresTests(TestCase):
    def test_all_ways_to_fill_four_slots(self) -> None:
        """Common practice: fifteen. Here against itertools' own combinations."""
        every = [c for size in (1, 2, 3, 4) for c in combinations(range(4), size)]
        self.assertEqual(list(beat_figures()), every)
        self.assertEqual(len(every), 15)

    def test_counts_of_a_figure(self) -> None:
        """Common practice: the beat's number, e, and, a."""
        drill = validate(plain(beats=2, grid=4, play=beat_figure_places((0, 3), beats=2)))
        said = " ".join(c.text if c.is_played else f"({c.text})" for c in counts(drill))
        self.assertEqual(said, "1 (e) (and) a 2 (e) (and) a")
        self.assertEqual([c.is_beat for c in counts(drill)][:5], [True, False, False, False, True])

    def test_counts_of_a_grid_and_of_a_segment(self) -> None:
        triplets = validate(plain(beats=2, grid=3))
        self.assertEqual([c.text for c in counts(triplets)], ["1", "trip", "let", "2", "trip", "let"])
        self.assertTrue(all(c.is_played for c in counts(triplets)))
        turns = validate(plain(beats=2, grid=1, play=[{"cycles": 1, "at": ["1"]}, {"cycles": 1, "at": ["2"]}]))
        self.assertEqual([c.is_played for c in counts(turns, segment=1)], [False, True])
