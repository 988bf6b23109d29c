"""The scale and the words, against facts of the trade and music21's own numbers."""

import itertools
from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.tempo_scale import PRINTED_WORDS, SCALE_BPM, SINGLE_WORDS, notch, tempo_word

# The traditional 39 steps (common practice).
STEPS = """40 42 44 46 48 50 52 54 56 58 60 63 66 69 72 76 80 84 88 92 96 100 104 108 112 116 120
126 132 138 144 152 160 168 176 184 192 200 208"""
# music21 10.5.1, tempo.defaultTempoValues: the order of the words, and where a word stands.
ORDER = "Larghissimo Grave Largo Lento Adagio Andante Moderato Allegretto Allegro Vivace Presto Prestissimo"


class ScaleTests(TestCase):
    def test_the_39_steps(self) -> None:
        self.assertEqual(SCALE_BPM, tuple(int(step) for step in STEPS.split()))

    def test_each_step_is_one_to_two_just_noticeable_differences(self) -> None:
        ratios = np.array(SCALE_BPM[1:]) / SCALE_BPM[:-1]  # 1.0345 to 1.0556, computed once with numpy
        self.assertTrue(1.034 < ratios.min() < ratios.max() < 1.056)

    def test_next_day_one_notch_below(self) -> None:
        self.assertEqual(notch(84, -1), 80)  # common practice: 84 → 80

    def test_beyond_the_ends(self) -> None:
        self.assertEqual([notch(30, -1), notch(30, 1), notch(230, 1), notch(230, -1)], [30, 40, 230, 208])
        self.assertEqual([notch(40, -3), notch(200, 9), notch(97.5, 0)], [40, 208, 97.5])

    @given(st.floats(40, 208))
    @settings(max_examples=60, deadline=None)
    def test_up_and_down_come_home_on_the_scale(self, bpm: float) -> None:
        up = notch(bpm, 1)
        self.assertIn(up, SCALE_BPM)
        self.assertGreaterEqual(up, bpm)
        self.assertLessEqual(notch(up, -1), bpm if bpm < 208 else 208)


class WordTests(TestCase):
    def test_music21s_order_holds(self) -> None:
        values = dict(SINGLE_WORDS)
        found = [values[word] for word in ORDER.split()]
        self.assertEqual(found, sorted(found))

    def test_single_values_give_their_own_word(self) -> None:
        for word, bpm in SINGLE_WORDS:
            self.assertEqual(tempo_word(bpm, table="single"), word)

    def test_printed_ranges_join_without_gaps(self) -> None:
        for (_, _, high), (_, low, _) in itertools.pairwise(PRINTED_WORDS):
            self.assertEqual(high, low)
        self.assertEqual(
            [tempo_word(bpm, table="printed") for bpm in (20, 60, 119, 400)],
            ["Largo", "Larghetto", "Moderato", "Prestissimo"],
        )

    def test_unknown_table(self) -> None:
        with self.assertRaises(ValueError):
            tempo_word(100, table="mine")
