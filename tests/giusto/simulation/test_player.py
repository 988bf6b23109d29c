"""The simulated player: its truth is what it plays."""

from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose

from giusto.errors import GiustoError
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

STILL = dict(clock_percent=0.0, hand_ms=0.0, place_ms=0.0)


class SimulateTests(TestCase):
    def test_without_noise_or_bias_it_plays_what_is_asked(self) -> None:
        plan = planned()
        take = simulate(plan, SimulatedPlayer(**STILL), seed=1)
        assert_allclose(take.onsets_s, plan.seconds(plan.notes.tick), rtol=0, atol=1e-12)

    def test_bias_is_a_tempo(self) -> None:
        # 1 % faster: 5.625 s asked are played in 5.625 / 1.01 s.
        take = simulate(planned(), SimulatedPlayer(bias_percent=1.0, **STILL), seed=1)
        assert_allclose(take.drift_s[0], 5.625 / 1.01 - 5.625, rtol=0, atol=1e-12)

    def test_a_heard_click_takes_back_its_share(self) -> None:
        plan = planned(grid=1)
        take = simulate(plan, SimulatedPlayer(bias_percent=-2.0, alpha=0.4, **STILL), seed=1)
        notes = plan.notes.tick.searchsorted(plan.silences[0].end_tick)
        errors = take.onsets_s - plan.seconds(plan.notes.tick)
        assert_allclose(errors[notes + 1] / errors[notes], 0.6, rtol=1e-9, atol=0)

    def test_same_seed_same_take(self) -> None:
        one, other, third = (simulate(planned(), SimulatedPlayer(missed=0.1), seed=seed) for seed in (3, 3, 4))
        self.assertTrue(np.array_equal(one.onsets_s, other.onsets_s))
        self.assertFalse(np.array_equal(one.onsets_s[:50], third.onsets_s[:50]))

    def test_missed_and_extra_shares(self) -> None:
        plan = planned(cycles=800)
        take = simulate(plan, SimulatedPlayer(missed=0.1, extra=0.05), seed=2)
        share = np.count_nonzero(take.asked >= 0) / len(plan.notes)
        assert_allclose(share, 0.9, rtol=0, atol=0.015)
        assert_allclose(np.count_nonzero(take.asked < 0) / len(plan.notes), 0.05, rtol=0, atol=0.01)

    def test_spread_is_that_of_the_two_level_model(self) -> None:
        """Wing & Kristofferson 1973 (from memory): Var(interval) = clock² + 2·hand², lag 1: −hand²."""
        plan = planned(
            bpm=120, grid=1, count_in=1, cycles=12_000 // 4 // 2, silence={"kind": "fixed", "heard": 1, "silent": 1999}
        )
        take = simulate(plan, SimulatedPlayer(clock_percent=2.0, hand_ms=6.0, alpha=0.0), seed=9)
        intervals = np.diff(take.onsets_s)[8:] * 1000
        gamma1 = np.mean((intervals[1:] - intervals.mean()) * (intervals[:-1] - intervals.mean()))
        assert_allclose(intervals.var(), 10.0**2 + 2 * 6.0**2, rtol=0.06, atol=0)
        assert_allclose(gamma1, -(6.0**2), rtol=0.2, atol=0)

    def test_figures_out_of_range_are_refused(self) -> None:
        for changes, message in (
            (dict(bias_percent=99), "bias_percent is 99, allowed is -20 to 20"),
            (dict(alpha=float("nan")), "alpha is nan, allowed is 0 to 1"),
        ):
            with self.assertRaises(GiustoError) as caught:
                SimulatedPlayer(**changes)
            self.assertEqual(str(caught.exception), message)
        with self.assertRaises(GiustoError):
            simulate(planned(), SimulatedPlayer(), seed=-1)
