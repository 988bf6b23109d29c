"""The search for the best path, part by part: its filter beside matrices, what it prunes, where it finds a place."""

from __future__ import annotations

from math import log, pi
from typing import Any
from unittest import TestCase

import numpy as np
from numpy.testing import assert_allclose
from scipy.stats import norm

from giusto.notes import match as rules
from giusto.notes.match import match, unpaired
from giusto.schedule.timeline import timeline
from tests.drills import fixed, planned

PLAN = planned(silence=fixed(2, 2), cycles=8, grid=2)
ASKED_S = PLAN.seconds(PLAN.notes.tick)
BEAT_S = 60 / 96


def search() -> Any:
    """Return a search over the drill whose place is none."""
    found = rules._Search(timeline(PLAN), clicks_s=PLAN.seconds(PLAN.clicks.tick), missed_cost=rules.MISSED_COST)
    found.time_s, found.onset_s, found.place_s = ASKED_S.tolist(), ASKED_S.tolist(), 0.0
    return found


def inside() -> int:
    """Return a note deep in the first silence."""
    start_s, end_s = (float(PLAN.seconds(tick)) for tick in (PLAN.silences[0].start_tick, PLAN.silences[0].end_tick))
    return int(np.searchsorted(ASKED_S, (start_s + end_s) / 2))


class FilterTests(TestCase):
    def test_alone_it_is_a_kalman_filter_of_error_and_lean(self) -> None:
        """One step by matrices (Kalman 1960, from memory), its cost by scipy's normal density."""
        found, note = search(), inside()
        mean, cov = np.array([0.012, 0.02]), np.array([[4e-5, 1e-5], [1e-5, 2e-4]])
        for skipped in (0, 2):
            step_s = float(ASKED_S[note + 1 + skipped] - ASKED_S[note])
            onset_s = float(ASKED_S[note + 1 + skipped]) + 0.019
            path = (3.0, note, *mean, cov[0, 0], cov[0, 1], cov[1, 1], (note, note, None))
            told = found._on(path, note + 1 + skipped, note + 1 + skipped, onset_s)
            move = np.array([[1.0, step_s], [0.0, 1.0]])
            ahead, spread = move @ mean, move @ cov @ move.T + np.diag([(rules.CLOCK * step_s) ** 2, 0.0])
            sees = np.array([1.0, 0.0])
            says = float(sees @ spread @ sees) + rules.HAND_S**2
            gain = spread @ sees / says
            after, left = ahead + gain * (0.019 - ahead[0]), spread - np.outer(gain, sees @ spread)
            cost = 3.0 - norm.logpdf(0.019, ahead[0], says**0.5) + skipped * rules.MISSED_COST
            assert_allclose(told[:1] + told[2:4], (cost, *after), rtol=1e-9)
            assert_allclose(told[4:7], (left[0, 0], left[0, 1], left[1, 1]), rtol=1e-9)
            self.assertEqual((told[1], told[7][:2]), (note + 1 + skipped, (note + 1 + skipped, note + 1 + skipped)))

    def test_with_the_click_part_of_the_error_goes_and_the_lean_begins_anew(self) -> None:
        """From the first note of the drill to the third, a beat on: one click is heard between them."""
        found = search()
        found.onset_s = [0.0, 0.0, 0.0]
        path = (0.0, 0, 0.03, 0.01, 1e-4, 1e-5, 1e-3, (0, 0, None))
        told = found._on(path, 2, 1, float(ASKED_S[2]) + 0.01)
        ahead = 0.03 * rules.KEEP
        var = rules.KEEP**2 * 1e-4 + (rules.KEEP_SPREAD * 0.03) ** 2 + (rules.CLOCK * BEAT_S) ** 2
        gain = var / (var + rules.HAND_S**2)
        assert_allclose(told[2], ahead + gain * (0.01 - ahead), rtol=1e-9)
        assert_allclose(told[4:7], (var * (1 - gain), 0.0, rules.LEAN_HEARD**2), rtol=1e-9, atol=1e-15)

    def test_from_the_last_click_into_the_silence_a_lean_begins(self) -> None:
        """Over one click and on alone: the error's part that is left, then the spread of a lean there (Kalman 1960)."""
        found = search()
        note = int(np.argmax(np.asarray(found.alone_s) > 0))  # the first one in a silence
        last = note - 2
        clicks = found.clicks_before[note] - found.clicks_before[last]
        alone_s = found.alone_s[note] - found.alone_s[last]
        self.assertEqual(clicks, 1)
        self.assertGreater(alone_s, 0)
        told = found._on((0.0, last, 0.03, 0.01, 1e-4, 1e-5, 1e-3, (last, 0, None)), note, 1, float(ASKED_S[note]))
        step_s = float(ASKED_S[note] - ASKED_S[last])
        error = 0.03 * rules.KEEP**clicks
        var = rules.KEEP ** (2 * clicks) * 1e-4 + (rules.KEEP_SPREAD * 0.03) ** 2
        var += (rules.LEAN * alone_s) ** 2 + (rules.CLOCK * step_s) ** 2
        cov = rules.LEAN**2 * alone_s
        says = var + rules.HAND_S**2
        gain, gain_lean = var / says, cov / says
        assert_allclose(told[2:4], (error - gain * error, -gain_lean * error), rtol=1e-9)
        left = (var - gain * var, cov - gain * cov, rules.LEAN**2 - gain_lean * cov)
        assert_allclose(told[4:7], left, rtol=1e-9)

    def test_more_than_half_a_beat_off_the_click_is_taken_for_the_nearest_beat(self) -> None:
        """Seven tenths of a beat late, a click is heard: three tenths early; notes of the lost beat cost nothing."""
        found = search()
        last, late_s = 0, 0.7 * BEAT_S
        for skipped in (1, 3):
            note = last + 1 + skipped
            onset_s = float(ASKED_S[note]) - 0.3 * BEAT_S * rules.KEEP
            found.onset_s = [float(ASKED_S[last]) + late_s - BEAT_S, onset_s]
            path = (0.0, last, late_s, 0.0, 1e-4, 0.0, 1e-4, (last, 0, None))
            told = found._on(path, note, 1, onset_s)
            clicks = found._heard_by(onset_s) - found._heard_by(found.onset_s[0])
            error = late_s - BEAT_S
            var = 1e-4 + (rules.SLIP_SPREAD * BEAT_S) ** 2
            var = rules.KEEP ** (2 * clicks) * var + (rules.KEEP_SPREAD * error) ** 2
            var += (rules.CLOCK * float(ASKED_S[note] - ASKED_S[last])) ** 2
            error *= rules.KEEP**clicks
            says = var + rules.HAND_S**2
            miss = onset_s - float(ASKED_S[note]) - error
            missed = (skipped - min(skipped, 2)) * rules.MISSED_COST  # two notes are a beat: they were lost with it
            cost = rules.SLIP_COST + missed - norm.logpdf(miss, 0, says**0.5)
            self.assertGreater(clicks, 0)
            assert_allclose(told[0], cost, rtol=1e-9)
            assert_allclose(told[2], error + var / says * miss, rtol=1e-9)

    def test_a_note_too_far_off_begins_anew_there(self) -> None:
        """It costs the same however far, and more where it follows the note before at once."""
        found, note = search(), inside()
        path = (0.0, note, 0.0, 0.0, 1e-6, 0.0, 1e-6, (note, note, None))
        costs = []
        for off_s, since_s in ((0.15, 1.5), (0.2, 1.5), (0.15, 0.1)):
            onset_s = float(ASKED_S[note + 1]) + off_s
            found.onset_s[note] = onset_s - since_s
            told = found._on(path, note + 1, note + 1, onset_s)
            costs.append(told[0])
            assert_allclose(told[2:7], (off_s, 0.0, rules.HAND_S**2, 0.0, rules.LEAN**2), rtol=1e-9)
        jump = rules.JUMP_COST + log(found.least_slot_s)
        assert_allclose(costs, [jump, jump, jump + rules.FLOW_COST], rtol=1e-12)

    def test_a_path_begins_at_a_place_and_far_ones_cost(self) -> None:
        """A place one standard deviation off costs half a nat; the lean is that of hands with the click."""
        start = rules._start(rules.PLACE_S, 0.03)
        assert_allclose(start[:7], (0.5, -1, 0.0, 0.0, 0.03**2, 0.0, rules.LEAN_HEARD**2), rtol=1e-12)
        self.assertEqual(rules._start(0.0, 0.03)[0], 0.0)


class PruningTests(TestCase):
    def test_one_that_lags_owes_the_notes_that_are_due(self) -> None:
        """Of two as cheap, one behind is kept while the notes it missed cost less than the limit: four, not five."""
        missed = rules.PRUNE_COST / 4.5
        for behind, kept in ((4, 2), (5, 1)):
            paths = {(10, 0): (1.0, 10), (10 - behind, 0): (1.0, 10 - behind)}
            self.assertEqual(len(rules._pruned(paths, 11, missed)), kept, behind)  # type: ignore[arg-type]

    def test_no_more_than_the_cheapest_are_kept(self) -> None:
        many = {(k, 0): (k * 1e-3, 100) for k in range(2 * rules.MAX_PATHS)}
        kept = rules._pruned(many, 0, 1.0)  # type: ignore[arg-type]
        self.assertEqual([path[0] for path in kept], [k * 1e-3 for k in range(rules.MAX_PATHS)])


class PlaceTests(TestCase):
    def test_a_mode_is_where_most_of_the_angles_lie(self) -> None:
        """Beside scipy's von Mises mean of the denser of two heaps, and on both sides of the seam."""
        rng = np.random.default_rng(3)
        for middle in (-2.0, 0.3, 3.1):
            heap = np.concatenate([rng.normal(middle, 0.1, 60), rng.normal(middle + 1.8, 0.1, 30)])
            phase = np.angle(np.exp(1j * heap))
            off = np.angle(np.exp(1j * (rules._mode(phase, 0.3) - middle)))
            self.assertAlmostEqual(float(off), 0.0, delta=0.1)
        self.assertEqual(rules._mode(np.empty(0), 0.3), 0.0)

    def test_a_place_is_that_of_the_nearest_notes_on_either_side(self) -> None:
        for place_s in (-0.11, -0.03, 0.0, 0.05, 0.12):
            found, is_known = rules._places(PLAN, timeline(PLAN), ASKED_S + place_s, BEAT_S / 2)
            self.assertTrue(is_known)
            assert_allclose(found, place_s, rtol=0, atol=2 * pi / rules.MODE_TRIALS * BEAT_S / 2)

    def test_swung_notes_have_a_place_of_their_own(self) -> None:
        swung = ASKED_S + np.where(np.arange(ASKED_S.size) % 2, 0.06, 0.0)
        found, _ = rules._places(PLAN, timeline(PLAN), swung, BEAT_S / 2)
        assert_allclose(found[1::2] - found[::2], 0.06, rtol=0, atol=0.01)

    def test_only_notes_that_agree_have_a_place_of_their_own(self) -> None:
        """A hand of 12 ms swings all the same; offbeats anywhere in their slot do not."""
        rng = np.random.default_rng(6)
        offbeat = np.arange(ASKED_S.size) % 2 == 1
        swung = ASKED_S + np.where(offbeat, 0.06, 0.0) + rng.normal(0, 0.012, ASKED_S.size)
        found, _ = rules._places(PLAN, timeline(PLAN), swung, BEAT_S / 2)
        assert_allclose(found[1::2] - found[::2], 0.06, rtol=0, atol=0.02)
        anywhere = ASKED_S + offbeat * np.resize(np.repeat([-0.12, -0.06, 0.06, 0.12], 2), ASKED_S.size)
        found, _ = rules._places(PLAN, timeline(PLAN), anywhere, BEAT_S / 2)
        assert_allclose(found[1::2], found[::2], rtol=0, atol=1e-12)

    def test_what_lies_far_away_belongs_to_nothing(self) -> None:
        """Six notes a minute before the drill, three after it: those between are matched as without them."""
        before, after = ASKED_S[0] - 60 - np.arange(6.0)[::-1], ASKED_S[-1] + 60 + np.arange(3.0)
        found = match(PLAN, np.concatenate([before, ASKED_S, after]))
        self.assertEqual(found.asked.tolist(), list(range(ASKED_S.size)))
        self.assertEqual(found.played.tolist(), [6 + k for k in range(ASKED_S.size)])
        self.assertEqual(found.extra.tolist(), [*range(6), *range(6 + ASKED_S.size, 9 + ASKED_S.size)])

    def test_how_uneven_the_steps_are(self) -> None:
        """Three times as uneven a hand and clock as expected is told as three; few steps as one."""
        rng = np.random.default_rng(5)
        plan = planned(cycles=64, silence=None)
        asked_s = plan.seconds(plan.notes.tick)
        step_s = np.diff(asked_s, prepend=asked_s[0])
        off_s = np.cumsum(3 * rules.CLOCK * step_s * rng.standard_normal(asked_s.size))
        onsets_s = asked_s + off_s + 3 * rules.HAND_S * rng.standard_normal(asked_s.size)
        pairs = [(k, k) for k in range(asked_s.size)]
        self.assertAlmostEqual(rules._looseness(timeline(plan), onsets_s, pairs), 3.0, delta=0.4)
        self.assertEqual(rules._looseness(timeline(plan), onsets_s, pairs[: rules.FEW_STEPS - 1]), 1.0)

    def test_what_lies_outside_the_pairs(self) -> None:
        """Pairs (2, 1) and (7, 5) of ten asked and nine played: two and one before, two and three after."""
        self.assertEqual(rules._ragged([(2, 1), (4, 3), (7, 5)], 10, 9), 2 + 1 + 2 + 3)
        self.assertEqual(rules._ragged([], 10, 9), 19)
        self.assertAlmostEqual(unpaired(np.array([2, 4, 7]), np.array([1, 3, 5])), (1 - 3 / 6) + (1 - 3 / 5))

    def test_what_an_empty_slot_costs_who_improvises(self) -> None:
        """The log odds that it is played; nothing where fewer than half are."""
        self.assertEqual(rules._rest_cost(0.5), 0.0)
        self.assertEqual(rules._rest_cost(0.2), 0.0)
        self.assertAlmostEqual(rules._rest_cost(0.8), log(4.0))
        self.assertEqual(rules._rest_cost(2.0), rules._rest_cost(0.95))
        self.assertAlmostEqual(rules._rest_cost(0.95), log(19.0))
