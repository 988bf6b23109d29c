"""Clock and hand apart: against closed forms, two libraries, a plain dense version, and the truth."""

from dataclasses import replace
from typing import Any
from unittest import TestCase

import numpy as np
import statsmodels.api as sm
from numpy.testing import assert_allclose

from giusto.arrays import FloatArray
from giusto.schedule.timeline import Timeline, timeline
from giusto.simulation.player import SimulatedPlayer, SimulatedTake, simulate
from giusto.timekeeper.solution import HEARD_LEAN_SD, LEAN_SD
from giusto.timekeeper.take import OPEN_BEATS, Chain, Sizes, chain
from giusto.timekeeper.track import smooth
from tests.drills import fixed, planned
from tests.giusto.takes import silent_chain
from tests.reference import golden


def one_silence(errors_ms: FloatArray, interval_ms: float) -> Chain:
    """Return a chain that is one silence from its first note to its last, started anywhere."""
    return replace(silent_chain(errors_ms, interval_ms), beat_ms=interval_ms * 1e5)


def drift(take: Chain, sizes: Sizes) -> tuple[float, float]:
    """Return drift and variance of the one silence."""
    track = smooth(take, take.ends[:1], take.ends[1:], sizes=sizes)
    return float(track.drift_ms[0]), float(track.drift_var[0])


def true_chain(plan, take: SimulatedTake) -> tuple[Timeline, Chain]:  # type: ignore[no-untyped-def]
    """Return the chain of a simulated take under its true labels."""
    line = timeline(plan)
    error_s = np.full(len(plan.notes), np.nan)
    real = take.asked >= 0
    error_s[take.asked[real]] = take.onsets_s[real] - line.time_s[line.of_note][take.asked[real]]
    slot = plan.notes.offset % plan.ticks_per_beat
    return line, chain(line, error_s, note_in_beat=slot, beat_s=plan.beat_s)


SIZES_A = Sizes(clock=golden.SET_A_CLOCK_MS / golden.SET_A_NOMINAL_MS, hand_ms=golden.SET_A_HAND_MS, alpha=0.0)


class GoldenTests(TestCase):
    """The drift of a silence is its slope times its length; Set A of tests/reference/golden.py."""

    def errors(self) -> FloatArray:
        return np.array(golden.SET_A_MS) - golden.SET_A_NOMINAL_MS * np.arange(17)

    def test_slope_is_that_of_gls(self) -> None:
        found, variance = drift(one_silence(self.errors(), 500.0), SIZES_A)
        assert_allclose(found / 16, golden.SET_A_SLOPE_MS, rtol=0, atol=1e-5)
        # What happened, not what to expect: the clock's own steps are known to have been taken.
        expected = 16**2 * golden.SET_A_SLOPE_SE_MS**2 - 16 * golden.SET_A_CLOCK_MS**2
        assert_allclose(variance, expected, rtol=1e-5, atol=0)

    def test_slope_with_missing_taps(self) -> None:
        errors = self.errors()
        errors[list(golden.SET_A_MISSING)] = np.nan
        found, _ = drift(one_silence(errors, 500.0), SIZES_A)
        assert_allclose(found / 16, golden.SET_A_MISSING_SLOPE_MS, rtol=0, atol=1e-5)

    def test_unobserved_components_of_statsmodels(self) -> None:
        """A local level with a fixed slope, smoothed by statsmodels' Kalman filter."""
        errors = self.errors()
        model = sm.tsa.UnobservedComponents(errors, "lldtrend")
        states = model.smooth([golden.SET_A_HAND_MS**2, golden.SET_A_CLOCK_MS**2]).smoothed_state
        found, _ = drift(one_silence(errors, 500.0), SIZES_A)
        # statsmodels starts its states from a variance of 1e6, not from none: hence the tolerance.
        assert_allclose(found, states[0, -1] - states[0, 0], rtol=0, atol=0.02)
        assert_allclose(found / 16, states[1, -1], rtol=0, atol=1e-3)

    def test_gls_of_statsmodels(self) -> None:
        k = np.arange(17)
        sigma = 100.0 * np.minimum.outer(k, k) + 36.0 * np.eye(17)
        fitted = sm.GLS(self.errors(), sm.add_constant(k), sigma=sigma).fit()
        found, _ = drift(one_silence(self.errors(), 500.0), SIZES_A)
        assert_allclose(found / 16, fitted.params[1], rtol=0, atol=1e-5)

    def test_closed_form_standard_errors(self) -> None:
        for (m, clock_ms, hand_ms), se in golden.SLOPE_SE.items():
            with self.subTest(m=m, clock_ms=clock_ms, hand_ms=hand_ms):
                sizes = Sizes(clock=clock_ms / 500, hand_ms=hand_ms, alpha=0.0)
                _, variance = drift(one_silence(np.zeros(m + 1), 500.0), sizes)
                assert_allclose(np.sqrt(variance + m * clock_ms**2) / m, se, rtol=0, atol=2e-5)


def dense(take: Chain, sizes: Sizes) -> dict[str, Any]:
    """The same model, slow and plain: the whole precision matrix, inverted."""
    n, ends = take.error_ms.size, take.ends
    leans = max(ends.size - 1, 0)
    precision = np.zeros((n + leans, n + leans))
    start_var = (OPEN_BEATS * take.beat_ms) ** 2
    precision[0, 0] = 1 / start_var
    shows = np.column_stack([np.where(take.caught, take.error_ms, 0.0), take.caught.astype(float)])
    slots = [(take.slot == slot) & take.caught for slot in range(1, 1 + int(take.slot.max()))]
    shows = np.column_stack([shows, *slots]).astype(float)  # what a note shows: its error; place and slots' share
    linear = np.zeros((n + leans, shows.shape[1]))
    square = sizes.hand_ms**-2 * shows.T @ shows
    log_prior = -np.log(start_var) - 2 * np.count_nonzero(take.caught) * np.log(sizes.hand_ms)
    for k in range(n - 1):
        shown = bool(take.on_click[k] and take.caught[k])
        keep = (1 - sizes.alpha) ** (take.clicks[k] - shown)
        taken = sizes.alpha * keep * shows[k] if shown else 0 * shows[k]
        row = np.zeros(n + leans)
        row[k + 1], row[k] = 1.0, -keep
        piece = np.searchsorted(ends, k, side="right") - 1
        if 0 <= piece < leans:
            row[n + piece] = -take.interval_ms[k]
        variance = (sizes.clock * take.interval_ms[k]) ** 2 + take.opened_ms[k] ** 2
        log_prior -= np.log(variance)
        precision += np.outer(row, row) / variance
        linear -= np.outer(row, taken) / variance
        square += np.outer(taken, taken) / variance
    lean_sd = np.where(take.silence[ends[:-1]] >= 0, LEAN_SD, HEARD_LEAN_SD)
    precision[range(n, n + leans), range(n, n + leans)] += lean_sd**-2
    caught = np.flatnonzero(take.caught)
    precision[caught, caught] += sizes.hand_ms**-2
    linear[:n] += sizes.hand_ms**-2 * shows
    joint = np.linalg.inv(precision)
    means = joint @ linear
    information = square - linear.T @ means
    beta = np.linalg.solve(information[1:, 1:], information[1:, 0])
    shared = means[:n, 1:]
    log_prior -= 2 * np.log(lean_sd).sum()
    spread = np.linalg.slogdet(precision)[1] + np.linalg.slogdet(information[1:, 1:])[1]
    return {
        "log_likelihood": 0.5 * (log_prior - spread - information[0, 0] + information[0, 1:] @ beta),
        "effects": beta,
        "clock": means[:n, 0] - shared @ beta,
        "cov": joint[:n, :n] + shared @ np.linalg.inv(information[1:, 1:]) @ shared.T,
    }


class DenseTests(TestCase):
    def test_same_as_the_plain_version(self) -> None:
        cases = (
            dict(silence=fixed(1, 2), cycles=7, grid=2),
            dict(silence=None, on=["2", "4"], cycles=5, grid=2),
            dict(silence=None, cycles=4, grid=4),
            dict(silence=None, on=["1"], cycles=5, grid=1, count_in=0, close=0),
            dict(silence=fixed(2, 1), cycles=6, grid=3, play=["1", "2+1/3", "4+2/3"]),
        )
        sizes = Sizes(clock=0.02, hand_ms=7.0, alpha=0.4)
        for seed, changes in enumerate(cases):
            with self.subTest(**changes):
                plan = planned(**changes)
                line, take = true_chain(plan, simulate(plan, SimulatedPlayer(missed=0.06), seed=seed))
                track, plain = smooth(take, line.start, line.end, sizes=sizes), dense(take, sizes)
                assert_allclose(track.clock_ms, plain["clock"], rtol=0, atol=1e-4)
                assert_allclose(track.clock_var, np.diag(plain["cov"]), rtol=1e-4, atol=1e-4)
                assert_allclose(track.place_ms, plain["effects"][0], rtol=0, atol=1e-4)
                assert_allclose(track.slot_ms[1:], plain["effects"][1:], rtol=0, atol=1e-4)
                cov = plain["cov"]
                for i, (a, b) in enumerate(zip(line.start, line.end, strict=True)):
                    assert_allclose(track.drift_var[i], cov[a, a] + cov[b, b] - 2 * cov[a, b], rtol=1e-4)


def oracle_drift_ms(take: Chain, a: int, b: int, clock: float, hand_ms: float) -> float:
    """Drift by GLS on the notes of one silence, by one who knows the noise sizes."""
    caught = a + np.flatnonzero(take.caught[a : b + 1])
    walked = np.concatenate([[0.0], np.cumsum((clock * take.interval_ms) ** 2)])[caught]
    covariance = np.minimum.outer(walked, walked) - walked[0] + hand_ms**2 * np.eye(caught.size)
    time_ms = np.concatenate([[0.0], np.cumsum(take.interval_ms)])
    design = np.column_stack([np.ones(caught.size), time_ms[caught]])
    weighted = np.linalg.solve(covariance, design)
    slope = np.linalg.solve(design.T @ weighted, weighted.T @ take.error_ms[caught])[1]
    return float(slope * (time_ms[b] - time_ms[a]))


class RecoveryTests(TestCase):
    """Simulated players over 40–200 bpm and silences of 1–8 cycles: the truth is recovered."""

    plans = (
        dict(bpm=40, grid=1, silence=fixed(2, 4), cycles=18),
        dict(bpm=60, grid=2, silence=fixed(2, 1), cycles=12),
        dict(bpm=96, grid=2, silence=fixed(2, 2), cycles=16),
        dict(bpm=96, grid=1, silence=fixed(2, 8), cycles=30),
        dict(bpm=120, grid=4, silence=fixed(2, 1), cycles=12),
        dict(bpm=160, grid=2, silence=fixed(1, 3), cycles=16),
        dict(bpm=200, grid=2, silence=fixed(2, 2), cycles=16),
    )
    takes = 16

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        ours, oracle, inside, back = [], [], [], []
        for index, changes in enumerate(cls.plans):
            plan = planned(**changes)
            for seed in range(cls.takes):
                rng = np.random.default_rng([index, seed])
                player = SimulatedPlayer(
                    bias_percent=rng.uniform(-5, 5),
                    clock_percent=rng.uniform(0.8, 3.0),
                    hand_ms=rng.uniform(4, 15),
                    alpha=rng.uniform(0.2, 0.8),
                )
                take = simulate(plan, player, seed=1000 * index + seed)
                line, parts = true_chain(plan, take)
                track = smooth(parts, line.start, line.end)
                truth_ms = 1000 * take.drift_s
                ours.append((track.drift_ms - truth_ms) / player.hand_ms)
                known = (player.clock_percent / 100, player.hand_ms)
                gls = [oracle_drift_ms(parts, a, b, *known) for a, b in zip(line.start, line.end, strict=True)]
                oracle.append((np.array(gls) - truth_ms) / player.hand_ms)
                inside.append(np.abs(track.drift_ms - truth_ms) < 1.96 * np.sqrt(track.drift_var))
                off = np.abs(track.clock_ms[line.end] - 1000 * take.return_s)
                back.append(off < 1.96 * np.sqrt(track.clock_var[line.end]))
        cls.ratio = np.sqrt(np.mean(np.concatenate(ours) ** 2) / np.mean(np.concatenate(oracle) ** 2))
        cls.drift_cover = np.mean(np.concatenate(inside))
        cls.return_cover = np.mean(np.concatenate(back))

    def test_drift_is_as_good_as_with_known_sizes(self) -> None:
        self.assertLessEqual(self.ratio, 1.05)

    def test_ranges_hold_the_truth_as_often_as_they_say(self) -> None:
        # 448 silences: the standard error of a share of .95 is .0103, and takes are correlated.
        self.assertTrue(0.92 <= self.drift_cover <= 0.98, self.drift_cover)
        self.assertTrue(0.92 <= self.return_cover <= 0.98, self.return_cover)

    def test_sizes_are_recovered_from_a_long_take(self) -> None:
        plan = planned(bpm=110, grid=2, silence=fixed(2, 2), cycles=600)
        player = SimulatedPlayer(clock_percent=2.0, hand_ms=8.0, alpha=0.5, bias_percent=1.0)
        line, take = true_chain(plan, simulate(plan, player, seed=5))
        sizes = smooth(take, line.start, line.end).sizes
        assert_allclose(sizes.clock, 0.02, rtol=0.12, atol=0)
        assert_allclose(sizes.hand_ms, 8.0, rtol=0.08, atol=0)
        assert_allclose(sizes.alpha, 0.5, rtol=0, atol=0.1)
