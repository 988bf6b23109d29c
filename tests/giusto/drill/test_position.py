"""Places in the cycle: read, refused, and written back the same."""

from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from giusto.drill.position import parse, write


class PositionTests(TestCase):
    def test_by_hand(self) -> None:
        for text, beats in (("1", 0), ("4", 3), ("99", 98), ("2+1/2", Fraction(3, 2)), ("1+2/4", Fraction(1, 2))):
            with self.subTest(text):
                self.assertEqual(parse(text), beats)

    def test_what_is_no_place_is_refused(self) -> None:
        for text in ("", "0", "01", "100", "1+", "1+1/1", "1+3/2", "1+0/2", "1+1/0", "1.5", " 1", "1+1/2\n", "١"):
            with self.subTest(text), self.assertRaisesRegex(ValueError, "expected a place"):
                parse(text)

    @given(st.integers(0, 98), st.integers(1, 9999), st.data())
    def test_what_is_written_is_read_as_the_same(self, beat: int, parts: int, data: st.DataObject) -> None:
        beats = beat + Fraction(data.draw(st.integers(0, parts - 1)), parts)
        self.assertEqual(parse(write(beats)), beats)
