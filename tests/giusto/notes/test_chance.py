"""Notes at random beside a drill, and beginners; how many pairs it takes to say so."""

from unittest import TestCase

import numpy as np

from giusto.notes.chance import FEWEST_MATCHED, is_by_chance
from giusto.notes.match import Matching, match
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned


class ChanceTests(TestCase):
    def test_random_hits_are_chance_and_beginners_are_not(self) -> None:
        for grid, bpm in ((1, 72), (2, 160), (3, 120), (4, 96)):
            plan = planned(grid=grid, bpm=bpm, cycles=8)
            rng = np.random.default_rng(grid)
            end_s = float(plan.seconds(plan.end_tick))
            told = 0
            for seed in range(10):
                onsets = np.sort(rng.uniform(0.5, end_s, rng.integers(len(plan.notes) // 2, len(plan.notes) * 3 // 2)))
                told += is_by_chance(plan, onsets, match(plan, onsets))
                beginner = simulate(
                    plan, SimulatedPlayer(clock_percent=4, hand_ms=20, missed=0.05, extra=0.03), seed=seed
                )
                found = match(plan, beginner.onsets_s)
                self.assertFalse(is_by_chance(plan, beginner.onsets_s, found), (grid, seed))
            self.assertGreaterEqual(told, 8)

    def test_few_pairs_look_like_anything(self) -> None:
        """Each second slot left out, each pair a fifth of a slot beside the one before: told from eight pairs on."""
        plan = planned(grid=2, bpm=60, cycles=8)
        asked_s = plan.seconds(plan.notes.tick)
        for pairs, is_told in ((FEWEST_MATCHED - 1, False), (FEWEST_MATCHED, True)):
            asked = 2 * np.arange(pairs)
            off_s = 0.05 * (-1.0) ** np.arange(pairs)
            between_s = asked_s[asked[:-1]] + 0.25  # as many that belong to nothing
            onsets_s = np.sort(np.concatenate([asked_s[asked] + off_s, between_s, between_s + 0.1]))
            played = np.searchsorted(onsets_s, asked_s[asked] + off_s)
            missed = np.setdiff1d(np.arange(int(asked[-1]) + 1), asked)
            extra = np.setdiff1d(np.arange(onsets_s.size), played)
            found = Matching(asked=asked, played=played, missed=missed, extra=extra)
            with self.subTest(pairs):
                self.assertEqual(is_by_chance(plan, onsets_s, found), is_told)

    def test_one_who_is_late_all_through_jumps_nowhere(self) -> None:
        """Every second note left out and as many added, but those that are there a steady 80 ms late: no chance."""
        plan = planned(grid=2, bpm=60, cycles=8)
        onsets_s = plan.seconds(plan.notes.tick)[::2] + 0.08
        asked = np.arange(0, len(plan.notes), 2)
        with_more = np.sort(np.concatenate([onsets_s, onsets_s + 0.21, onsets_s + 0.3]))
        played = np.searchsorted(with_more, onsets_s)
        rest = np.setdiff1d(np.arange(with_more.size), played)
        found = Matching(asked=asked, played=played, missed=asked + 1, extra=rest)
        self.assertFalse(is_by_chance(plan, with_more, found))
