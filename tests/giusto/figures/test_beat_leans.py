"""Note and click together, fatigue, and places of the cycle."""

from unittest import TestCase

import numpy as np
from scipy.stats import norm

from giusto.figures.beat_leans import SPREAD_MS, beat_leans, beat_leans_over_takes
from giusto.figures.fatigue import fatigue
from giusto.figures.note_and_click import together
from giusto.missing import Missing
from giusto.pooling import pool
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import fixed, planned
from tests.giusto.takes import taken


class TogetherFatiguePlacesTests(TestCase):
    def test_together_by_hand(self) -> None:
        found = together(np.array([1.0, np.nan, 3.0, -19.0, 25.0]), np.arange(5.0))
        assert not isinstance(found, Missing)
        self.assertEqual((found.n, found.unordered_percent, found.longest, found.longest_s), (4, 75.0, 2, 1.0))
        self.assertEqual(together(np.array([1.0]), np.zeros(1)), Missing("together", "few-with-click", 1, 4))

    def test_a_take_that_widens(self) -> None:
        rng = np.random.default_rng(2)
        time_s = np.arange(0, 300, 0.5)
        error = rng.normal(0, np.linspace(5, 15, time_s.size))
        none = dict(middle_s=np.empty(0), tempo_percent=np.empty(0), tempo_var=np.empty(0))
        found = fatigue(error, time_s, **none)
        assert not isinstance(found, Missing)
        self.assertGreater(found.spread_ratio_ci95[0], 1.3)
        self.assertIsNone(found.tempo_change_percent)
        self.assertEqual(fatigue(error[:100], time_s[:100], **none), Missing("fatigue", "short-take", 49.5, 120.0))

    def test_spread_ratio_range_covers_one_for_players_who_do_not_tire(self) -> None:
        inside = []
        for seed in range(40):
            found = taken(SimulatedPlayer(), seed=seed, cycles=64).fatigue
            assert found is not None
            inside.append(found.spread_ratio_ci95[0] <= 1 <= found.spread_ratio_ci95[1])
        self.assertGreaterEqual(np.mean(inside), 0.85)  # 40 takes: se .035

    def test_cycles_may_be_counted_from_before_the_drill(self) -> None:
        """Notes of a pickup stand in cycle −1: which number a cycle has is no matter."""
        rng = np.random.default_rng(9)
        cycle, beat = np.divmod(np.arange(61), 4)
        error_ms = rng.normal(0, 8, 61)
        first = beat_leans(beat, cycle, error_ms, beats=4)
        self.assertNotIsInstance(first, Missing)
        for shift in (-3, -1, 2):
            self.assertEqual(beat_leans(beat, cycle + shift, error_ms, beats=4), first)

    def test_a_place_that_rushes_every_time(self) -> None:
        plan = planned(beats=7, groups=[3, 2, 2], silence=fixed(2, 4), cycles=36, grid=1)
        take = simulate(plan, SimulatedPlayer(), seed=6)
        onsets = take.onsets_s.copy()
        beat = plan.notes.offset // plan.ticks_per_beat
        onsets[np.isin(beat, (4, 5, 6))] -= 0.030  # the fifth beat comes early, and those after it
        found = analyse(plan, onsets).reading.places or []
        self.assertEqual([place.beat for place in found if place.leans], [4, 7])
        self.assertLess(found[3].gain_ms, 0)
        alone = beat_leans(np.zeros(3, int), np.arange(3), np.zeros(3), beats=1)
        self.assertEqual(alone, Missing("places", "one-beat"))

    def test_places_take_four_whole_cycles(self) -> None:
        """Each a bar of four beats and the first beat after it: sixteen notes and one are four, sixteen are three."""
        rng = np.random.default_rng(1)
        for notes, is_told in ((16, False), (17, True)):
            index = np.arange(notes)
            found = beat_leans(index % 4, index // 4, rng.normal(0, 5, notes), beats=4)
            with self.subTest(notes):
                self.assertEqual(not isinstance(found, Missing), is_told)
                if isinstance(found, Missing):
                    self.assertEqual((found.code, found.have, found.need), ("few-cycles", 3, 4))

    def test_places_by_chance_are_rare(self) -> None:
        any_leans = [
            any(p.leans for p in taken(SimulatedPlayer(), seed=seed, cycles=24).places or []) for seed in range(40)
        ]
        self.assertLessEqual(sum(any_leans), 6)  # 5 % each, and a binomial's luck

    def test_the_range_over_takes_is_widened_for_each_beat(self) -> None:
        """Of a sure lean in each take: the pool's range, times the quantile of .05 / 2 / beats over 1.96 (scipy)."""
        gains = np.array([[-12.0, 3.0, 0.0, 9.0]] * 3) + np.array([[0.2], [-0.1], [0.0]])
        wider = norm.ppf(1 - 0.05 / (2 * 4))
        for k, place in enumerate(beat_leans_over_takes(gains, np.full((3, 4), 0.01))):
            own = pool(gains[:, k], np.full(3, (0.01 / wider) ** 2), scale=SPREAD_MS)
            half = (own.ci95[1] - own.ci95[0]) / 2 * wider / norm.ppf(0.975)
            self.assertAlmostEqual((place.ci95_ms[1] - place.ci95_ms[0]) / 2, half, delta=0.01)
            self.assertEqual((place.beat, place.takes), (k + 1, 3))

    def test_a_place_leans_only_where_its_whole_range_does(self) -> None:
        """Alike takes of 8 ms, by halves of which the range over them ends a little above or below nothing."""
        for half in np.arange(5.0, 30.0, 0.5).tolist():
            for gain in (8.0, -8.0):
                for one in beat_leans_over_takes(np.full((6, 4), gain), np.full((6, 4), half)):
                    self.assertIs(one.leans, not one.ci95_ms[0] <= 0 <= one.ci95_ms[1], one)

    def test_places_over_takes(self) -> None:
        rng = np.random.default_rng(1)
        gains = rng.normal([0, 0, -12, 12], 3.0, (6, 4))
        found = beat_leans_over_takes(gains, np.full((6, 4), 7.5))
        self.assertEqual([place.leans for place in found], [False, False, True, True])
        for place, mean in zip(found, gains.mean(axis=0), strict=True):
            self.assertAlmostEqual(sum(place.ci95_ms) / 2, place.gain_ms, delta=0.5)
            self.assertAlmostEqual(place.gain_ms, mean, delta=0.5)  # all are as sure, so that it is their mean
            self.assertGreater((place.ci95_ms[1] - place.ci95_ms[0]) / 2, 7.5 / 6**0.5 * 0.95)
