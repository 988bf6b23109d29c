"""Each hand by itself: what simulated hands did comes back, with ranges that hold."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.figures.hands import FEWEST, Hand, Struck, hands
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

PLAN = planned(cycles=16)
CLOCK = SimulatedPlayer(hand_ms=0.001, clock_percent=0.8, bias_percent=-0.5)


def played(
    seed: int, *, takes_turns: bool, lean_ms: float = 6.0, sds_ms: tuple[float, float] = (4.0, 8.0)
) -> list[Hand]:
    """Return the hands of a take: the left one later and looser, in turns with the right one or now and then."""
    rng = np.random.default_rng(1000 + seed)
    onsets_s = simulate(PLAN, CLOCK, seed=seed).onsets_s
    left = np.arange(onsets_s.size) % 2 == 1 if takes_turns else rng.random(onsets_s.size) < 0.4
    off_ms = np.where(left, sds_ms[1], sds_ms[0]) * rng.standard_normal(onsets_s.size) + np.where(left, lean_ms, 0.0)
    notes = notes_of(np.maximum(onsets_s + off_ms / 1000, 0), source=np.where(left, "f", "j"))
    return analyse(PLAN, notes).reading.hands or []


def struck(
    *,
    notes: int = 240,
    scale: float = 1.0,
    seed: int = 2,
    clock: float = 0.0,
    steps_ms: tuple[float, float] = (300.0, 300.0),
) -> Struck:
    """Return notes of two hands in no order, the left one 6 ms later and twice as loose as the right one's 4 ms."""
    rng = np.random.default_rng(seed)
    steps = np.resize(np.array(steps_ms), notes - 1)
    way_ms = np.concatenate([[0.0], np.cumsum(steps * clock * rng.standard_normal(notes - 1))])
    left = rng.random(notes) < 0.5
    error_ms = scale * (np.where(left, 8.0, 4.0) * rng.standard_normal(notes) + 6.0 * left) + way_ms
    time_ms = np.concatenate([[0.0], np.cumsum(steps)])
    return Struck(np.where(left, "f", "j"), error_ms, error_ms, time_ms, np.ones(notes, dtype=bool), clock)


class HandsTests(TestCase):
    def test_what_two_hands_did_comes_back(self) -> None:
        """Means of thirty takes each; ranges hold, two standard errors of a share of .95 allowed."""
        for takes_turns in (True, False):
            found = [{hand.name: hand for hand in played(seed, takes_turns=takes_turns)} for seed in range(30)]
            order = [hand.name for hand in played(0, takes_turns=takes_turns)]
            self.assertEqual(order, ["f", "j"] if takes_turns else ["j", "f"])  # the one of most notes first
            left, right = [one["f"] for one in found], [one["j"] for one in found]
            self.assertAlmostEqual(float(np.mean([one.spread_ms for one in left])), 8.0, delta=0.6)
            self.assertAlmostEqual(float(np.mean([one.spread_ms for one in right])), 4.0, delta=0.6)
            self.assertAlmostEqual(float(np.mean([one.lean_ms for one in left])), 6.0, delta=0.8)
            self.assertEqual([one.lean_ms for one in left], [-one.lean_ms for one in right])
            held = [one.spread_ci95_ms[0] <= 8 <= one.spread_ci95_ms[1] for one in left]
            held += [one.spread_ci95_ms[0] <= 4 <= one.spread_ci95_ms[1] for one in right]
            held += [one.ci95_ms[0] <= 6 <= one.ci95_ms[1] for one in left]
            self.assertGreater(float(np.mean(held)), 0.95 - 2 * np.sqrt(0.95 * 0.05 / len(held)) - 0.02)

    def test_a_lean_is_known_by_how_far_its_blocks_lie_apart_and_not_by_its_size(self) -> None:
        near, far = (hands(replace(struck(), error_ms=struck().error_ms + more)) for more in self.leaning())
        assert near
        assert far
        self.assertGreater(abs(far[0].lean_ms - near[0].lean_ms), 30)
        np.testing.assert_allclose(np.ptp(far[0].ci95_ms), np.ptp(near[0].ci95_ms), rtol=1e-3)

    def leaning(self) -> tuple[np.ndarray, np.ndarray]:
        """Return nothing more, and 40 ms more of the one hand."""
        return np.zeros(240), 40.0 * (struck().made_by == "f")

    def test_hands_that_never_meet_are_not_set_against_each_other(self) -> None:
        """One after the other with a rest between, no step leads from hand to hand; without it one step alone does."""
        rng = np.random.default_rng(4)
        by = np.repeat(["j", "f"], 120)
        error_ms = rng.normal(0, 5, 240)
        time_ms = 300.0 * np.arange(240)
        follows = np.ones(240, dtype=bool)
        self.assertIsNone(hands(Struck(by, error_ms, error_ms, time_ms, follows, 0.0)))
        follows[120] = False
        self.assertIsNone(hands(Struck(by, error_ms, error_ms, time_ms, follows, 0.0)))
        turns = np.resize(["j", "f"], 240)
        self.assertIsNotNone(hands(Struck(turns, error_ms, error_ms, time_ms, follows, 0.0)))

    def test_even_hands_are_told_even(self) -> None:
        apart = [played(seed, takes_turns=False, lean_ms=0.0, sds_ms=(5.0, 5.0))[0].ci95_ms for seed in range(30)]
        self.assertGreater(np.mean([low <= 0 <= high for low, high in apart]), 0.85)

    def test_a_long_take_agrees_with_the_standard_deviations_of_its_hands(self) -> None:
        """Without a clock's noise a hand's spread is its sample's own standard deviation (numpy)."""
        rng, plan = np.random.default_rng(8), planned(cycles=64, silence=None)
        asked_s = plan.seconds(plan.notes.tick)
        left = rng.random(asked_s.size) < 0.5
        off_ms = np.where(left, 9.0, 3.0) * rng.standard_normal(asked_s.size)
        notes = notes_of(asked_s + off_ms / 1000, source=np.where(left, "f", "j"))
        for hand in analyse(plan, notes).reading.hands or []:
            here = left if hand.name == "f" else ~left
            self.assertAlmostEqual(hand.spread_ms / float(np.std(off_ms[here])), 1.0, delta=0.15)

    def test_figures_go_with_the_errors_and_ranges_lie_about_them(self) -> None:
        """Twice the errors are twice the lean, the spread and the range; a range lies evenly about its lean."""
        once, twice = (hands(struck(scale=scale)) for scale in (1.0, 2.0))
        for one, other in zip(once or [], twice or [], strict=True):
            low, high = one.ci95_ms
            self.assertAlmostEqual((low + high) / 2, one.lean_ms, delta=0.01)
            self.assertLess(low, one.lean_ms)
            self.assertAlmostEqual(other.lean_ms / one.lean_ms, 2.0, delta=0.01)
            self.assertAlmostEqual(other.spread_ms / one.spread_ms, 2.0, delta=0.01)
            self.assertAlmostEqual((other.ci95_ms[1] - other.ci95_ms[0]) / (high - low), 2.0, delta=0.01)
            low, high = one.spread_ci95_ms
            self.assertAlmostEqual(low * high, one.spread_ms**2, delta=0.02 * one.spread_ms**2)

    def test_notes_of_nobody_count_for_nobody(self) -> None:
        """Every twentieth note, half a second off, was made by what nobody knows."""
        rng = np.random.default_rng(5)
        unknown = rng.random(600) < 0.05
        take = struck(notes=600)
        made_by = np.where(unknown, "", take.made_by)
        wild = replace(
            take, made_by=made_by, error_ms=take.error_ms + 500.0 * unknown, own_ms=take.own_ms + 500.0 * unknown
        )
        found = hands(wild)
        assert found
        self.assertEqual(sum(hand.n for hand in found), int(np.count_nonzero(~unknown)))
        of_all = {hand.name: hand for hand in hands(take) or []}
        for hand in found:
            other = of_all[hand.name]
            self.assertAlmostEqual(hand.lean_ms, other.lean_ms, delta=1.5)
            self.assertAlmostEqual(hand.spread_ms / other.spread_ms, 1.0, delta=0.2)

    def test_the_clock_is_no_hand_whatever_the_notes_lengths(self) -> None:
        """Long and short notes in turn, a clock of 2 % of each: means of twenty takes."""
        spreads = {"f": [], "j": []}  # type: dict[str, list[float]]
        for seed in range(20):
            for hand in hands(struck(seed=seed, clock=0.02, steps_ms=(600.0, 200.0))) or []:
                spreads[hand.name].append(hand.spread_ms)
        self.assertAlmostEqual(float(np.mean(spreads["f"])), 8.0, delta=0.7)
        self.assertAlmostEqual(float(np.mean(spreads["j"])), 4.0, delta=0.7)

    def test_one_hand_few_notes_and_a_melody_are_no_hands(self) -> None:
        onsets_s = simulate(PLAN, SimulatedPlayer(), seed=3).onsets_s
        few = np.where(np.arange(onsets_s.size) < FEWEST - 1, "f", "j")
        pitches = np.array([f"note:{60 + k % 7}" for k in range(onsets_s.size)])
        for source in (np.full(onsets_s.size, "j"), np.full(onsets_s.size, ""), few, pitches):
            self.assertIsNone(analyse(PLAN, notes_of(onsets_s, source=source)).reading.hands)
        self.assertIsNone(analyse(PLAN, onsets_s).reading.hands)
