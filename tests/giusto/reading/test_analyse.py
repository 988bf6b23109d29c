"""The reading of a take: hand-worked cases, outside numbers, properties, recovery."""

import json
from pathlib import Path
from unittest import TestCase

import jsonschema
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from giusto.drill import validate
from giusto.errors import GiustoError
from giusto.reading import Reading, analyse, parse
from giusto.reading.format import json_schema
from giusto.schedule import schedule
from giusto.simulation.benchmark import oracle_drift_ms
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import climbing, fixed, planned
from tests.giusto.takes import taken
from tests.reference import golden

SCHEMA = Path(__file__).parents[3] / "docs/schema/reading-1.json"


def read(onsets_s, **changes) -> Reading:  # type: ignore[no-untyped-def]
    """Return the reading of onsets for a drill of ``tests.drills``."""
    return analyse(planned(**changes), onsets_s).reading


def asked(**changes):  # type: ignore[no-untyped-def]
    """Return the asked times of such a drill."""
    plan = planned(**changes)
    return plan.seconds(plan.notes.tick)


class HandWorkedTests(TestCase):
    def test_perfect_take(self) -> None:
        reading = read(asked())
        self.assertEqual([s.outcome for s in reading.silences], ["held"] * 4)
        self.assertEqual(reading.onsets.matched, 136)
        for silence in reading.silences:
            self.assertAlmostEqual(silence.return_ms or 0.0, 0.0, places=1)
            self.assertAlmostEqual(silence.tempo_bpm or 0.0, 96.0, places=1)
            self.assertEqual((silence.beats, silence.notes), (9.0, 19))

    def test_a_steady_drag_is_measured(self) -> None:
        # Each note alone comes 2.5 ms later than the one before: 18 intervals make 45 ms.
        plan = planned()
        onsets = asked().copy()
        ahead = np.zeros(onsets.size)
        for silence in plan.silences:
            inside = (plan.notes.tick >= silence.start_tick) & (plan.notes.tick <= silence.end_tick)
            ahead[inside] = 0.0025 * np.arange(np.count_nonzero(inside))
        reading = read(onsets + ahead - 0.020)
        for silence in reading.silences:
            assert_allclose(silence.drift_ms, 45.0, rtol=0, atol=0.5)
            assert_allclose(silence.return_ms, 45.0, rtol=0, atol=0.5)
            # 5.625 s asked took 5.670 s: 96 · 5.625 / 5.670 = 95.238.
            assert_allclose(silence.tempo_bpm, 95.238, rtol=0, atol=0.01)
            assert_allclose(silence.tempo_percent, -0.794, rtol=0, atol=0.01)
            self.assertEqual(silence.outcome, "late")
        assert_allclose(reading.heard.mean_error_ms, -20.0, rtol=0, atol=0.5)

    def test_errors_are_played_minus_asked(self) -> None:
        onsets = asked()
        onsets[0] += 0.0123
        first = read(onsets).matches[0]
        self.assertEqual((first.cycle, first.position, first.expected_s), (1, "1", 2.5))
        self.assertAlmostEqual(first.error_ms, 12.3, places=3)

    def test_swung_offbeats_are_not_taken_for_drift(self) -> None:
        onsets = asked()
        onsets[1::2] += 0.060
        reading = read(onsets)
        for silence in reading.silences:
            assert_allclose(silence.drift_ms, 0.0, rtol=0, atol=0.5)
        assert_allclose(reading.heard.mean_error_ms, 0.0, rtol=0, atol=0.5)

    def test_offbeats_alone_are_read_too(self) -> None:
        changes = dict(play=["1+1/2", "2+1/2", "3+1/2", "4+1/2"])
        reading = read(asked(**changes) - 0.015, **changes)
        assert_allclose(reading.heard.mean_error_ms, -15.0, rtol=0, atol=0.5)
        self.assertEqual([s.outcome for s in reading.silences], ["held"] * 4)

    def test_place_by_numpy_and_scipy(self) -> None:
        """With the click throughout, place and spread are the plain mean and standard deviation."""
        changes = dict(bpm=120, silence=None, grid=1, cycles=4)
        heard = read(asked(**changes) + np.array(golden.SET_C_MS) / 1000, **changes).heard
        self.assertEqual(heard.n, 20)
        assert_allclose(heard.mean_error_ms, golden.SET_C_MEAN_MS, rtol=0, atol=1e-3)
        assert_allclose(heard.sd_ms, golden.SET_C_SD_MS, rtol=0, atol=1e-3)
        assert_allclose(heard.interval_sd_ms, np.diff(golden.SET_C_MS).std(ddof=1), rtol=0, atol=1e-3)
        low, high = heard.ci95_ms or (0.0, 0.0)
        self.assertTrue(low < golden.SET_C_MEAN_MS - 2 < golden.SET_C_MEAN_MS + 2 < high)


class TooLittleTests(TestCase):
    def test_nothing_played(self) -> None:
        reading = read([])
        self.assertEqual([s.outcome for s in reading.silences], ["unreadable"] * 4)
        self.assertIsNone(reading.silences[0].drift_ms)
        self.assertIsNone(reading.heard.mean_error_ms)
        self.assertIn("0 notes were caught; a reading needs at least 4", reading.notes)

    def test_silence_with_few_notes_says_how_many(self) -> None:
        plan = planned()
        silence = plan.silences[1]
        inside = (plan.notes.tick >= silence.start_tick) & (plan.notes.tick <= silence.end_tick)
        keep = ~inside
        keep[np.flatnonzero(inside)[::4]] = True
        reading = read(asked()[keep])
        self.assertEqual([s.outcome for s in reading.silences], ["held", "unreadable", "held", "held"])
        self.assertIn("silence 2 can't be read: 5 of 19 notes caught, and 8 are needed", reading.notes)
        self.assertIsNone(reading.silences[1].return_ms)

    def test_broken_off(self) -> None:
        reading = read(asked()[:60])
        self.assertEqual([s.outcome for s in reading.silences], ["held", "unreadable", "unreadable", "unreadable"])
        self.assertIn("silence 2 was not played to its end", reading.notes)

    def test_no_note_with_the_click_leaves_the_place_unknown(self) -> None:
        changes = dict(on=["1"], silence=None, cycles=6, close=0, count_in=0, grid=1, play=["3", "4"])
        reading = read(asked(**changes)[2:], **changes)
        self.assertIsNone(reading.silences[2].return_ms)
        self.assertIsNotNone(reading.silences[2].drift_ms)
        self.assertTrue(any("place" in note for note in reading.notes))

    def test_a_figure_that_is_not_given_says_why(self) -> None:
        changes = dict(silence=None, cycles=2, grid=1)
        plain = read(asked(**changes), **changes).plain()
        for name in ("tendency", "variability", "correction", "rhythm", "swing", "course", "fatigue", "places"):
            with self.subTest(name):
                self.assertIsNone(plain[name])
                if name != "swing":  # a part of the rhythm
                    self.assertTrue(any(note.startswith(f"{name}: ") for note in plain["notes"]))


class BadOnsetsTests(TestCase):
    def test_refused_with_the_place(self) -> None:
        cases = (
            ([1.2, 1.0], "not_ascending", "onsets_s must ascend: 1.0 s after 1.2 s at index 1"),
            ([1.0, float("nan")], "not_finite", "onsets_s must be finite: nan at index 1"),
            ([[1.0]], "not_1d", "onsets_s must have one dimension, not 2"),
            ([1e9], "out_of_range", "onsets_s must lie within"),
        )
        for onsets, code, message in cases:
            with self.subTest(code), self.assertRaises(GiustoError) as caught:
                read(onsets)
            self.assertEqual(caught.exception.code, code)
            self.assertIn(message, str(caught.exception))


class PropertyTests(TestCase):
    @given(seed=st.integers(0, 10_000), shift_ms=st.floats(-50, 50), on=st.sampled_from([None, ["2", "4"], ["1"]]))
    @settings(max_examples=15, deadline=None)
    def test_a_constant_delay_changes_no_drift_and_no_tempo(
        self, seed: int, shift_ms: float, on: list[str] | None
    ) -> None:
        changes = dict(bpm=84) if on is None else dict(bpm=84, on=on, silence=None, cycles=8)
        onsets = simulate(planned(**changes), SimulatedPlayer(missed=0.02), seed=seed).onsets_s
        before, after = read(onsets, **changes), read(onsets + shift_ms / 1000, **changes)
        for one, other in zip(before.silences, after.silences, strict=True):
            # Exact but for the search for the noise sizes, which stops at a tolerance, and rounding.
            assert_allclose(one.drift_ms, other.drift_ms, rtol=0, atol=0.05)
            assert_allclose(one.tempo_bpm, other.tempo_bpm, rtol=0, atol=0.005)
            assert_allclose(one.return_ms, other.return_ms, rtol=0, atol=0.05)
        assert_allclose(after.heard.mean_error_ms - before.heard.mean_error_ms, shift_ms, rtol=0, atol=0.01)

    @given(st.lists(st.floats(-5, 60), max_size=150).map(sorted))
    @settings(max_examples=25, deadline=None)
    def test_any_onsets_give_valid_json(self, onsets: list[float]) -> None:
        plain = read(onsets).plain()
        validator = jsonschema.Draft202012Validator(json_schema())
        self.assertEqual(list(validator.iter_errors(json.loads(json.dumps(plain, allow_nan=False)))), [])


class SchemaTests(TestCase):
    def test_published_schema_is_current(self) -> None:
        self.assertEqual(json.loads(SCHEMA.read_text()), json.loads(json.dumps(json_schema())))


class RecoveryTests(TestCase):
    def test_unlabelled_notes_give_the_true_drift(self) -> None:
        """The whole way, matching included, with missed and extra notes."""
        errors, known, inside = [], [], []
        for seed in range(24):
            plan = planned(silence=fixed(2, 2), grid=2)
            player = SimulatedPlayer(bias_percent=0.4 * (seed - 11.5), missed=0.03, extra=0.03)
            take = simulate(plan, player, seed=seed)
            known.extend(oracle_drift_ms(plan, player, take) - 1000 * take.drift_s)
            for silence, truth in zip(analyse(plan, take.onsets_s).reading.silences, 1000 * take.drift_s, strict=True):
                errors.append((silence.drift_ms or np.nan) - truth)
                low, high = silence.ci95_ms or (np.nan, np.nan)
                inside.append(low <= truth <= high)
        # Beside a smoother that is told labels and sizes; the bench measures the bar of 1.05 on many more.
        self.assertLess(np.sqrt(np.mean(np.square(errors))), 1.15 * np.sqrt(np.mean(np.square(known))))
        self.assertGreaterEqual(np.mean(inside), 0.88)  # 96 silences of 24 takes: se .03


class SlipTests(TestCase):
    def test_a_drift_of_whole_beats_is_a_drift_with_its_size_and_tempo_right(self) -> None:
        for beats in (-2.0, -1.0, 1.0, 2.0):
            plan = planned(silence=fixed(2, 12), cycles=14, grid=2)
            take = simulate(
                plan, SimulatedPlayer(bias_percent=100 * (1 / (1 + beats / 49) - 1), clock_percent=1.0), seed=4
            )
            found = analyse(plan, take.onsets_s).reading.silences[0]
            self.assertEqual(found.slip_beats, 0)  # the notes lead there: a drift, however far
            assert_allclose(found.drift_ms, 1000 * take.drift_s[0], rtol=0, atol=40)
            assert_allclose(found.tempo_percent, 100 * (1 / (1 + take.drift_s[0] / 30.625) - 1), rtol=0, atol=0.15)

    def test_which_way_can_not_be_told_with_holes(self) -> None:
        plan = planned(silence=fixed(2, 12), cycles=14, grid=2)
        take = simulate(plan, SimulatedPlayer(bias_percent=-2.1, missed=0.25), seed=4)
        reading = analyse(plan, take.onsets_s).reading
        self.assertTrue(any("the notes alone can't say" in note for note in reading.notes))


class PlainTests(TestCase):
    def test_a_reading_comes_back_from_json(self) -> None:
        reading = taken(SimulatedPlayer(bias_percent=-1.0, missed=0.02))
        self.assertEqual(parse(json.loads(json.dumps(reading.plain()))), reading)

    def test_a_reading_of_the_first_contract_is_read(self) -> None:
        """Later fields (decision 13) were not in it, and no unknown field is a fault."""
        plain = json.loads(json.dumps(taken(SimulatedPlayer(bias_percent=-1.0)).plain()))
        later = ("lengths", "swing", "course", "together", "fatigue", "places", "missing")
        first = {name: value for name, value in plain.items() if name not in later}
        del (
            first["heard"]["interval_sd_ms"],
            first["variability"]["clock_ci95_ms"],
            first["variability"]["motor_ci95_ms"],
        )
        for silence in first["silences"]:
            for name in ("lean_percent", "lean_ci95_percent", "course", "slip_beats"):
                silence.pop(name, None)
        found = parse(first | {"something": "new"})
        self.assertEqual([s.drift_ms for s in found.silences], [s["drift_ms"] for s in plain["silences"]])
        self.assertEqual((found.missing, found.silences[0].lean_percent), ([], None))
        self.assertEqual(found.tendency.tempo_percent, plain["tendency"]["tempo_percent"])


class TempoStepTests(TestCase):
    def test_each_silence_is_read_against_its_own_tempo(self) -> None:
        plan = schedule(validate(climbing(60, cycles=33, every_cycles=4, by=10, to=110)))
        asked = [plan.bpm_in(silence) for silence in plan.silences]
        self.assertEqual(asked, [60, 80, 100, 110])
        take = simulate(plan, SimulatedPlayer(bias_percent=2.0, clock_percent=0.5, hand_ms=3, alpha=0.5), seed=3)
        reading = analyse(plan, take.onsets_s).reading
        for silence, bpm, drift_s in zip(reading.silences, asked, take.drift_s.tolist(), strict=True):
            self.assertAlmostEqual(silence.drift_ms, 1000 * drift_s, delta=25)
            self.assertAlmostEqual(silence.tempo_bpm, bpm * (1 + silence.tempo_percent / 100), delta=0.01)
            self.assertTrue(-1 < silence.tempo_percent - 2 < 1, silence.tempo_percent)
        self.assertTrue(reading.tendency.ci95_percent[0] < 2.0 < reading.tendency.ci95_percent[1])
