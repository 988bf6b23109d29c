"""Which played note is which asked note."""

from itertools import product
from unittest import TestCase

import mir_eval
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import linear_sum_assignment

from giusto.arrays import FloatArray
from giusto.notes.match import match, unpaired
from giusto.schedule import Schedule
from giusto.simulation.player import SimulatedPlayer, SimulatedTake, simulate
from tests.drills import fixed, planned
from tests.reference import golden


def asked_times(plan: Schedule) -> FloatArray:
    """Return when the notes are asked."""
    return plan.seconds(plan.notes.tick)


def mislabelled(plan: Schedule, take: SimulatedTake) -> int:
    """Return how many notes got another label than the truth."""
    labels = np.full(take.onsets_s.size, -1)
    found = match(plan, take.onsets_s)
    labels[found.played] = found.asked
    return int(np.count_nonzero(labels != take.asked))


class UnpairedTests(TestCase):
    def test_shares_between_the_first_and_the_last_pair_by_hand(self) -> None:
        """Of asked 2 to 6 three are paired, of played 1 to 4 three: 2/5 and 1/4 are left; all of them leave none."""
        self.assertAlmostEqual(unpaired(np.array([2, 4, 6]), np.array([1, 2, 4])), 2 / 5 + 1 / 4)
        self.assertAlmostEqual(unpaired(np.array([2, 3, 4]), np.array([1, 2, 3])), 0.0)


class HandWorkedTests(TestCase):
    def test_all_notes_on_their_places(self) -> None:
        plan = planned()
        found = match(plan, asked_times(plan))
        self.assertEqual(found.asked.tolist(), list(range(136)))
        self.assertEqual((found.missed.size, found.extra.size), (0, 0))

    def test_one_missed_and_one_extra(self) -> None:
        plan = planned()
        onsets = np.sort(np.append(np.delete(asked_times(plan), 40), 20.2))
        found = match(plan, onsets)
        self.assertEqual(found.missed.tolist(), [40])
        self.assertEqual(onsets[found.extra].tolist(), [20.2])

    def test_drift_of_more_than_half_a_slot_keeps_its_labels(self) -> None:
        # Sixteenths, and 0.45 beat late at the return: nearly two slots. Nearest notes would be wrong.
        plan = planned(grid=4, silence=fixed(2, 2))
        onsets = asked_times(plan).copy()
        silence = plan.silences[0]
        inside = (plan.notes.tick >= silence.start_tick) & (plan.notes.tick <= silence.end_tick)
        onsets[inside] += np.linspace(0, 0.45 * 0.625, np.count_nonzero(inside))
        after = np.flatnonzero(plan.notes.tick > silence.end_tick)[:8]
        onsets[after] += 0.45 * 0.625 * 0.55 ** (np.arange(1, 9) / 2)
        self.assertTrue(np.all(np.diff(onsets) > 0))
        self.assertEqual(match(plan, onsets).asked.tolist(), list(range(len(plan.notes))))

    def test_nothing_played(self) -> None:
        found = match(planned(), np.empty(0))
        self.assertEqual((found.asked.size, found.missed.size, found.extra.size), (0, 136, 0))

    def test_long_delay_of_a_device(self) -> None:
        plan = planned(grid=4, bpm=120)
        self.assertEqual(match(plan, asked_times(plan) + 0.09).asked.tolist(), list(range(len(plan.notes))))

    def test_stops_in_the_middle(self) -> None:
        plan = planned()
        found = match(plan, asked_times(plan)[:50])
        self.assertEqual(found.asked.tolist(), list(range(50)))


class SimulatedTests(TestCase):
    """The bars: at most 0.2 % of notes mislabelled, 0.4 % with missed and extra notes."""

    plans = (
        dict(bpm=96, grid=2),
        dict(bpm=60, grid=4),
        dict(bpm=40, grid=2, silence=fixed(2, 1)),
        dict(bpm=160, grid=2, silence=fixed(1, 3)),
        dict(bpm=96, grid=1, silence=fixed(2, 8), cycles=20),
    )

    def share(self, missed: float, extra: float) -> float:
        wrong = total = 0
        for index, changes in enumerate(self.plans):
            plan = planned(**changes)
            beats = (plan.silences[0].end_tick - plan.silences[0].start_tick) / plan.ticks_per_beat
            for seed in range(48):
                reach = (-0.45, -0.25, -0.1, 0.0, 0.05, 0.2, 0.3, 0.45)[seed % 8]
                player = SimulatedPlayer(bias_percent=100 * (1 / (1 + reach / beats) - 1), missed=missed, extra=extra)
                take = simulate(plan, player, seed=100 * index + seed)
                if np.max(np.abs(take.return_s)) > plan.beat_s / 2:
                    continue  # the player takes the click for another beat: see SlipTests
                wrong += mislabelled(plan, take)
                total += take.onsets_s.size
        return wrong / total

    def test_drift_up_to_nearly_half_a_beat(self) -> None:
        self.assertLessEqual(self.share(0, 0), 0.002)

    def test_missed_and_extra_notes(self) -> None:
        self.assertLessEqual(self.share(0.03, 0.03), 0.004)


class SlipTests(TestCase):
    """Whole beats lost or gained in a long silence: labels, and the count after the return."""

    def test_more_than_half_a_beat_off_at_the_return(self) -> None:
        wrong = total = 0
        for grid, silent, beats_off in product((1, 2, 4), (8, 16), (-2.0, -1.3, -0.7, 0.7, 1.3, 2.0)):
            plan = planned(grid=grid, silence=fixed(2, silent), cycles=3 * (2 + silent))
            bias = 100 * (1 / (1 + beats_off / (silent * 4 + 1)) - 1)
            take = simulate(plan, SimulatedPlayer(bias_percent=bias), seed=grid)
            wrong += mislabelled(plan, take)
            total += take.onsets_s.size
        self.assertLessEqual(wrong / total, 0.01)

    def test_a_lost_beat_by_hand(self) -> None:
        """Quarters at 96 whose silence of 33 beats is played in the time of 34: one beat is left out."""
        plan = planned(grid=1, silence=fixed(2, 8), cycles=10)
        asked, silence = asked_times(plan), plan.silences[0]
        start, end = (int(plan.notes.tick.searchsorted(t)) for t in (silence.start_tick, silence.end_tick))
        slow = asked[start] + (asked[start : end + 1] - asked[start]) * 34 / 33
        slow = slow[slow < asked[end] + 0.01]  # the last of the silence falls on the returning click
        onsets = np.concatenate([asked[:start], slow, asked[end + 1 :]])
        found = match(plan, onsets)
        self.assertEqual(found.missed.tolist(), [end])
        self.assertEqual(found.extra.size, 0)


class UnevenPlayingTests(TestCase):
    """What people do: flams, doubles, a late start, a break, bursts, offbeats, improvising."""

    def setUp(self) -> None:
        self.plan = planned()
        self.take = simulate(self.plan, SimulatedPlayer(bias_percent=1.0), seed=2)

    def labels(self, onsets: FloatArray, plan: Schedule | None = None) -> list[int]:
        found = match(plan or self.plan, onsets)
        labels = np.full(onsets.size, -1)
        labels[found.played] = found.asked
        return labels.tolist()

    def added(self, apart_s: float) -> tuple[FloatArray, list[int]]:
        """Return the take with every seventh note played twice, and the true labels."""
        again = self.take.onsets_s[::7] + apart_s
        onsets = np.concatenate([self.take.onsets_s, again])
        order = np.argsort(onsets)
        return onsets[order], np.concatenate([self.take.asked, np.full(again.size, -1)])[order].tolist()

    def test_a_grace_note_before_the_note(self) -> None:
        onsets, truth = self.added(-0.045)
        self.assertLessEqual(np.count_nonzero(np.not_equal(self.labels(onsets), truth)), 4)

    def test_doubled_notes(self) -> None:
        onsets, truth = self.added(0.08)
        self.assertEqual(self.labels(onsets), truth)

    def test_late_start_and_early_stop(self) -> None:
        self.assertEqual(self.labels(self.take.onsets_s[37:100]), list(range(37, 100)))

    def test_broken_off_and_come_back_off_place(self) -> None:
        kept = [*range(30), *range(70, 136)]
        onsets = self.take.onsets_s[kept]
        onsets[30:] += 0.12
        self.assertEqual(self.labels(onsets), kept)

    def test_bursts_against_a_slow_click(self) -> None:
        plan = planned(bpm=30, on=["1"], silence=None, grid=4, play=["4+1/2", "4+3/4", "1"], cycles=12)
        take = simulate(plan, SimulatedPlayer(bias_percent=2), seed=3)
        self.assertEqual(self.labels(take.onsets_s, plan), take.asked.tolist())

    def test_offbeats_only(self) -> None:
        plan = planned(play=["1+1/2", "2+1/2", "3+1/2", "4+1/2"])
        take = simulate(plan, SimulatedPlayer(bias_percent=2), seed=3)
        self.assertEqual(self.labels(take.onsets_s, plan), take.asked.tolist())

    def test_improvising_on_the_grid(self) -> None:
        for grid, bpm in ((2, 96), (3, 70), (4, 80)):
            plan = planned(play="free", grid=grid, bpm=bpm)
            take = simulate(plan, SimulatedPlayer(bias_percent=-1.5), seed=grid)
            self.assertEqual(self.labels(take.onsets_s, plan), take.asked.tolist())


class OutsideTests(TestCase):
    def test_assignment_by_scipy_where_there_is_no_drift(self) -> None:
        """scipy's minimum-cost assignment, beyond 0.1 s priced out, finds the same pairs."""
        plan = planned(silence=None, cycles=8, grid=2, bpm=100)
        asked = asked_times(plan)
        for seed in range(6):
            player = SimulatedPlayer(missed=0.05, extra=0.0, place_ms=-10, clock_percent=0.8, hand_ms=7)
            take = simulate(plan, player, seed=seed)
            apart = np.abs(asked[:, None] - take.onsets_s[None, :])
            rows, columns = linear_sum_assignment(np.where(apart > 0.1, 1000.0, apart))
            near = apart[rows, columns] <= 0.1
            found = match(plan, take.onsets_s)
            self.assertEqual(found.asked.tolist(), rows[near].tolist())
            self.assertEqual(found.played.tolist(), columns[near].tolist())


class PropertyTests(TestCase):
    @given(seed=st.integers(0, 10_000), shift_ms=st.floats(-60, 60))
    @settings(max_examples=25, deadline=None)
    def test_a_constant_delay_changes_no_label(self, seed: int, shift_ms: float) -> None:
        plan = planned(bpm=80)
        onsets = simulate(plan, SimulatedPlayer(missed=0.02), seed=seed).onsets_s
        before, after = match(plan, onsets), match(plan, onsets + shift_ms / 1000)
        self.assertEqual(before.asked.tolist(), after.asked.tolist())
        self.assertEqual(before.played.tolist(), after.played.tolist())

    @given(st.lists(st.floats(0, 50), max_size=80).map(sorted))
    @settings(max_examples=40, deadline=None)
    def test_any_onsets_give_ascending_pairs_and_whole_counts(self, onsets: list[float]) -> None:
        found = match(planned(), np.array(onsets))
        self.assertTrue(np.all(np.diff(found.asked) > 0))
        self.assertTrue(np.all(np.diff(found.played) > 0))
        self.assertEqual(found.asked.size + found.missed.size, 136)
        self.assertEqual(found.played.size + found.extra.size, len(onsets))


class MirEvalTests(TestCase):
    def test_pairs_of_mir_eval(self) -> None:
        """mir_eval's match_events within 100 ms pairs the same notes: made-up taps, one left out, one added."""
        plan = planned(bpm=120, silence=None, grid=1, cycles=3, close=1, count_in=1)
        asked = plan.seconds(plan.notes.tick)
        kept = [k for k, ms in enumerate(golden.TAPS_ERROR_MS) if ms is not None]
        errors = np.array([golden.TAPS_ERROR_MS[k] for k in kept], float)
        onsets = np.sort(np.append(asked[kept] + errors / 1000, asked[5] + 0.25))
        found = match(plan, onsets)
        pairs = mir_eval.util.match_events(asked, onsets, 0.10)
        self.assertEqual(sorted(pairs), list(zip(found.asked.tolist(), found.played.tolist(), strict=True)))
