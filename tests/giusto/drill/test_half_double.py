"""Half and double tempo: the click changes, the music does not."""

from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from giusto.drill import validate
from giusto.drill.half_double import doubled, halved
from giusto.errors import DrillError, GiustoError
from giusto.schedule import schedule
from tests.drills import plain


class FeelTests(TestCase):
    def test_thirty_is_felt_as_a_hundred_and_twenty(self) -> None:
        """Common practice: a click at 30, doubled twice, is 120."""
        slow = validate(plain(bpm=30, beats=2, grid=4, silence=None))
        fast = doubled(doubled(slow))
        self.assertEqual((fast.tempo.bpm, fast.tempo.beat, fast.cycle.beats, fast.part.grid), (120, "1/16", 8, 1))

    def test_quarter_96_is_half_48(self) -> None:
        """Common practice: 96 quarters a minute are 48 halves."""
        half = halved(validate(plain(grid=2)))
        self.assertEqual((half.tempo.bpm, half.tempo.beat), (48, "1/2"))
        self.assertEqual((half.cycle.beats, half.part.grid, half.clicks.on), (2, 4, ("1", "2")))

    def test_clicks_on_two_and_four_keep_their_times(self) -> None:
        half = halved(validate(plain(on=["2", "4"])))
        self.assertEqual(half.clicks.on, ("1+1/2", "2+1/2"))

    @given(
        st.sampled_from([2, 4, 6, 8]),
        st.integers(1, 8),
        st.sampled_from(["grid", "free", "places"]),
        st.sampled_from([halved, doubled]),
    )
    def test_notes_stay_where_they_were(self, beats: int, grid: int, play: str, change) -> None:
        places = ["1", f"{beats}"]
        drill = validate(plain(beats=beats, grid=grid, play=places if play == "places" else play))
        try:
            other = change(drill)
        except GiustoError as error:
            self.assertEqual((error.code, change, grid > 4), ("feel", halved, True))
            return
        before, after = schedule(drill), schedule(other)
        np.testing.assert_allclose(
            after.seconds(after.notes.tick), before.seconds(before.notes.tick), rtol=0, atol=1e-9
        )
        self.assertAlmostEqual(float(after.seconds(after.end_tick)), float(before.seconds(before.end_tick)))

    def test_there_and_back(self) -> None:
        drill = validate(
            plain(grid=2, play=["1", "2+1/2"], groups=[2, 2], shift={"every_cycles": 2, "by": "1/2"}, subdivide=2)
        )
        self.assertEqual(doubled(halved(drill)), drill)

    def test_what_cannot_be_halved_says_why(self) -> None:
        for changes, why in (({"beats": 5}, "5 beats"), ({"grid": 6}, "8 parts"), ({"subdivide": 5}, "8 parts")):
            with self.assertRaisesRegex(GiustoError, why):
                halved(validate(plain(**changes)))
        with self.assertRaisesRegex(GiustoError, "3 quiet clicks"):
            doubled(validate(plain(subdivide=3)))
        with self.assertRaisesRegex(DrillError, "tempo.bpm: is 400|at most 400"):
            doubled(validate(plain(bpm=300)))
