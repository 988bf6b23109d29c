"""Whole readings against general-purpose libraries: mir_eval, partitura, scipy."""

from unittest import TestCase

import mir_eval
import numpy as np
import partitura
from numpy.testing import assert_allclose
from scipy.stats import circmean, circvar

from giusto.match import match
from giusto.reading import analyse
from giusto.simulate import Player, simulate
from tests.drills import fixed, planned
from tests.reference import golden


class OutsideCountsTests(TestCase):
    """Counts and kinds of playing against mir_eval, a tempo curve against partitura, directions against scipy."""

    def test_pairs_of_mir_eval(self) -> None:
        plan = planned(bpm=120, silence=None, grid=1, cycles=3, close=1, count_in=1)
        asked = plan.seconds(plan.notes.tick)
        kept = [k for k, ms in enumerate(golden.TAPS_ERROR_MS) if ms is not None]
        errors = np.array([golden.TAPS_ERROR_MS[k] for k in kept], float)
        onsets = np.sort(np.append(asked[kept] + errors / 1000, asked[5] + 0.25))
        found = match(plan, onsets)
        pairs = mir_eval.util.match_events(asked, onsets, 0.10)
        self.assertEqual(len(pairs), golden.TAPS_PAIRED_100)
        self.assertEqual(sorted(pairs), list(zip(found.asked.tolist(), found.played.tolist(), strict=True)))
        self.assertEqual(len(mir_eval.util.match_events(asked, onsets, 0.05)), golden.TAPS_PAIRED_50)

    def test_offbeats_and_every_second_beat_are_right_only_at_another_level(self) -> None:
        """mir_eval's continuity: offbeat and half-tempo playing is wrong as asked (CML), right otherwise (AML)."""
        cases = (dict(play=["1+1/2", "2+1/2", "3+1/2", "4+1/2"], grid=2), dict(play=["2", "4"], grid=1))
        for changes in cases:
            plan = planned(bpm=120, silence=None, cycles=8, **changes)
            beats = planned(bpm=120, silence=None, cycles=8, grid=1)
            onsets = simulate(plan, Player(clock_percent=0.8, hand_ms=4.0, place_ms=0.0), seed=2).onsets_s
            _, cml, _, aml = mir_eval.beat.continuity(beats.seconds(beats.notes.tick), onsets)
            self.assertEqual(cml, 0.0)
            self.assertGreater(aml, 0.95)
            reading = analyse(plan, onsets).reading  # we know the part, so it is simply right
            self.assertEqual((reading.onsets.missed, reading.onsets.extra), (0, 0))
            self.assertLess(abs(reading.heard.mean_error_ms or 99.0), 8.0)

    def test_tempo_curve_of_partitura(self) -> None:
        """Quarters of 500 ms, then slowing: our tempo held over the second half is that of partitura's curve."""
        plan = planned(bpm=120, silence=fixed(2, 4), cycles=6, grid=1, count_in=0, close=1)
        asked = plan.seconds(plan.notes.tick)
        silence = plan.silences[0]
        start, end = (int(plan.notes.tick.searchsorted(tick)) for tick in (silence.start_tick, silence.end_tick))
        periods = np.full(end, 0.5)
        periods[start:] = np.linspace(0.5, 0.52, end - start)
        onsets = np.concatenate([[0.0], np.cumsum(periods)])
        curve = tempo_curve(onsets)
        assert_allclose(curve, periods, rtol=0, atol=1e-4)
        lost_s = float(np.sum(curve[start:end] - 0.5))
        late = asked[end + 1 :] + lost_s * 0.5
        read = analyse(plan, np.concatenate([onsets, late[late > onsets[-1] + 0.2]])).reading.silences[0]
        assert_allclose(read.drift_ms, 1000 * lost_s, rtol=0, atol=15)
        assert_allclose(read.tempo_bpm, 120 * 0.5 * (end - start) / (0.5 * (end - start) + lost_s), rtol=0, atol=0.3)

    def test_mean_direction_of_scipy(self) -> None:
        """Set D: the mean of wide phases is a direction, not an average; scipy is the reference we go by."""
        angles = 2 * np.pi * np.array(golden.SET_D_CYCLES)
        assert_allclose(1 - circvar(angles), golden.SET_D_R, rtol=0, atol=1e-6)
        assert_allclose(circmean(angles, low=-np.pi, high=np.pi), golden.SET_D_MEAN_RAD, rtol=0, atol=1e-6)
        plan = planned(bpm=120, silence=None, grid=1, cycles=4)
        errors_ms = np.array(golden.SET_C_MS, float)
        heard = analyse(plan, plan.seconds(plan.notes.tick) + errors_ms / 1000).reading.heard
        around = 500 / (2 * np.pi)  # a beat of 500 ms is a full turn
        assert_allclose(
            heard.mean_error_ms, around * circmean(errors_ms / around, low=-np.pi, high=np.pi), atol=0.01, rtol=0
        )


def tempo_curve(onsets_s: np.ndarray) -> np.ndarray:
    """Return the beat period at each quarter by partitura, the last (a duration) left out."""
    part = partitura.score.Part("P", quarter_duration=4)
    performed = []
    for k, onset in enumerate(onsets_s):
        part.add(partitura.score.Note(step="C", octave=4, id=f"n{k}"), start=4 * k, end=4 * k + 4)
        performed.append(
            {
                "id": f"n{k}",
                "midi_pitch": 60,
                "note_on": float(onset),
                "note_off": float(onset) + 0.1,
                "velocity": 64,
                "track": 0,
                "channel": 0,
            }
        )
    part.add(partitura.score.TimeSignature(4, 4), 0)
    alignment = [{"label": "match", "score_id": f"n{k}", "performance_id": f"n{k}"} for k in range(len(performed))]
    encoded, *_ = partitura.musicanalysis.encode_performance(
        part, partitura.performance.PerformedPart(performed), alignment
    )
    return np.array(encoded["beat_period"][:-1], dtype=float)
