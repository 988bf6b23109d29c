"""Schedules against tables written by hand."""

from unittest import TestCase

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from giusto.drill import validate
from giusto.schedule import schedule
from giusto.schedule.timeline import timeline
from tests.drills import climbing, fixed, planned

RANDOM_CYCLES = "xxxxxxx.xxxx.x.xx...xx.x"


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
        self.assertEqual(plan.sounding.any(axis=1).tolist(), [True, False, True, False, True])
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


class GrowingTests(TestCase):
    def test_each_silence_is_longer_up_to_the_most(self) -> None:
        plan = planned(silence={"kind": "growing", "heard": 1, "silent": 1, "step": 2, "max": 4}, cycles=15)
        heard = "".join("x" if sounds else "." for sounds in plan.sounding.all(axis=1))
        self.assertEqual(heard, "x.x...x....x...")  # 1, then 3, then 4 and no more

    def test_silences_grow_in_beats(self) -> None:
        plan = planned(silence={"kind": "growing", "heard": 2, "silent": 1, "step": 1, "max": 3}, cycles=12, close=1)
        lengths = [(s.end_tick - s.start_tick) / plan.ticks_per_beat for s in plan.silences]
        self.assertEqual(lengths, [5.0, 9.0, 13.0])


class RandomTests(TestCase):
    def silence(self, **changes: object) -> dict[str, object]:
        return {"kind": "random", "unit": "cycle", "probability": 0.3, "longest": 3, "seed": 5, **changes}

    def test_the_same_seed_gives_the_same_silences_for_ever(self) -> None:
        # Written down once from Python's random.Random(5), whose random() never changes.
        plan = planned(silence=self.silence(), cycles=24)
        heard = "".join("x" if sounds else "." for sounds in plan.sounding.all(axis=1))
        self.assertEqual(heard, RANDOM_CYCLES)
        other = planned(silence=self.silence(seed=6), cycles=24)
        self.assertNotEqual(plan.sounding.tolist(), other.sounding.tolist())

    def test_first_cycle_sounds_and_shares_are_near_the_probability(self) -> None:
        for unit in ("beat", "cycle"):
            plan = planned(silence=self.silence(unit=unit, longest=50), cycles=2000)
            self.assertTrue(plan.sounding[0].all())
            share = 1 - plan.sounding[1:].mean()
            self.assertTrue(0.26 < share < 0.34, share)  # SE of a share of .3 over 1999 cycles: .010

    @given(
        unit=st.sampled_from(["beat", "cycle"]),
        probability=st.floats(0, 1),
        longest=st.integers(1, 6),
        seed=st.integers(0, 2**53 - 1),
    )
    @settings(max_examples=40, deadline=None)
    def test_never_more_than_the_longest_in_a_row(self, unit: str, probability: float, longest: int, seed: int) -> None:
        plan = planned(silence=self.silence(unit=unit, probability=probability, longest=longest, seed=seed), cycles=60)
        units = plan.sounding.ravel() if unit == "beat" else plan.sounding.all(axis=1)
        runs = [len(run) for run in "".join("x" if sounds else "." for sounds in units).split("x")]
        self.assertLessEqual(max(runs), longest)

    def test_silent_beats_withhold_only_their_own_clicks(self) -> None:
        plan = planned(silence=self.silence(unit="beat", probability=0.5), cycles=40, on=["1", "2+1/2", "4"])
        self.assertEqual(len(plan.withheld) + int((plan.clicks.cycle >= 1).sum()) - 4, 40 * 3)
        for tick, offset in zip(plan.withheld.tick, plan.withheld.offset, strict=True):
            cycle = (tick - plan.body_tick) // plan.cycle_ticks
            self.assertFalse(plan.sounding[cycle, offset // plan.ticks_per_beat])


class ShiftTests(TestCase):
    def places(self, cycle: int, **changes: object) -> list[str]:
        plan = planned(silence=None, count_in=0, **changes)
        chosen = plan.clicks.cycle == cycle
        return [plan.position(offset) for offset in plan.clicks.offset[chosen]]

    def test_all_positions_move_after_every_so_many_cycles(self) -> None:
        changes = dict(on=["1", "3"], shift={"every_cycles": 2, "by": "1/4"}, cycles=8, grid=4)
        self.assertEqual(self.places(2, **changes), ["1", "3"])
        self.assertEqual(self.places(3, **changes), ["1+1/4", "3+1/4"])
        self.assertEqual(self.places(5, **changes), ["1+1/2", "3+1/2"])

    def test_positions_wrap_in_the_cycle(self) -> None:
        changes = dict(on=["4+3/4"], shift={"every_cycles": 1, "by": "1/2"}, cycles=8, grid=4)
        self.assertEqual(self.places(2, **changes), ["1+1/4"])

    @given(parts=st.integers(2, 8), every=st.integers(1, 3), beats=st.integers(1, 5))
    @settings(max_examples=30, deadline=None)
    def test_a_full_turn_comes_home(self, parts: int, every: int, beats: int) -> None:
        turn = every * parts * beats
        changes = dict(
            on=["1"], beats=beats, shift={"every_cycles": every, "by": f"1/{parts}"}, cycles=turn + 1, grid=1
        )
        self.assertEqual(self.places(turn + 1, **changes), ["1"])


class SubdivisionTests(TestCase):
    def test_quiet_clicks_split_the_beats_of_sounding_cycles(self) -> None:
        plan = planned(subdivide=2, silence=fixed(1, 1), cycles=2, count_in=0, close=0)
        found = [(plan.position(o), k) for o, k in zip(plan.clicks.offset, plan.kinds, strict=True)]
        self.assertEqual(
            found,
            [
                ("1", "click"),
                ("1+1/2", "sub"),
                ("2", "click"),
                ("2+1/2", "sub"),
                ("3", "click"),
                ("3+1/2", "sub"),
                ("4", "click"),
                ("4+1/2", "sub"),
            ],
        )

    def test_a_main_click_is_not_doubled_and_silent_beats_stay_silent(self) -> None:
        plan = planned(subdivide=3, on=["1+1/3"], silence=None, beats=2, cycles=1, count_in=0, close=0, grid=3)
        found = [(plan.position(o), k) for o, k in zip(plan.clicks.offset, plan.kinds, strict=True)]
        self.assertEqual(found, [("1+1/3", "click"), ("1+2/3", "sub"), ("2+1/3", "sub"), ("2+2/3", "sub")])

    def test_quiet_clicks_end_a_silence_too(self) -> None:
        plan = planned(subdivide=2, on=["1"], silence=None, beats=2, cycles=2, count_in=0, close=0)
        # Clicks at 1, 1+1/2, 2+1/2, 1, ...: never more than a beat apart.
        self.assertEqual(plan.silences, ())


class PartTests(TestCase):
    def test_segments_in_turn_again_and_again_through_the_close(self) -> None:
        play = [{"cycles": 2, "at": ["1"]}, {"cycles": 1, "at": ["1", "3"]}]
        plan = planned(play=play, cycles=4, close=1, grid=1, silence=None)
        counts = [int((plan.notes.cycle == cycle).sum()) for cycle in range(1, 6)]
        self.assertEqual(counts, [1, 1, 2, 1, 1])
        self.assertTrue(np.all(np.diff(plan.notes.tick) > 0))

    def test_a_free_part_asks_for_nothing_and_lets_every_slot_be_played(self) -> None:
        plan, grid = planned(play="free"), planned()
        self.assertEqual(len(plan.notes), 0)
        self.assertEqual(len(plan.silences), 4)
        self.assertEqual(plan.playable.tick.tolist(), grid.notes.tick.tolist())
        self.assertEqual(timeline(plan).of_note.size, 136)

    def test_long_drills_are_laid_out_whole(self) -> None:
        plan = planned(beats=64, cycles=2000, grid=8, silence=fixed(1, 1), close=0)
        self.assertEqual(len(plan.notes), 2000 * 64 * 8)
        self.assertTrue(np.all(np.diff(plan.notes.tick) == 1))


class OpeningTests(TestCase):
    def test_getting_in_on_an_offbeat_is_no_silence(self) -> None:
        """The fourth beat counted, the first click an eighth after one: a beat and a half in which nobody is alone."""
        offbeats = [f"{beat}+1/2" for beat in range(1, 5)]
        self.assertEqual(planned(on=offbeats, silence=None, grid=2).silences, ())
        two_and_four = planned(on=["2", "4"], silence=None, cycles=2)  # 4 of the count-in to 2 is as long as 2 to 4
        self.assertEqual([s.start_tick / two_and_four.ticks_per_beat for s in two_and_four.silences], [3, 5, 7, 9])


class TempoStepTests(TestCase):
    """A tempo that changes (``drill/2``), against sums by hand."""

    def test_each_cycle_lasts_what_its_tempo_says(self) -> None:
        plan = schedule(validate(climbing(60, cycles=4, every_cycles=1, by=60, to=240, on="any")))
        starts_s = plan.seconds(plan.body_tick + plan.cycle_ticks * np.arange(6))
        assert_allclose(starts_s, 4 + np.cumsum([0, 4, 2, 4 / 3, 1, 1]), rtol=0, atol=1e-12)  # 60, 120, 180, 240, 240

    def test_a_silence_keeps_its_tempo_and_the_next_has_another(self) -> None:
        plan = schedule(validate(climbing(60, cycles=16, every_cycles=4, by=30)))
        self.assertEqual([plan.bpm_in(silence) for silence in plan.silences], [60, 120])
        lengths_s = [plan.between_s(s.start_tick, s.end_tick) for s in plan.silences]
        assert_allclose(lengths_s, [17.0, 8.5], rtol=0, atol=1e-12)  # 17 beats each, from the last click to the next

    def test_seconds_and_ticks_are_each_others_way_back(self) -> None:
        plan = schedule(validate(climbing(71, cycles=12, every_cycles=1, by="notch", to=97, on="any")))
        ticks = np.linspace(-3 * plan.ticks_per_beat, plan.end_tick + 9, 500)
        assert_allclose(plan.tempos.ticks(plan.seconds(ticks)), ticks, rtol=0, atol=1e-9)
