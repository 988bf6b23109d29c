"""Where the takes of an exercise lean, drawn about a vertical: half its width is 30 ms, or what is needed."""

from __future__ import annotations

from unittest import TestCase

from giusto.practice.rush import Lean
from studio.ladders.leaning import draw_places


def lean(position: str, gain_ms: float, ends_ms: tuple[float, float], *, bar: int = 1, leans: bool = True) -> Lean:
    """Return where one place leans."""
    return Lean(bar, position, 4, 16, gain_ms, ends_ms, leans)


class PlacesTests(TestCase):
    def test_early_to_the_left_late_to_the_right_as_far_as_it_is(self) -> None:
        middle = lean("4", 3.0, (-6.0, 12.0), leans=False)
        picture = draw_places([lean("2", -15.0, (-21.0, -9.0)), lean("3+1/2", 9.0, (3.0, 15.0)), middle])
        # 110 px to 30 ms about 190, rows of 22 from 30 down.
        self.assertEqual([row.x for row in picture.rows], [135.0, 223.0, 201.0])
        self.assertEqual([(row.low, row.width) for row in picture.rows], [(113.0, 44.0), (201.0, 44.0), (168.0, 66.0)])
        self.assertEqual([row.y for row in picture.rows], [41.0, 63.0, 85.0])
        self.assertEqual(picture.height, 30 + 3 * 22 + 12)
        self.assertEqual([row.side for row in picture.rows], ["early", "late", ""])
        self.assertEqual([row.text for row in picture.rows], ["15\xa0ms early", "9\xa0ms late", ""])
        self.assertEqual([row.name for row in picture.rows], ["2", "3+1/2", "4"])

    def test_what_is_wider_sets_the_width_and_bars_in_turn_are_named(self) -> None:
        picture = draw_places([lean("1", -40.0, (-60.0, -20.0)), lean("1", 0.0, (-3.0, 3.0), bar=2, leans=False)])
        self.assertEqual([row.low for row in picture.rows], [80.0, 184.5])
        self.assertEqual([row.name for row in picture.rows], ["1: 1", "2: 1"])
