"""The counting voice: the words of the counting schools, each with its onset on the click (common practice)."""

from __future__ import annotations

import tempfile
from pathlib import Path
from unittest import TestCase

import numpy as np
import soundfile
from scipy.signal import butter, sosfilt

from giusto.click.said import AFTER_S, LEAD_S, WORDS, file_of, said, word_samples
from giusto.click.sound import blocks, click_frames, write_sound
from giusto.drill.counting import SYLLABLES, counts
from giusto.errors import GiustoError
from tests.drills import planned

RATE_HZ = 48_000


class WordsTests(TestCase):
    def body(self, *, school: str = "syllables", **changes: object) -> list[str]:
        plan = planned(count_in=0, cycles=1, close=0, silence=None, **changes)
        return list(said(plan, school=school))

    def test_beats_are_numbers_and_their_parts_syllables(self) -> None:
        self.assertEqual(self.body(), ["one", "two", "three", "four"])
        self.assertEqual(self.body(on=["2", "4"]), ["two", "four"])
        self.assertEqual(self.body(on=["1+1/2", "4+1/2"]), ["and", "and"])
        self.assertEqual(self.body(beats=2, subdivide=2), ["one", "and", "two", "and"])
        self.assertEqual(self.body(beats=1, subdivide=4), ["one", "e", "and", "a"])
        self.assertEqual(self.body(beats=1, subdivide=3), ["one", "trip", "let"])
        self.assertEqual(self.body(beats=1, subdivide=4, school="takadimi"), ["one", "ka", "di", "mi"])
        self.assertEqual(self.body(beats=2, subdivide=2, school="numbers"), ["one", "two", "two", "two"])

    def test_a_swung_half_is_counted_as_the_half_that_it_is(self) -> None:
        self.assertEqual(self.body(beats=2, subdivide=2, swing=2), ["one", "and", "two", "and"])

    def test_it_counts_what_sounds_and_is_silent_where_the_click_is(self) -> None:
        plan = planned(cycles=4, close=0)
        words = said(plan)
        self.assertEqual(len(words), len(plan.clicks))
        self.assertEqual(words[:8], ("one", "two", "three", "four") * 2)  # the count-in, and the first bar

    def test_beats_beyond_the_twelfth_have_no_word(self) -> None:
        self.assertEqual(self.body(beats=14)[10:], ["eleven", "twelve", "", ""])

    def test_it_says_what_stands_in_the_line_of_counts(self) -> None:
        """The same words as are shown beside a figure (``giusto.drill.counting``)."""
        for school in SYLLABLES:
            plan = planned(count_in=0, cycles=1, close=0, silence=None, subdivide=2, grid=2)
            shown = [one.text for one in counts(plan.drill, school=school)]
            numbers = {str(n): word for n, word in enumerate(WORDS[:12], 1)}
            self.assertEqual(list(said(plan, school=school)), [numbers.get(text, text) for text in shown])


class SoundTests(TestCase):
    def test_every_word_is_there_and_nothing_else(self) -> None:
        self.assertEqual({file_of(word).name for word in WORDS}, {p.name for p in file_of("one").parent.glob("*.flac")})
        for rate_hz in (44_100, 48_000):
            for word in WORDS:
                samples = word_samples(word, rate_hz=rate_hz)
                self.assertAlmostEqual(samples.size / rate_hz, LEAD_S + AFTER_S, delta=0.001)
                self.assertLessEqual(float(np.max(np.abs(samples))), 1.0)

    def test_the_voice_of_each_sets_in_on_the_click(self) -> None:
        """Loudness between 250 and 2,500 Hz passes half of its most within 12 ms of the place (its smoothing: 20)."""
        band = butter(2, (250, 2500), "bandpass", fs=RATE_HZ, output="sos")
        smooth = np.hanning(round(0.02 * RATE_HZ))
        for word in WORDS:
            voiced = sosfilt(band, word_samples(word, rate_hz=RATE_HZ).astype(np.float64))
            loudness = np.sqrt(np.convolve(voiced**2, smooth / smooth.sum(), "same"))
            at_s = float(np.argmax(loudness > loudness.max() / 2)) / RATE_HZ
            self.assertAlmostEqual(at_s, LEAD_S, delta=0.012, msg=word)

    def test_counted_the_click_is_where_it_was_and_words_are_added(self) -> None:
        plan = planned(cycles=4, bpm=60)
        plainly = np.concatenate([*blocks(plan, voice="wood", rate_hz=RATE_HZ)])
        counted = np.concatenate([*blocks(plan, voice="wood", rate_hz=RATE_HZ, counted="syllables")])
        words = counted[: plainly.size] - plainly
        frames, lead = click_frames(plan, rate_hz=RATE_HZ), round(LEAD_S * RATE_HZ)
        three = frames[np.flatnonzero(np.array(said(plan)) == "three")[1]]
        expected = word_samples("three", rate_hz=RATE_HZ)
        np.testing.assert_allclose(words[three - lead : three - lead + expected.size], expected, rtol=0, atol=1e-6)
        alone = plan.silences[0]
        start, end = (round(float(plan.seconds(t)) * RATE_HZ) for t in (alone.start_tick, alone.end_tick))
        self.assertEqual(float(np.max(np.abs(words[start + RATE_HZ : end - lead]))), 0.0)

    def test_a_file_of_it(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "counted.flac"
            write_sound(planned(cycles=2), path, voice="felt", rate_hz=44_100, counted="takadimi")
            self.assertGreater(soundfile.info(path).duration, 7.0)

    def test_words_and_rates_that_are_none(self) -> None:
        for word, rate_hz in (("umpteen", 48_000), ("../../x", 48_000), ("one", 96_000)):
            with self.assertRaises(GiustoError):
                word_samples(word, rate_hz=rate_hz)
