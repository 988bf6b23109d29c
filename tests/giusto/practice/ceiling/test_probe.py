"""Where a climbing click and notes part: hands that can go so fast and no faster, whose limit is known."""

from unittest import TestCase

import numpy as np

from giusto.drill import validate
from giusto.practice.ceiling import Ceiling, ceiling, has_parted, is_probe, probe_of, working_at
from giusto.practice.ceiling.probe import SETTLED_SHARE, _Cycle, _place_of, _place_s
from giusto.schedule import Schedule, schedule
from tests.drills import plain


def probe(**changes) -> Schedule:  # type: ignore[no-untyped-def]
    """Return sixteenths from 80, four faster every cycle, up to 200."""
    drill = plain(silence=None, bpm=80, grid=4, cycles=31, **changes)
    drill["giusto"] = "drill/2"
    drill["tempo"]["steps"] = {"every_cycles": 1, "by": 4, "to": 200}
    return schedule(validate(drill))


def hands(plan: Schedule, limit_bpm: float, *, seed: int = 1, place_s: float = -0.02) -> np.ndarray:
    """Return notes on their places as long as the hands can, then as fast as they can and ever later."""
    rng = np.random.default_rng(seed)
    asked = plan.seconds(plan.notes.tick)
    least_s = 60 / limit_bpm / plan.drill.part.grid
    played = [asked[0]]
    for at in asked[1:]:
        played.append(max(at, played[-1] + least_s * (1 + rng.normal(0, 0.01))))
    return np.sort(np.array(played) + place_s + rng.normal(0, 0.005, len(played)))


class ProbeTests(TestCase):
    def test_its_last_cycle_alone_is_as_fast_as_it_goes(self) -> None:
        """Each cycle faster than the one before it, to the last: none is spent at the end."""
        for bpm, beats in ((60, 4), (97, 3), (140, 4), (180, 5)):
            made = probe_of(validate(plain(silence=None, bpm=bpm, beats=beats)))
            assert made
            plan = schedule(made)
            lasts_s = np.diff(plan.seconds(plan.body_tick + plan.cycle_ticks * np.arange(made.cycles + 1)))
            with self.subTest(bpm=bpm):
                self.assertTrue(np.all(np.diff(lasts_s) < 0))
                self.assertAlmostEqual(60 * beats / lasts_s[-1], made.tempo.steps.to, delta=0.5)  # type: ignore[union-attr]


class CeilingTests(TestCase):
    def test_the_limit_is_found(self) -> None:
        plan, covered = probe(), []
        for seed in range(10):
            limit_bpm = 110.0 + 6 * seed
            found = ceiling(plan, hands(plan, limit_bpm, seed=seed))
            assert isinstance(found, Ceiling)
            assert found.bpm
            assert found.kept_bpm
            covered.append(found.ci95_bpm[0] <= limit_bpm + 8 and limit_bpm - 4 <= found.ci95_bpm[1])
            self.assertAlmostEqual(found.bpm, limit_bpm + 2, delta=9)  # a note or two late is still with it
            self.assertTrue(limit_bpm - 4 <= found.kept_bpm <= limit_bpm + 10)
        self.assertEqual(np.mean(covered), 1)

    def test_all_kept_says_at_least_and_none_kept_at_most(self) -> None:
        plan = probe()
        found = ceiling(plan, hands(plan, 400))
        assert isinstance(found, Ceiling)
        self.assertEqual((found.reason, found.bpm, found.kept_bpm), ("all-kept", None, 200))
        self.assertGreater(found.ci95_bpm[0], 185)
        rng = np.random.default_rng(1)
        nothing = ceiling(plan, np.sort(rng.uniform(3, 60, 300)))
        assert isinstance(nothing, Ceiling)
        self.assertEqual((nothing.reason, nothing.kept_bpm), ("none-kept", None))
        self.assertLess(nothing.ci95_bpm[1], 100)

    def test_what_was_not_played_any_more_does_not_count(self) -> None:
        plan = probe()
        onsets = hands(plan, 400)
        stopped = onsets[: onsets.size // 2]
        found = ceiling(plan, stopped)
        assert isinstance(found, Ceiling)
        self.assertEqual(found.reason, "all-kept")
        self.assertLess(found.cycles, 18)

    def test_a_constant_delay_changes_nothing(self) -> None:
        plan = probe()
        here, late = (ceiling(plan, hands(plan, 140, place_s=place)) for place in (-0.02, 0.03))
        assert isinstance(here, Ceiling)
        assert isinstance(late, Ceiling)
        self.assertAlmostEqual(here.bpm or 0, late.bpm or 0, delta=4)

    def test_too_little_is_said(self) -> None:
        plan = probe()
        self.assertEqual(getattr(ceiling(plan, []), "code", ""), "few-climbed")
        self.assertEqual(getattr(ceiling(plan, hands(plan, 140)[:40]), "code", ""), "few-climbed")

    def test_which_drills_are_probes(self) -> None:
        self.assertTrue(is_probe(probe().drill))
        self.assertFalse(is_probe(validate(plain(silence=None))))
        slower = plain(silence=None, bpm=120) | {"giusto": "drill/2"}
        slower["tempo"]["steps"] = {"every_cycles": 1, "by": -4, "to": 60}
        self.assertFalse(is_probe(validate(slower)))


class PlaceTests(TestCase):
    """Where a player sits, by the first cycles."""

    def test_the_first_cycles_tell_it_and_of_few_the_first_one(self) -> None:
        cycles = [_Cycle(60.0 + n, float(n), 4, np.full(4, 0.001 * (n + 1)), np.full(4, 0.25)) for n in range(40)]
        settled = 40 // SETTLED_SHARE
        self.assertAlmostEqual(_place_of(cycles), 0.001 * (settled + 1) / 2, delta=1e-5)
        self.assertAlmostEqual(_place_of(cycles[:1]), 0.001, delta=1e-6)
        self.assertEqual(_place_of([]), 0.0)

    def test_errors_go_round_their_slot(self) -> None:
        """A tenth of a slot early, each over a slot of its own."""
        self.assertAlmostEqual(_place_s([(-0.02, 0.2), (-0.04, 0.4)]), -0.03)
        self.assertAlmostEqual(_place_s([(0.18, 0.2), (0.36, 0.4)]), -0.03)


class ProbeOfTests(TestCase):
    def test_it_has_the_notes_of_its_drill_and_a_click_that_climbs(self) -> None:
        figure = validate(plain(bpm=100, beats=3, grid=4, play=["1", "1+3/4", "2", "3+1/2"], on=["2"]))
        found = probe_of(figure)
        assert found
        self.assertTrue(is_probe(found))
        self.assertEqual((found.part, found.cycle), (figure.part, figure.cycle))
        self.assertEqual(found.clicks.on, ("1", "2", "3"))
        plan = schedule(found)
        first, last = (plan.body_tick + plan.cycle_ticks * k for k in (0, found.cycles))
        self.assertAlmostEqual(plan.bpm_between(first, first + plan.cycle_ticks), 75, delta=1)
        self.assertAlmostEqual(plan.bpm_between(last - plan.cycle_ticks, last), 225, delta=2)

    def test_long_cycles_have_fewer_and_larger_steps(self) -> None:
        """From 75 by 150, in 400 beats: 30 steps of 5 at most, of 16 beats 25 of 6, of 32 twelve of 12."""
        for beats, cycles in ((2, 31), (4, 31), (16, 26), (32, 13)):
            found = probe_of(validate(plain(bpm=100, beats=beats, on=["1"])))
            assert found
            self.assertEqual(found.cycles, cycles, beats)

    def test_where_nothing_is_asked_there_is_none(self) -> None:
        self.assertIsNone(probe_of(validate(plain(play="free"))))
        self.assertIsNone(probe_of(validate(plain(on=[], silence=None, close=0) | {"giusto": "free/1"})))

    def test_it_has_parted_two_cycles_after_the_hands_could_no_more(self) -> None:
        """Against what the whole take tells: never before the ceiling, and not four cycles behind it."""
        plan = probe()
        for seed in range(6):
            played = hands(plan, 120.0 + 8 * seed, seed=seed)
            found = ceiling(plan, played)
            assert isinstance(found, Ceiling)
            assert found.bpm
            ends = [float(plan.seconds(plan.body_tick + plan.cycle_ticks * k)) for k in range(1, 32)]
            first = next(k for k, end in enumerate(ends) if has_parted(plan, played, end))
            self.assertTrue(found.bpm <= 80 + 4 * first <= found.bpm + 4 * 5, (seed, first, found.bpm))

    def test_a_hand_that_stops_has_parted_as_well(self) -> None:
        plan = probe()
        played = hands(plan, 400)
        end = float(plan.seconds(plan.body_tick + plan.cycle_ticks * 8))
        ends = [float(plan.seconds(plan.body_tick + plan.cycle_ticks * k)) for k in range(1, 32)]
        told = [has_parted(plan, played[played < end - 0.1], at) for at in ends]
        self.assertEqual(told.index(True), 9)
        self.assertFalse(has_parted(plan, np.zeros(0), 100.0))

    def test_the_tempo_to_work_at_lies_in_its_range(self) -> None:
        found = working_at(ceiling(probe(), hands(probe(), 140)))
        assert found
        self.assertTrue(found.low_bpm <= found.bpm <= found.high_bpm)
        self.assertAlmostEqual(found.bpm, 0.8 * 142, delta=6)
        self.assertIsNone(working_at(None))
