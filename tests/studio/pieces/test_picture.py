"""A piece down the page: its bars, beats and notes as paths; a dot where nothing leans, a way to the bars elsewhere."""

from __future__ import annotations

import re
from unittest import TestCase

from giusto.missing import Missing
from giusto.practice.rush import Lean
from studio.pieces.models import Piece
from studio.pieces.picture import WIDE, draw_piece
from studio.pieces.standing import PieceStanding

FOUND = [
    Lean(1, "3", 6, 24, -20.0, (-30.0, -10.0), leans=True),
    Lean(2, "1", 6, 24, 20.0, (-5.0, 45.0), leans=False),
]


def standing(**words: object) -> PieceStanding:
    """Return a piece of ten bars of four beats without a score, nothing begun."""
    usual = {"name": "Ten bars", "goal_bpm": 96.0, "last_bar": 10, "begins": [1], "beats": 4, "grid": 2}
    piece = Piece(**usual | words)
    return PieceStanding(piece, [], None)


def starts(path: str) -> list[tuple[float, float]]:
    """Return where the marks of a path begin."""
    return [(float(x), float(y)) for x, y in re.findall(r"M([\d.]+) ([\d.]+)", path)]


class PiecePictureTests(TestCase):
    def test_each_bar_has_its_line_its_beats_and_its_notes(self) -> None:
        """Ten bars of 34 px from 34 down, their lines at 52 in 100; a sheet of 250 px from 44 across."""
        bars = draw_piece(standing(), [], [], WIDE).bars
        lines = starts(bars.lines)
        self.assertEqual(lines, [(44.0, round(34 + (index + 0.52) * 34, 1)) for index in range(10)])
        self.assertEqual(starts(bars.beats)[:4], [(44.0, 51.7), (106.5, 51.7), (169.0, 51.7), (231.5, 51.7)])
        self.assertEqual(len(starts(bars.beats)), 40)
        self.assertEqual([x for x, _ in starts(bars.notes)[:3]], [44.0, 75.2, 106.5])
        self.assertEqual(len(starts(bars.notes)), 80)
        self.assertEqual(bars.numbers, [(number, y) for number, (_, y) in enumerate(lines, start=1)])

    def test_of_many_bars_every_one_is_numbered_that_has_room(self) -> None:
        numbers = draw_piece(standing(first_bar=3, last_bar=60), [], [], WIDE).bars.numbers
        self.assertEqual([number for number, _ in numbers], list(range(3, 61)))  # none lower than 17 px

    def test_what_leans_opens_its_bars_and_what_does_not_is_a_dot(self) -> None:
        """Half the width, 60 px, is 40 ms; a bar is 34 px high."""
        picture = draw_piece(standing(), FOUND, [], WIDE)
        (leaning,) = picture.places
        self.assertEqual((leaning.side, leaning.x, leaning.y), ("early", 342.0, 34 + 34 / 2))
        self.assertEqual(leaning.url, "?around=1-2#spot")
        self.assertEqual(leaning.label, "bar 1, beat 3: 20\xa0ms early, in 6 takes")
        self.assertEqual(starts(picture.dots), [(402.0, 68.0)])

    def test_too_few_takes_are_no_dots(self) -> None:
        picture = draw_piece(standing(), Missing("places", "few-takes", 1, 3), [], WIDE)
        self.assertEqual((picture.places, picture.dots), ([], ""))
