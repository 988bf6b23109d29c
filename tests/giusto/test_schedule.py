"""Schedules against tables written by hand."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.drill import validate
from giusto.errors import NotBuiltError
from giusto.schedule import schedule
from giusto.timeline import timeline
from tests.drills import fixed, plain, planned


def rows(plan, count: int) -> list[tuple[float, int, str, str]]:  # type: ignore[no-untyped-def]
    """Return the first clicks as (time, cycle, position, kind)."""
    times = plan.seconds(plan.clicks.tick)
    return [
        (round(float(times[i]), 6), int(plan.clicks.cycle[i]), plan.position(plan.clicks.offset[i]), str(plan.kinds[i]))
        for i in range(count)
    ]


class ClickTests(TestCase):
    def test_count_in_body_and_accent(self) -> None:
        plan = planned(accent="first", count_in=1)
        self.assertEqual(
            rows(plan, 6),
            [
                (0.0, 0, "1", "count"),
                (0.625, 0, "2", "count"),
                (1.25, 0, "3", "count"),
                (1.875, 0, "4", "count"),
                (2.5, 1, "1", "accent"),
                (3.125, 1, "2", "click"),
            ],
        )

    def test_two_count_in_cycles_are_minus_one_and_zero(self) -> None:
        plan = planned(count_in=2, beats=3)
        self.assertEqual([row[1] for row in rows(plan, 7)], [-1, -1, -1, 0, 0, 0, 1])

    def test_without_count_in_the_body_starts_at_zero(self) -> None:
        self.assertEqual(rows(planned(count_in=0), 1), [(0.0, 1, "1", "click")])

    def test_offbeats_and_last_sixteenth(self) -> None:
        plan = planned(on=["1+1/2", "4+3/4"], silence=None, bpm=60, grid=4, count_in=0)
        self.assertEqual(
            rows(plan, 3), [(0.5, 1, "1+1/2", "click"), (3.75, 1, "4+3/4", "click"), (4.5, 2, "1+1/2", "click")]
        )

    def test_groups_are_accented(self) -> None:
        plan = planned(beats=8, groups=[4, 2, 2], accent="groups", silence=None, count_in=0)
        accents = [row[2] for row in rows(plan, 8) if row[3] == "accent"]
        self.assertEqual(accents, ["1", "5", "7"])  # common practice: 8 as 4+2+2

    def test_every_second_cycle_sounds_from_the_first(self) -> None:
        plan = planned(every=2, silence=None, cycles=5, close=0, count_in=0)
        self.assertEqual(plan.sounding.tolist(), [True, False, True, False, True])
        self.assertEqual(sorted(set(plan.clicks.cycle.tolist())), [1, 3, 5])

    def test_close_is_plain_beats_that_the_player_plays_through(self) -> None:
        plan = planned(on=["2", "4"], silence=None, cycles=2, close=1, grid=1, count_in=0, accent="first")
        closing = plan.clicks.cycle == 3
        self.assertEqual(plan.clicks.offset[closing].tolist(), [0, 1, 2, 3])
        self.assertEqual(set(plan.kinds[closing].tolist()), {"click"})
        self.assertEqual(int((plan.notes.cycle == 3).sum()), 4)

    def test_thirds_of_a_beat_stay_exact(self) -> None:
        plan = planned(
            on=["1", "1+1/3", "1+2/3"], beats=1, bpm=140, silence=None, grid=3, cycles=2000, count_in=0, close=0
        )
        # One rounding each: the last click is that of exact rational arithmetic.
        self.assertEqual(float(plan.seconds(plan.clicks.tick[-1])), float(5999 * 60) / (140 * 3))


class SilenceTests(TestCase):
    def test_fixed_silences_of_the_published_example(self) -> None:
        plan = planned()
        spans = [(float(plan.seconds(s.start_tick)), float(plan.seconds(s.end_tick))) for s in plan.silences]
        self.assertEqual(spans, [(6.875, 12.5), (16.875, 22.5), (26.875, 32.5), (36.875, 42.5)])
        self.assertEqual(len(plan.notes), 136)

    def test_two_and_four_leaves_two_beats_each_time(self) -> None:
        plan = planned(on=["2", "4"], silence=None, cycles=2, grid=1)
        beats = [(s.end_tick - s.start_tick) / plan.ticks_per_beat for s in plan.silences]
        # count-in's beat 4 to 2, 2 to 4, 4 to 2, 2 to 4; the close comes one beat after 4.
        self.assertEqual(beats, [2, 2, 2, 2])

    def test_clicks_a_beat_apart_leave_no_silence(self) -> None:
        self.assertEqual(planned(silence=None).silences, ())

    def test_part_by_positions(self) -> None:
        plan = planned(play=["1", "3+1/2"], cycles=2, close=0, count_in=0, bpm=60, silence=None)
        assert_allclose(plan.seconds(plan.notes.tick), [0.0, 2.5, 4.0, 6.5], rtol=0, atol=1e-12)


class TimelineTests(TestCase):
    def test_moments_clicks_and_silences(self) -> None:
        plan = planned(on=["1"], silence=None, cycles=2, close=0, count_in=0, grid=1, play=["2"])
        line = timeline(plan)
        # Moments: click (no note), note 2, click (no note), note 2; one silence between the clicks.
        assert_allclose(line.time_s, [0.0, 0.625, 2.5, 3.125], rtol=0, atol=1e-12)
        self.assertEqual(line.note.tolist(), [-1, 0, -1, 1])
        self.assertEqual(line.clicks.tolist(), [1, 0, 1])
        self.assertEqual(line.silence.tolist(), [0, 0, -1])
        self.assertEqual((line.start.tolist(), line.end.tolist()), ([0], [2]))


class UnbuiltTests(TestCase):
    def test_what_is_not_built_is_refused_by_name(self) -> None:
        grown = {"kind": "growing", "heard": 2, "silent": 1, "step": 1, "max": 4}
        cases = {
            "clicks.silence of kind growing": plain(silence=grown),
            "part.play free": plain(play="free"),
            "part.play in segments": plain(play=[{"cycles": 4, "at": ["1"]}]),
        }
        for what, drill in cases.items():
            with self.subTest(what), self.assertRaises(NotBuiltError) as caught:
                schedule(validate(drill))
            self.assertIn(what, str(caught.exception))
            self.assertEqual(caught.exception.code, "not_built")

    def test_long_drills_are_laid_out_whole(self) -> None:
        plan = planned(beats=64, cycles=2000, grid=8, silence=fixed(1, 1), close=0)
        self.assertEqual(len(plan.notes), 2000 * 64 * 8)
        self.assertTrue(np.all(np.diff(plan.notes.tick) == 1))
