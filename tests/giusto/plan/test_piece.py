"""A piece from its chunks to the whole, by hand (the order is common practice, the numbers are ours)."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from giusto.errors import GiustoError
from giusto.plan.piece import (
    LOWER_STEPS,
    MOST_BARS,
    Asked,
    StretchState,
    even_begins,
    is_open,
    next_of,
    start_bpm,
    stretches,
)

TODAY = date(2026, 11, 26)
SIX = [StretchState(stretch) for stretch in stretches([1, 3, 5], 6)]  # three chunks, two joins, a larger one, the whole


def asked(some: list[StretchState], school: str = "after") -> Asked | None:
    """Return what comes next with 100 as the goal."""
    return next_of(some, school=school, goal_bpm=100, today=TODAY)


class StretchTests(TestCase):
    def test_sixteen_bars_by_two(self) -> None:
        found = stretches(even_begins(1, 16, 2), 16)
        kinds = [sum(one.kind == kind for one in found) for kind in ("chunk", "join", "larger", "whole")]
        self.assertEqual(kinds, [8, 7, 4 + 2, 1])

    def test_even_chunks_reach_the_last_bar(self) -> None:
        self.assertEqual(even_begins(1, 3, 1), [1, 2, 3])
        self.assertEqual((even_begins(1, 1, 2), even_begins(1, 3, 2)), ([1], [1]))
        self.assertEqual((even_begins(1, 7, 2), even_begins(1, 8, 2)), ([1, 3, 5], [1, 3, 5, 7]))

    def test_larger_ones_end_where_their_last_chunk_ends(self) -> None:
        larger = [(one.first, one.last) for one in stretches([3, 5, 8, 10], 12) if one.kind == "larger"]
        self.assertEqual(larger, [(3, 7), (8, 12)])

    def test_a_piece_that_is_far_too_long_is_refused(self) -> None:
        for more in (0, 1, 500):
            with self.assertRaisesRegex(GiustoError, "bars, allowed are"):
                stretches([1], MOST_BARS + 1 + more)

    def test_a_movement_may_begin_late_in_a_long_piece(self) -> None:
        (whole,) = stretches([5 * MOST_BARS + 1], 6 * MOST_BARS)
        self.assertEqual((whole.kind, whole.last - whole.first + 1), ("whole", MOST_BARS))

    def test_one_chunk_is_the_whole_and_what_makes_none_is_refused(self) -> None:
        self.assertEqual([one.kind for one in stretches([1], 2)], ["whole"])
        for begins, last in (([1, 1], 4), ([5, 1], 9), ([3], 2), ([], 4)):
            with self.assertRaisesRegex(GiustoError, "do not ascend"):
                stretches(begins, last)
        with self.assertRaisesRegex(GiustoError, "the piece has 2001 bars"):
            stretches([1], 2001)

    @given(st.lists(st.integers(1, 60), min_size=1, max_size=12, unique=True).map(sorted), st.integers(0, 5))
    def test_chunks_cover_each_bar_once_and_every_border_has_its_join(self, begins: list[int], more: int) -> None:
        last = begins[-1] + more
        found = stretches(begins, last)
        chunks = [one for one in found if one.kind == "chunk"] or found
        self.assertEqual(
            [bar for one in chunks for bar in range(one.first, one.last + 1)], [*range(begins[0], last + 1)]
        )
        self.assertEqual([one.last for one in found if one.kind == "join"], begins[1:])
        self.assertEqual((found[-1].kind, found[-1].first, found[-1].last), ("whole", begins[0], last))


class NextTests(TestCase):
    def test_no_click_until_the_notes_are_known(self) -> None:
        self.assertEqual(asked(SIX), Asked(0, "learn"))
        some = [replace(one, is_learned=True) for one in SIX[:1]] + SIX[1:]
        self.assertEqual(asked(some), Asked(1, "learn"))
        self.assertEqual(asked(SIX, "throughout"), Asked(0, "climb"))

    def test_chunks_then_joins_then_larger_then_the_whole(self) -> None:
        """Each is open when all inside it stand at 80 of 100; the one that stands lowest comes first."""
        some = [replace(one, is_learned=True) for one in SIX]
        order = []
        for _ in some:
            found = asked(some)
            assert found is not None
            order.append(found.index)
            some[found.index] = replace(some[found.index], secure_bpm=100.0, is_done=True)
        self.assertEqual(order, [0, 1, 2, 3, 4, 5, 6])
        self.assertIsNone(asked(some))

    def test_a_piece_of_one_stretch_is_learned_first_too(self) -> None:
        whole = [StretchState(one) for one in stretches([1], 4)]
        self.assertEqual(asked(whole), Asked(0, "learn"))
        self.assertEqual(asked([replace(whole[0], is_learned=True)]), Asked(0, "climb"))

    def test_of_checks_that_are_due_the_longest_ago_comes_first(self) -> None:
        days = (20, 30, 25, 40, 22, 21, 23)
        some = [
            replace(one, is_learned=True, played=TODAY - timedelta(days=ago))
            for one, ago in zip(SIX, days, strict=True)
        ]
        self.assertEqual(asked(some, "checks"), Asked(3, "check"))
        some[5] = replace(some[5], played=None)
        self.assertEqual(asked(some, "checks"), Asked(5, "check"))

    def test_a_larger_one_begins_below_its_own_parts(self) -> None:
        """The first two chunks and their join stand at 84, 80 and 88; the third chunk, at 50, has no part in it."""
        stand = (84.0, 80.0, 50.0, 88.0, 0.0, 0.0, 0.0)
        some = [replace(one, secure_bpm=bpm or None) for one, bpm in zip(SIX, stand, strict=True)]
        larger = next(one.stretch for one in SIX if one.stretch.kind == "larger")
        found = start_bpm(some, larger, found_bpm=60.0, step_bpm=4.0)
        self.assertEqual(found, 80.0 - LOWER_STEPS * 4.0)

    def test_a_join_waits_for_both_of_its_chunks(self) -> None:
        some = [replace(SIX[0], secure_bpm=80.0), replace(SIX[1], secure_bpm=79.0), *SIX[2:]]
        self.assertFalse(is_open(some, 3, 100))
        some[1] = replace(some[1], secure_bpm=80.0)
        self.assertTrue(is_open(some, 3, 100))
        self.assertFalse(is_open(some, 5, 100))  # its join is not there yet

    def test_what_was_played_today_waits(self) -> None:
        some = [replace(one, is_learned=True, secure_bpm=60.0) for one in SIX[:3]] + SIX[3:]
        some[0] = replace(some[0], secure_bpm=50.0, played=TODAY)
        self.assertEqual(asked(some), Asked(1, "climb"))
        some[2] = replace(some[2], played=TODAY, is_under_way=True)
        self.assertEqual(asked(some), Asked(2, "climb"))  # until something new of it is secure

    def test_spot_checks_come_once_a_week(self) -> None:
        some = [replace(one, is_learned=True, played=TODAY - timedelta(days=3)) for one in SIX]
        self.assertEqual(asked(some, "checks"), Asked(0, "work"))
        some[4] = replace(some[4], played=TODAY - timedelta(days=7))
        self.assertEqual(asked(some, "checks"), Asked(4, "check"))

    def test_larger_ones_are_started_again_lower(self) -> None:
        self.assertEqual(start_bpm(SIX, SIX[0].stretch, found_bpm=90, step_bpm=4), 63)  # 70 % of 90
        some = [replace(SIX[0], secure_bpm=92.0), replace(SIX[1], secure_bpm=88.0), *SIX[2:]]
        self.assertEqual(start_bpm(some, some[3].stretch, found_bpm=90, step_bpm=4), 80)  # two steps below 88
