"""Clock, hand and correction: golden numbers, statsmodels, closed forms, recovery."""

from dataclasses import replace
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from statsmodels.tsa.arima.model import ARIMA

from giusto.figures.variability import _apart, variability
from giusto.missing import Missing
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, one_over_f, simulate
from tests.drills import planned
from tests.giusto.takes import silent_chain, taken
from tests.reference import golden


class VariabilityTests(TestCase):
    def test_set_b_by_maximum_likelihood_and_by_moments(self) -> None:
        """Set B of the golden numbers: ARIMA(0, 0, 1) of statsmodels *is* the two-level model."""
        found = variability(
            silent_chain(np.cumsum([0.0, *golden.SET_B_MS]) - 500.0 * np.arange(33), 500.0), np.ones(33, bool)
        )
        assert not isinstance(found, Missing)
        for size, ends, values in (
            (found.clock_sd_ms, found.clock_ci95_ms, (golden.SET_B_ML_CLOCK_MS, golden.SET_B_MOMENT_CLOCK_MS)),
            (found.motor_sd_ms, found.motor_ci95_ms, (golden.SET_B_ML_HAND_MS, golden.SET_B_MOMENT_HAND_MS)),
        ):
            for value in values:  # the priors draw 32 intervals by a ms or so
                assert_allclose(size, value, rtol=0, atol=1.5)
                self.assertTrue(ends[0] < value < ends[1])

    def test_arima_of_statsmodels_on_many_intervals(self) -> None:
        rng = np.random.default_rng(8)
        n, clock_ms, hand_ms = 1200, 9.0, 7.0
        ticks = np.concatenate([[0.0], np.cumsum(rng.normal(0, clock_ms, n))])
        taps = ticks + rng.normal(0, hand_ms, n + 1)
        found = variability(silent_chain(taps, 500.0), np.ones(n + 1, bool))
        assert not isinstance(found, Missing)
        fitted = ARIMA(np.diff(taps), order=(0, 0, 1), trend="c").fit()
        theta, sigma2 = fitted.params[1], fitted.params[2]
        assert_allclose(found.motor_sd_ms, np.sqrt(-theta * sigma2), rtol=0.03, atol=0)
        assert_allclose(found.clock_sd_ms, np.sqrt((1 + theta) ** 2 * sigma2), rtol=0.03, atol=0)

    def test_an_interval_is_one_step_of_the_clock_and_the_hand_at_both_ends(self) -> None:
        """γ₀ = σ_c² + 2 σ_m² (Wing & Kristofferson 1973, from memory), whichever of the two is larger."""
        for clock, hand in ((3.0, 2.0), (0.8, 9.0)):
            found = taken(SimulatedPlayer(clock_percent=clock, hand_ms=hand), bpm=96, grid=2, cycles=32).variability
            assert found
            total = np.sqrt(found.clock_sd_ms**2 + 2 * found.motor_sd_ms**2)
            assert_allclose(found.interval_sd_ms, total, rtol=0, atol=0.003)

    def test_each_range_is_that_of_its_own_size(self) -> None:
        """The larger of the two is the better known one, by ratios of the ends."""
        for clock, hand, larger in ((3.0, 2.0, "clock"), (0.8, 9.0, "motor")):
            found = taken(SimulatedPlayer(clock_percent=clock, hand_ms=hand), bpm=96, grid=2, cycles=32).variability
            assert found
            assert found.clock_ci95_ms
            assert found.motor_ci95_ms
            wide = {"clock": np.divide(*found.clock_ci95_ms[::-1]), "motor": np.divide(*found.motor_ci95_ms[::-1])}
            self.assertLess(wide.pop(larger), 0.8 * min(wide.values()))

    def test_the_coefficient_is_of_the_interval(self) -> None:
        found = taken(SimulatedPlayer(clock_percent=2, hand_ms=8), bpm=96, grid=2, cycles=32).variability
        assert found
        self.assertAlmostEqual(found.cv_percent, 100 * found.interval_sd_ms / 312.5, delta=0.002)

    def test_silences_are_pieces_of_their_own_without_their_first_click(self) -> None:
        """Two silences of three steps, a step with the click between: the notes 1 to 3 and 5 to 7 are left."""
        whole = replace(
            silent_chain(np.arange(9.0), 500.0),
            silence=np.array([0, 0, 0, -1, 1, 1, 1, -1]),
            ends=np.array([0, 3, 4, 7]),
        )
        found = _apart(whole, np.ones(9, dtype=bool))
        self.assertEqual(found.error_ms[np.isfinite(found.error_ms)].tolist(), [1, 2, 3, 5, 6, 7])

    def test_few_notes_are_refused(self) -> None:
        few = variability(silent_chain(np.zeros(10), 500.0), np.ones(10, bool))
        self.assertEqual(few, Missing("variability", "few-silence-notes", 10, 24))


class CorrectionTests(TestCase):
    def test_alpha_and_its_range(self) -> None:
        inside, given = 0, 0
        for seed, alpha in enumerate((0.2, 0.35, 0.5, 0.65, 0.8) * 3):
            found = taken(SimulatedPlayer(alpha=alpha), seed=seed, silence=None, cycles=60, grid=1).correction
            if found:  # a take may not say: then none is given
                given += 1
                inside += found.ci95[0] <= alpha <= found.ci95[1]
                assert_allclose(found.alpha, alpha, rtol=0, atol=0.3)
        self.assertGreaterEqual(given, 12)
        self.assertGreaterEqual(inside, given - 2)

    def test_one_less_the_correlation_would_overestimate_it(self) -> None:
        """The likelihood takes the hand's noise into account, as ARMA(1, 1) of statsmodels does."""
        plan = planned(silence=None, cycles=250, grid=1, bpm=120)
        take = simulate(plan, SimulatedPlayer(alpha=0.3, clock_percent=2.0, hand_ms=6.0), seed=11)
        errors = 1000 * (take.onsets_s - plan.seconds(plan.notes.tick))
        found = analyse(plan, take.onsets_s).reading.correction
        assert found is not None
        centred = errors - errors.mean()
        naive = 1 - float(centred[1:] @ centred[:-1]) / float(centred @ centred)
        theirs = 1 - ARIMA(errors, order=(1, 0, 1), trend="c").fit().params[1]
        self.assertGreater(naive, 0.4)
        assert_allclose(found.alpha, 0.3, rtol=0, atol=0.1)
        assert_allclose(found.alpha, theirs, rtol=0, atol=0.1)

    def test_simulated_asynchronies_have_the_closed_forms(self) -> None:
        for alpha, (variance, covariance) in golden.CORRECTED.items():
            plan = planned(
                silence=None, cycles=2000, beats=8, on=[str(k + 1) for k in range(8)], grid=1, bpm=120, close=0
            )
            take = simulate(plan, SimulatedPlayer(alpha=alpha, clock_percent=2.0, hand_ms=6.0), seed=5)
            errors = 1000 * (take.onsets_s - plan.seconds(plan.notes.tick))[8:]
            errors -= errors.mean()
            assert_allclose(errors.var(), variance, rtol=0.05, atol=0)
            assert_allclose(np.mean(errors[1:] * errors[:-1]), covariance, rtol=0.1, atol=2.0)


class OneOverFTests(TestCase):
    def test_its_power_falls_as_one_over_f(self) -> None:
        rng = np.random.default_rng(6)
        power = np.mean([np.abs(np.fft.rfft(one_over_f(2048, rng))) ** 2 for _ in range(60)], axis=0)[4:700]
        slope = np.polyfit(np.log(np.arange(4, 700)), np.log(power), 1)[0]
        assert_allclose(slope, -1.0, rtol=0, atol=0.12)
