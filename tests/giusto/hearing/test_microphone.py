"""A take through the microphone of the machine that plays: delay, bleed, a part of a take, the level and its gate."""

from __future__ import annotations

from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.said import word_samples
from giusto.hearing import microphone
from giusto.hearing.faint import _first_of_the_best, find_faint
from giusto.hearing.level import Gate, level_of
from giusto.hearing.microphone import UNCALIBRATED, KnownOfSound, round_trip_s, through_microphone
from giusto.hearing.onsets import REFRACTORY_S, Heard, onsets
from giusto.hearing.recorder_clock import ClockLine
from giusto.hearing.recording import Recording
from giusto.hearing.sound import Samples
from giusto.notes.record import notes_of
from giusto.reading import analyse
from giusto.simulation.hearing_benchmark import taken
from giusto.simulation.instrument import LEAD_S, SOUNDS, Room, recording, strike
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import planned

PLAN = planned(cycles=16)
RATE_HZ = 44_100


def take(room: Room, seed: int = 3) -> tuple[Samples, FloatArray]:
    """Return what a microphone hears of a take, and when its notes were played."""
    onsets_s = simulate(PLAN, SimulatedPlayer(bias_percent=-1.2, hand_ms=6.0), seed=seed).onsets_s
    return Samples(recording(PLAN, onsets_s, room, seed=seed), RATE_HZ), onsets_s


class MicrophoneTests(TestCase):
    def test_through_loudspeaker_and_microphone_it_reads_as_it_was_played(self) -> None:
        sound, played_s = take(Room("skin", -25.0, -60.0, 43.0))
        known = KnownOfSound(LEAD_S, None, "wood", Gate())
        found = through_microphone(sound, PLAN, known)
        self.assertEqual((found.line.by, found.remarks), ("bleed", ()))
        self.assertAlmostEqual(round_trip_s(found, known, 40.0) or 0.0, 0.043, delta=0.0003)
        nearest = np.array([found.notes.onset_s[np.argmin(np.abs(found.notes.onset_s - at))] - at for at in played_s])
        self.assertGreater(np.mean(np.abs(nearest) < 0.01), 0.98)
        self.assertLess(1000 * np.std(nearest[np.abs(nearest) < 0.01]), 1.0)  # the bar
        ours, theirs = analyse(PLAN, found.notes).reading, analyse(PLAN, played_s).reading
        for one, other in zip(ours.silences, theirs.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0, other.drift_ms or 0, delta=3.0)

    def test_headphones_take_the_calibrated_delay_or_say_that_there_is_none(self) -> None:
        sound, played_s = take(Room("wood", None, -60.0, 43.0))
        for delay_s, off_s, said in ((0.043, 0.0, ()), (None, 0.043, (UNCALIBRATED,))):
            found = through_microphone(sound, PLAN, KnownOfSound(LEAD_S, delay_s, "wood", Gate()))
            self.assertEqual((found.line.by, found.remarks), ("clock", said))
            self.assertEqual(len(found.notes), played_s.size)
            self.assertAlmostEqual(float(np.median(found.notes.onset_s - played_s)), off_s, delta=0.0015)

    def test_a_click_too_faint_to_be_timed_one_by_one_is_found_by_all_of_them(self) -> None:
        for sound_of, bleed_db in (("wood", -40.0), ("metal", -33.0)):
            sound, _ = take(Room(sound_of, bleed_db, -60.0, 38.0), seed=1)
            found = through_microphone(sound, PLAN, KnownOfSound(LEAD_S, None, "wood", Gate()))
            self.assertEqual(found.line.by, "bleed")
            self.assertAlmostEqual(found.line.zero_s - LEAD_S, 0.038, delta=0.001)

    def test_where_no_click_is_heard_none_is_made_up(self) -> None:
        clicks_s = PLAN.seconds(PLAN.clicks.tick)
        for sound_of in SOUNDS:
            for seed in (1, 2):
                sound, _ = take(Room(sound_of, None, -60.0, 38.0), seed)
                self.assertIsNone(find_faint(sound, clicks_s, voice="wood", zero_s=(LEAD_S - 0.01, LEAD_S + 0.75)))

    def test_a_part_of_a_take_while_it_is_played(self) -> None:
        """From the second silence on: what is heard there is what the whole take says of it."""
        sound, played_s = take(Room("wood", -20.0, -60.0, 30.0))
        start_s = float(PLAN.seconds(PLAN.silences[1].start_tick)) - 6
        first, last = round((LEAD_S + start_s) * RATE_HZ), round((LEAD_S + start_s + 20) * RATE_HZ)
        part = Samples(sound.samples[first:last], RATE_HZ)
        found = through_microphone(part, PLAN, KnownOfSound(LEAD_S - first / RATE_HZ, None, "wood", Gate()))
        self.assertEqual(found.line.by, "bleed")
        here = played_s[(played_s > start_s + 0.2) & (played_s < start_s + 19.5)]
        near = np.array([np.min(np.abs(found.notes.onset_s - at)) for at in here])
        self.assertGreater(np.mean(near < 0.004), 0.95)
        self.assertLess(len(found.notes), 1.1 * here.size)


class DelayTests(TestCase):
    """Where the click is looked for, and what its place says of a delay: nothing is heard."""

    def looked(self, **known: float) -> tuple[list[tuple[float, float]], tuple[float, float]]:
        """Return between which times the click is looked for where it is never found, loud, then faint."""
        near: list[tuple[float, float]] = []
        faint: list[tuple[float, float]] = []

        def nowhere(*_: object, zero_s: tuple[float, float], **__: object) -> None:
            near.append(zero_s)

        def faintly(*_: object, zero_s: tuple[float, float], **__: object) -> None:
            faint.append(zero_s)

        told = KnownOfSound(**({"zero_s": 2.0, "delay_s": None, "voice": "wood", "gate": Gate()} | known))
        with patch.object(microphone, "find_click", nowhere), patch.object(microphone, "find_faint", faintly):
            through_microphone(Samples(np.zeros(RATE_HZ), RATE_HZ), PLAN, told)
        return near, faint[0]

    def test_near_the_calibrated_delay_first_then_anywhere(self) -> None:
        near, faint = self.looked(delay_s=0.3)
        np.testing.assert_allclose(near, [(2.2, 2.4), (1.99, 2.75)])
        np.testing.assert_allclose(faint, (2.2, 2.4))
        near, faint = self.looked()
        np.testing.assert_allclose(near, [(1.99, 2.75)])
        np.testing.assert_allclose(faint, (1.99, 2.75))
        near, _ = self.looked(zero_half_s=0.05)  # another clock told when it was sent
        np.testing.assert_allclose(near, [(1.94, 2.80)])

    def test_notes_from_a_second_before_the_drill_to_two_after_it_are_of_it(self) -> None:
        end_s = float(PLAN.seconds(PLAN.end_tick))
        at_s = np.array([-1.1, -0.9, 5.0, end_s + 1.9, end_s + 2.1])
        heard = Heard(10.0 + at_s, np.array([0.1, 0.2, 0.3, 0.4, 0.5]))
        sound = Samples(np.zeros(round((12 + end_s) * 100)), 100)
        nothing = dict.fromkeys(("find_click", "find_faint"), lambda *_, **__: None)
        with patch.multiple(microphone, onsets=lambda _: heard, **nothing):
            found = through_microphone(sound, PLAN, KnownOfSound(10.0, 0.0, "wood", Gate()))
        np.testing.assert_allclose(found.notes.onset_s, at_s[1:4])
        np.testing.assert_allclose(found.notes.strength, [0.2, 0.3, 0.4])

    def test_the_round_trip_is_what_the_bleed_lies_after_what_was_sent(self) -> None:
        told = KnownOfSound(2.0, None, "wood", Gate())
        for by, expected in (("bleed", 0.043 + 40 * 1e-4), ("clock", None)):
            line = ClockLine(2.043, (2.04, 2.05), 100.0, None, by)
            found = round_trip_s(Recording(notes_of([]), line, "sound", ()), told, 40.0)
            if expected is None:
                self.assertIsNone(found)
            else:
                self.assertAlmostEqual(found or 0.0, expected)

    def test_an_earlier_lag_that_is_nearly_as_good_comes_first(self) -> None:
        lags = np.array([10, 40, 120, 130, 300])
        for alike, expected in (
            ([0.1, 0.2, 0.3, 0.4, 1.0], 4),
            ([0.1, 0.8, 0.3, 0.4, 1.0], 1),
            ([0.85, 0.8, 0.3, 0.4, 1.0], 0),
            ([0.1, 0.79, 0.3, 0.4, 1.0], 4),
            ([0.1, 0.2, 0.9, 1.0, 0.3], 3),  # too near to be another
        ):
            self.assertEqual(_first_of_the_best(lags, np.array(alike), 50), expected, alike)
        self.assertEqual(_first_of_the_best(lags, np.array([0.9, 0, 0, 1.0, 0]), 120), 3)
        self.assertEqual(_first_of_the_best(lags, np.array([0.9, 0, 0, 1.0, 0]), 119), 0)


def strokes(sound: str, *, loud: float, noise_db: float, every_s: float = 0.6) -> Samples:
    """Return three seconds of strokes in a room."""
    generator = np.random.default_rng(4)
    found = 10 ** (noise_db / 20) * generator.standard_normal(3 * RATE_HZ)
    for at_s in np.arange(0.2, 2.6, every_s).tolist():
        stroke = loud * strike(sound, generator, rate_hz=RATE_HZ)
        at = round(at_s * RATE_HZ)
        found[at : at + stroke.size] += stroke[: found.size - at]
    return Samples(np.clip(found, -1, 1), RATE_HZ)


class LevelTests(TestCase):
    def test_each_word(self) -> None:
        for code, loud, noise_db in (
            ("good", 0.4, -65.0),
            ("soft", 0.02, -75.0),
            ("noise", 0.2, -26.0),
            ("clipping", 3.0, -60.0),
            ("silent", 0.0, -70.0),
        ):
            with self.subTest(code):
                self.assertEqual(level_of(strokes("wood", loud=loud, noise_db=noise_db)).code, code)
        self.assertEqual(level_of(Samples(np.zeros(0), RATE_HZ)).code, "silent")

    def test_three_samples_at_full_scale_clip_and_two_do_not(self) -> None:
        for count, code in ((2, "good"), (3, "clipping"), (8, "clipping")):
            samples = strokes("wood", loud=0.4, noise_db=-65.0).read(0, 3 * RATE_HZ).copy()
            samples[int(np.argmax(np.abs(samples))) :][:count] = 1.0
            self.assertEqual(level_of(Samples(samples, RATE_HZ)).code, code, count)

    def test_the_gate_lies_between_room_and_strokes_and_keeps_them_all(self) -> None:
        for noise_db in (-65.0, -50.0):
            level = level_of(strokes("wood", loud=0.4, noise_db=noise_db))
            self.assertTrue(level.room_db < level.gate.threshold_db < level.peak_db - 10)
            np.testing.assert_allclose(level.onset_s, [0.2, 0.8, 1.4, 2.0], rtol=0, atol=0.002)

    def test_what_is_too_soft_or_too_soon_is_no_note(self) -> None:
        found = Heard(np.array([0.0, 0.05, 0.2, 0.4]), np.array([0.9, 0.5, 0.3, 0.8]))
        passed = Gate(threshold_db=-36.0, refractory_s=0.06).passed(found)  # strength 0.4
        np.testing.assert_array_equal(passed.onset_s, [0.0, 0.4])

    def test_a_word_of_two_sounds_is_one_note_once_it_was_heard(self) -> None:
        """Counted aloud, by the words that ship: *three* and *four* begin 60 to 70 ms before their vowels."""
        words = [word_samples(word, rate_hz=RATE_HZ).astype(np.float64) for word in ("one", "two", "three", "four")]
        said = [word / np.max(np.abs(word)) for word in words]
        check, take = (
            Samples(taken("count", said * rounds, noise_db=-60, seed=seed, apart_s=0.5).samples, RATE_HZ)
            for rounds, seed in ((2, 1), (10, 2))
        )
        gate = level_of(check).gate
        self.assertEqual(len(Gate().passed(onsets(take)).onset_s), 60)  # without: half of them twice
        found = gate.passed(onsets(take)).onset_s
        self.assertEqual(found.size, 40)
        self.assertGreater(float(np.diff(found).min()), 0.3)

    def test_one_double_among_single_strokes_leaves_fast_notes_alone(self) -> None:
        samples = 1e-3 * np.random.default_rng(3).standard_normal(3 * RATE_HZ)
        for start in np.round(np.array([0.3, 0.9, 1.5, 1.57, 2.1]) * RATE_HZ).astype(int).tolist():
            stroke = 0.4 * strike("wood", np.random.default_rng(4), rate_hz=RATE_HZ)[: samples.size - start]
            samples[start : start + stroke.size] += stroke
        level = level_of(Samples(samples, RATE_HZ))
        self.assertEqual((level.gate.refractory_s, level.onset_s.size), (REFRACTORY_S, 5))
