"""The note record, and whether notes fit a drill better than chance."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from giusto.errors import GiustoError
from giusto.notes.match import match
from giusto.notes.record import notes_of
from tests.drills import planned


class RecordTests(TestCase):
    @given(st.lists(st.tuples(st.floats(-10, 10), st.floats(0, 1), st.sampled_from(["j", "f", ""])), max_size=30))
    def test_what_belongs_to_a_note_stays_with_it(self, rows: list[tuple[float, float, str]]) -> None:
        onsets, strengths, sources = (list(column) for column in zip(*rows, strict=True)) if rows else ([], [], [])
        notes = notes_of(onsets, strength=strengths, source=sources)
        found = list(zip(notes.onset_s.tolist(), notes.strength.tolist(), notes.source.tolist(), strict=True))
        self.assertEqual(found, sorted(rows, key=lambda row: row[0]))

    def test_faults(self) -> None:
        cases = (
            (([1.0], {"strength": [2.0]}), "range"),
            (([1.0, 2.0], {"source": ["j"]}), "lengths"),
            (([np.nan], {}), "not_finite"),
            (([[1.0]], {}), "not_1d"),
        )
        for (onsets, others), code in cases:
            with self.subTest(code), self.assertRaises(GiustoError) as caught:
                notes_of(onsets, **others)
            self.assertEqual(caught.exception.code, code)


class FarTests(TestCase):
    def test_notes_far_outside_the_drill_belong_to_nothing(self) -> None:
        plan = planned()
        far = np.linspace(5e5, 6e5, 2000)  # half a minute of searching before they were left aside
        onsets = np.concatenate([plan.seconds(plan.notes.tick), far])
        found = match(plan, onsets)
        self.assertEqual((found.missed.size, found.extra.size), (0, 2000))
