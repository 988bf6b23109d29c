"""The chance that a silence was held: against draws of the same player, one silence at a time and all of a take."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.returns.drift import AHEAD, HELD_SHARE, START, Returns, drift_as, drift_of
from giusto.returns.held import held_chances
from tests.giusto.returns import Bridging


def take_of(returns: Returns, take: int) -> Returns:
    """Return the returns of one take."""
    own = returns.take == take
    return Returns(
        np.zeros(np.count_nonzero(own), dtype=np.int64),
        returns.beats[own],
        returns.return_beats[own],
        returns.sd_beats[own],
        np.ones(1),
    )


class HeldTests(TestCase):
    def test_one_silence_by_draws_of_its_true_return(self) -> None:
        """Returns drawn and read; those read near .04 of a beat: how many were truly held."""
        rng = np.random.default_rng(1)
        walk, sd, beats = 0.014, 0.02, 6.0
        true = np.sqrt(START**2 + walk**2 * (AHEAD + beats)) * rng.normal(size=400_000)
        read = true + sd * rng.normal(size=true.size)
        near = np.abs(read - 0.04) < 0.001
        drawn = float(np.mean(np.abs(true[near]) <= HELD_SHARE))
        drift = drift_as(walk=walk, walk_log_sd=1e-9, lean=0.0, lean_sd=1e-9, apart=0.0)
        one = Returns(np.zeros(1, dtype=np.int64), np.array([beats]), np.array([0.04]), np.array([sd]), np.ones(1))
        found = held_chances(drift, one)
        self.assertAlmostEqual(float(found.each[0]), drawn, delta=0.015)
        self.assertAlmostEqual(found.all, drawn, delta=0.015)

    def test_chances_of_simulated_players_come_true_in_ten_bins(self) -> None:
        rng = np.random.default_rng(2)
        said, held = [], []
        for player in range(80):
            walk, lean = 0.014 * np.exp(0.5 * rng.normal()), 0.006 * rng.normal()
            sd = rng.choice([0.01, 0.02, 0.035])
            true, rows = [], []
            for take in range(5):
                for beats in rng.choice([2.0, 4.0, 8.0, 12.0], 4):
                    was = lean * beats + rng.normal() * np.sqrt(START**2 + walk**2 * (AHEAD + beats))
                    true.append(was)
                    rows.append((take, beats, was + sd * rng.normal()))
            returns = Bridging(sd=sd).of(rows)
            last = take_of(returns, 4)
            said += held_chances(drift_of(returns), last).each.tolist()
            held += (np.abs(true[-4:]) <= HELD_SHARE).tolist()
            with self.subTest(player):
                self.assertTrue(all(0 <= one <= 1 for one in said[-4:]))
        said, held = np.array(said), np.array(held)
        bins = np.minimum((said * 10).astype(int), 9)
        for which in np.unique(bins):
            of = bins == which
            spread = np.sqrt(0.25 / np.count_nonzero(of))
            self.assertAlmostEqual(float(said[of].mean()), float(held[of].mean()), delta=0.03 + 3 * spread)
        self.assertAlmostEqual(float(said.mean()), float(held.mean()), delta=0.05)

    def test_all_is_no_more_than_the_least_and_no_less_than_as_if_apart(self) -> None:
        take = take_of(Bridging(lean=0.006).returns(6, seed=3), 2)
        found = held_chances(drift_of(take), take)
        self.assertLessEqual(found.all, found.each.min() + 1e-9)
        self.assertGreaterEqual(found.all, found.each.prod() - 1e-9)  # their lean is one: they hang together

    def test_a_lapse_was_not_held_and_no_silences_are_all_held(self) -> None:
        take = take_of(Bridging().returns(2, seed=4), 1)
        lost = replace(take, return_beats=np.array([0.0, 0.3, 0.0, 0.0]))
        self.assertEqual((held_chances(drift_of(lost), lost).each[1], held_chances(drift_of(lost), lost).all), (0, 0))
        self.assertAlmostEqual(held_chances(drift_of(take), take_of(take, 9)).all, 1.0)
