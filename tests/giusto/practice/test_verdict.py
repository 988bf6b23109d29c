"""Verdicts of takes without silences: beside the click or with it, wide about it; and a tempo without any click."""

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.drill import validate
from giusto.practice.finding import Finding
from giusto.practice.findings import findings
from giusto.practice.verdict import ASIDE_MS, Verdict, _leaning, _together, kind_of, tempo_alone, verdict_of
from giusto.reading import analyse
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import climbing, fixed, plain, planned

CLICKED = planned(bpm=96, grid=1, silence=None, cycles=12)
FREE = schedule(validate(plain(on=[], silence=None, cycles=16, grid=1, close=0) | {"giusto": "free/1"}))


def judged(plan: Schedule, onsets_s: np.ndarray, *, hand_ms: float = 3.0) -> Verdict:
    """Return the verdict on notes that are even to some ms."""
    even = np.random.default_rng(1).normal(0, hand_ms / 1000, onsets_s.size)
    reading = analyse(plan, np.sort(onsets_s + even)).reading
    return verdict_of(plan, reading, findings(plan, reading))


class LeaningTests(TestCase):
    def test_how_many_silences_lie_on_the_side_that_they_share(self) -> None:
        """By the sign of their returns, however small."""
        plan = planned()
        reading = analyse(plan, plan.seconds(plan.notes.tick)).reading
        assert reading.tendency
        returns = (-0.4, 0.4, 0.6, -30.0)
        silences = [replace(one, return_ms=at) for one, at in zip(reading.silences, returns, strict=True)]
        for verdict, code, count in (("dragging", "dragged", 2), ("rushing", "rushed", 2)):
            lean = replace(reading.tendency, verdict=verdict)
            found = _leaning(replace(reading, silences=silences, tendency=lean, course=None), 4)
            self.assertEqual((found.code, found.silences, found.of), (code, count, 4))
        three = [*silences[:3], replace(silences[3], return_ms=30.0)]
        lean = replace(reading.tendency, verdict="dragging")
        self.assertEqual(_leaning(replace(reading, silences=three, tendency=lean, course=None), 4).silences, 3)


class ThroughoutTests(TestCase):
    def test_beside_the_click_only_where_the_whole_range_is(self) -> None:
        asked_s = CLICKED.seconds(CLICKED.notes.tick)
        for place_ms, code in (
            (-25, "before"),
            (-10.5, "together"),
            (0, "together"),
            (10.5, "together"),
            (25, "after"),
        ):
            found = judged(CLICKED, asked_s + place_ms / 1000)
            with self.subTest(place_ms):
                self.assertEqual(found.code, code)
                assert found.place_ci95_ms
                assert found.place_ms is not None
                self.assertAlmostEqual(found.place_ms, place_ms, delta=1.5)
                low, high = found.place_ci95_ms
                self.assertEqual(found.code != "together", high < -ASIDE_MS or low > ASIDE_MS)

    def test_loose_is_told_before_the_place(self) -> None:
        found = judged(CLICKED, CLICKED.seconds(CLICKED.notes.tick) + 0.03, hand_ms=80)
        self.assertEqual(found.code, "loose")
        low, high = found.spread_ci95_ms or (0.0, 0.0)
        self.assertTrue(low < 80 < high)


class FreeTests(TestCase):
    def test_a_tempo_kept_lost_and_found_again(self) -> None:
        """Beats at 96 from the first to the last: one tempo, 6 % slower or faster by the end, there and back."""
        n = 64
        share = np.linspace(0, 1, n - 1)
        for code, change in (
            ("kept", 0 * share),
            ("slowed", -0.06 * share),
            ("quickened", 0.06 * share),
            ("wandered", 0.08 * (np.abs(share - 0.5) < 0.2)),
        ):
            steps_s = 60 / 96 / (1 + change)
            found = judged(FREE, 2 + np.concatenate([[0.0], np.cumsum(steps_s)]))
            with self.subTest(code):
                self.assertEqual(found.code, code)
                self.assertAlmostEqual(found.from_bpm or 0.0, 96, delta=2.5)
                self.assertAlmostEqual(found.to_bpm or 0.0, 96 * (1 + change[-8:].mean()), delta=2.5)

    def test_nothing_played_is_too_few(self) -> None:
        self.assertEqual(judged(FREE, np.zeros(0)).code, "too-few")


class TogetherTests(TestCase):
    def test_returns_are_on_one_side_only_where_their_mean_surely_is(self) -> None:
        """Five of eight 40 ms early, three 55 ms late: −4.4 ms, by ranges of ±13.9 each ±4.9, of ±11 each ±3.9."""
        plan = planned(bpm=96, silence=fixed(1, 1), cycles=16)
        whole = analyse(plan, plan.seconds(plan.notes.tick)).reading
        silences = whole.silences[:8]
        self.assertEqual(len(silences), 8)
        for half, told in ((13.9, None), (11.0, Verdict("rushed", 5, 8))):
            made = [
                replace(one, return_ms=ms, return_ci95_ms=(ms - half, ms + half))
                for one, ms in zip(silences, [-40.0] * 5 + [55.0] * 3, strict=True)
            ]
            self.assertEqual(_together(replace(whole, silences=made, course=None), 8), told, half)


class AnotherTests(TestCase):
    def test_only_a_tempo_of_ones_own_has_a_tempo(self) -> None:
        reading = analyse(CLICKED, CLICKED.seconds(CLICKED.notes.tick)).reading
        own = verdict_of(CLICKED, reading, [Finding("own-tempo", 92.8, None, 30)])
        self.assertEqual((own.code, own.from_bpm, own.to_bpm), ("own-tempo", 92.8, 92.8))
        part = verdict_of(CLICKED, reading, [Finding("other-part", 7.0, None, 30)])
        self.assertEqual((part.code, part.from_bpm, part.to_bpm), ("other-part", None, None))


class TempoAloneTests(TestCase):
    def test_where_the_tempo_climbs_it_is_asked_by_beats_over_time(self) -> None:
        """Silences of four cycles: 16 beats each at 62, 66 … in 16 · 60/62 s and so on; a lean is a share of that."""
        plan = schedule(validate(climbing()))
        slow = SimulatedPlayer(bias_percent=-2.0, hand_ms=3.0)
        reading = analyse(plan, simulate(plan, slow, seed=1).onsets_s).reading
        found = tempo_alone(plan.drill, reading)
        assert found
        read = [one for one in reading.silences if one.drift_ms is not None]
        tempos = [60 * one.beats / (one.end_s - one.start_s) for one in read]
        self.assertGreater(len(read), 1)
        self.assertGreater(found.asked_bpm, min(tempos))
        self.assertLess(found.asked_bpm, max(tempos))
        self.assertAlmostEqual(found.asked_bpm, len(tempos) / sum(1 / bpm for bpm in tempos), places=2)
        assert reading.tendency
        self.assertAlmostEqual(found.bpm, found.asked_bpm * (1 + reading.tendency.tempo_percent / 100), places=2)


class KindTests(TestCase):
    def test_each_kind_by_its_drill(self) -> None:
        passage = [{"cycles": 1, "at": ["1", "2"]}, {"cycles": 1, "at": ["3"]}]
        for kind, plan in (
            ("silences", planned(silence=fixed(2, 2))),
            ("throughout", CLICKED),
            ("free", FREE),
            ("passage", planned(play=passage, grid=1)),
        ):
            reading = analyse(plan, plan.seconds(plan.playable.tick)).reading
            self.assertEqual(kind_of(plan, reading), kind)
