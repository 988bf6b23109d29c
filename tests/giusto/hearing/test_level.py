"""How well an instrument is heard, and what counts as its note: by levels and gaps that are written down."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.hearing.level import Gate, _code, _db, _refractory_s, level_of
from giusto.hearing.onsets import REFRACTORY_S, SOFTEST_DB, Heard
from giusto.hearing.sound import Samples

LOUD = 1.0


def strokes(*gaps_s: float, softer_db: tuple[float, ...] = ()) -> Heard:
    """Return strokes so far apart, each as loud as full scale but for those that are told to be softer."""
    at_s = np.concatenate([[0.0], np.cumsum(gaps_s)])
    strength = np.full(at_s.size, LOUD)
    for index, db in enumerate(softer_db):
        strength[index] -= db / -SOFTEST_DB
    return Heard(at_s, strength)


class CodeTests(TestCase):
    def test_where_each_word_begins(self) -> None:
        for peak_db, room_db, clipped, notes, expected in (
            (-6.0, -60.0, 0, 5, "good"),
            (0.0, -60.0, 2, 5, "good"),
            (0.0, -60.0, 3, 5, "clipping"),
            (0.0, -60.0, 3, 0, "clipping"),
            (-6.0, -60.0, 0, 0, "silent"),
            (-55.0, -80.0, 0, 5, "soft"),
            (-55.1, -80.0, 0, 5, "silent"),
            (-30.0, -60.0, 0, 5, "good"),
            (-30.1, -60.0, 0, 5, "soft"),
            (-6.0, -24.0, 0, 5, "good"),
            (-6.0, -23.9, 0, 5, "noise"),
            (-40.0, -50.0, 0, 5, "noise"),
        ):
            self.assertEqual(_code(peak_db, room_db, clipped, notes), expected, (peak_db, room_db, clipped, notes))

    def test_decibels_of_full_scale(self) -> None:
        for amplitude, expected in ((1.0, 0.0), (0.5, -6.0), (0.1, -20.0), (0.0, -120.0)):
            self.assertEqual(_db(amplitude), expected)


class GateTests(TestCase):
    def test_as_loud_as_it_is_passes_and_softer_does_not(self) -> None:
        found = strokes(0.5, 0.5, softer_db=(29.0, 30.0, 31.0))
        self.assertEqual(Gate(-30.0).passed(found).onset_s.tolist(), [0.0, 0.5])
        self.assertEqual(Gate(-30.0, 0.5).passed(found).onset_s.tolist(), [0.0, 0.5])  # just so far apart
        self.assertEqual(Gate(-30.0, 0.51).passed(found).onset_s.tolist(), [0.0])

    def test_time_counts_from_the_last_that_passed(self) -> None:
        self.assertEqual(Gate(-50.0, 0.1).passed(strokes(0.0625, 0.0625, 0.0625)).onset_s.tolist(), [0.0, 0.125])

    def test_what_was_left_out_before_stays_told(self) -> None:
        self.assertEqual(Gate().passed(Heard(np.array([0.0]), np.array([1.0]), 7)).others, 7)


class RefractoryTests(TestCase):
    def test_longer_than_the_longest_bounce(self) -> None:
        found = strokes(0.04, 0.6, 0.05, 0.6, 0.03, 0.6, softer_db=(0, 12, 0, 13, 0, 20, 0))
        self.assertEqual(_refractory_s(found), 0.058)  # 50 ms and eight more

    def test_as_loud_it_is_a_note_and_later_it_is_none_of_its_bounces(self) -> None:
        self.assertEqual(_refractory_s(strokes(0.05, 0.6, softer_db=(0, 11, 0))), REFRACTORY_S)
        self.assertEqual(_refractory_s(strokes(0.056, 0.6, softer_db=(0, 20, 0))), REFRACTORY_S)
        self.assertEqual(_refractory_s(strokes(0.054, 0.6, softer_db=(0, 20, 0))), 0.062)

    def test_never_shorter_than_ours(self) -> None:
        self.assertEqual(_refractory_s(strokes(0.004, 0.6, softer_db=(0, 20, 0))), REFRACTORY_S)
        self.assertEqual(_refractory_s(strokes(0.6, 0.6)), REFRACTORY_S)
        self.assertEqual(_refractory_s(Heard(np.zeros(0), np.zeros(0))), REFRACTORY_S)

    def test_what_comes_in_two_time_after_time_is_one_stroke(self) -> None:
        """Consonant and vowel, as loud: two of two, and half of many; once is a slip, and close ones were played so."""
        self.assertEqual(_refractory_s(strokes(0.08, 0.5, 0.07, 0.5)), 0.088)
        self.assertEqual(_refractory_s(strokes(0.08, 0.5, 0.5)), REFRACTORY_S)  # once
        self.assertEqual(_refractory_s(strokes(0.08, 0.5, 0.07, 0.201)), 0.088)
        self.assertEqual(_refractory_s(strokes(0.08, 0.5, 0.07, 0.195)), REFRACTORY_S)  # the rest is no 200 ms apart
        self.assertEqual(_refractory_s(strokes(0.08, 0.095, 0.07, 0.5)), REFRACTORY_S)  # 95 ms are apart
        self.assertEqual(_refractory_s(strokes(*[0.08, 0.5] * 2, *[0.5] * 5)), 0.088)  # two of eight
        self.assertEqual(_refractory_s(strokes(*[0.08, 0.5] * 2, *[0.5] * 6)), REFRACTORY_S)  # two of nine
        self.assertEqual(_refractory_s(strokes(0.08, 0.07)), REFRACTORY_S)  # nothing apart: a roll


class LevelOfTests(TestCase):
    def test_the_room_is_the_quietest_fifth_and_the_gate_lies_between(self) -> None:
        """A square wave's loudness is its height: a room of −60 dB for a second of four, −40 else, peaks of −6."""
        rate_hz = 8_000
        height = np.where(np.arange(4 * rate_hz) < rate_hz, 1e-3, 1e-2)
        samples = height * np.where(np.arange(4 * rate_hz) % 2, 1.0, -1.0)
        samples[2 * rate_hz] = -0.5
        found = level_of(Samples(samples, rate_hz))
        self.assertEqual((found.peak_db, found.room_db), (-6.0, -60.0))
        self.assertEqual(found.gate.threshold_db, -40.0)  # 34 below the peak, where the room is 54 below it
        loud = np.where(np.arange(4 * rate_hz) % 2, 0.06, -0.06)
        loud[2 * rate_hz] = 0.5
        self.assertEqual(level_of(Samples(loud, rate_hz)).gate.threshold_db, -20.0)  # never higher
        quiet = samples / 100
        self.assertEqual(level_of(Samples(quiet, rate_hz)).gate.threshold_db, -60.0)  # never lower
        noisy = np.where(np.arange(4 * rate_hz) % 2, 0.0178, -0.0178)  # −35 dB
        noisy[2 * rate_hz] = 0.5
        self.assertEqual(level_of(Samples(noisy, rate_hz)).gate.threshold_db, -26.0)  # nine above the room
