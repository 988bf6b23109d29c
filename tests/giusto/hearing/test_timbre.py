"""Instruments learned: told from each other and from a room, by sounds of our own making (simulation.instrument)."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing.level import Gate
from giusto.hearing.microphone import KnownOfSound, through_microphone
from giusto.hearing.onsets import onsets
from giusto.hearing.recording import heard
from giusto.hearing.sound import Samples
from giusto.hearing.timbre import Timbre, learned, timbre, told_apart
from giusto.simulation.groove import groove
from giusto.simulation.hearing_benchmark import apart
from giusto.simulation.instrument import SOUNDS, strike
from tests.drills import planned

RATE_HZ, APART_S = 44_100, 0.35


def played(sounds: list[str], *, seed: int, loud: tuple[float, float] = (0.12, 0.5)) -> tuple[Samples, FloatArray]:
    """Return strokes of some instruments one after the other, and when they are."""
    rng = np.random.default_rng(seed)
    found = 1e-3 * rng.standard_normal(round((len(sounds) * APART_S + 2) * RATE_HZ))
    truth_s = 0.5 + APART_S * np.arange(len(sounds)) + 0.004 * rng.standard_normal(len(sounds))
    for sound, at_s in zip(sounds, truth_s.tolist(), strict=True):
        stroke, at = rng.uniform(*loud) * strike(sound, rng, rate_hz=RATE_HZ), round(at_s * RATE_HZ)
        found[at : at + stroke.size] += stroke[: found.size - at]
    return Samples(np.clip(found, -1, 1), RATE_HZ), truth_s


def known(*names: str) -> list[Timbre]:
    """Return instruments as ten strokes of each teach them."""
    return [learned(played([name] * 10, seed=50)[0], name) for name in names]


class TimbreTests(TestCase):
    def test_two_instruments_are_told_apart(self) -> None:
        for one, other in (("skin", "wood"), ("wood", "metal"), ("string", "skin"), ("metal", "string")):
            which = [(one, other)[k] for k in np.random.default_rng(2).integers(0, 2, 50)]
            sound, truth_s = played(which, seed=7)
            names, kept, left_out = told_apart(sound, onsets(sound), known(one, other))
            nearest = np.argmin(np.abs(truth_s[:, None] - kept.onset_s), axis=1)
            self.assertGreaterEqual(float(np.mean(names[nearest] == np.array(which))), 0.98, (one, other))
            self.assertLessEqual(left_out, 1)

    def test_the_bench_counts_what_was_not_heard_as_wrong(self) -> None:
        strokes = {
            name: [strike(name, np.random.default_rng(k), rate_hz=RATE_HZ) for k in range(12)] for name in SOUNDS[:2]
        }
        self.assertGreaterEqual(apart(strokes, seed=3), 0.95)
        alike = {"one": strokes["wood"], "other": strokes["wood"]}
        self.assertLess(apart(alike, seed=3), 0.75)

    def test_what_is_soft_and_unlike_is_left_out_and_own_soft_notes_stay(self) -> None:
        """A groove that begins late behind a drum: too few strokes to be known as somebody else's without the drum."""
        sound, truth_s = played(["skin"] * 40, seed=4, loud=(0.05, 0.5))
        behind = groove(sound.frames, peak_db=-26.0, seed=3, rate_hz=RATE_HZ)
        behind[: -3 * RATE_HZ] = 0.0  # it begins late
        both = Samples(np.clip(sound.read(0, sound.frames) + behind, -1, 1), RATE_HZ)
        heard = onsets(both)
        names, kept, left_out = told_apart(both, heard, known("skin"))
        self.assertGreater(left_out, 0)
        missed = [at for at in truth_s.tolist() if np.min(np.abs(kept.onset_s - at)) > 0.025]
        self.assertLessEqual(len(missed), 1)
        self.assertEqual(len(names), len(kept.onset_s))
        self.assertLess(len(kept.onset_s), len(heard.onset_s))

    def test_an_instrument_that_nobody_learned_is_heard_as_before(self) -> None:
        sound, _ = played(["metal"] * 30, seed=9)
        names, kept, left_out = told_apart(sound, onsets(sound), known("skin", "wood"))
        self.assertEqual((set(names.tolist()), left_out, len(kept.onset_s)), ({""}, 0, len(onsets(sound).onset_s)))

    def test_nothing_learned_nothing_heard_and_another_rate(self) -> None:
        sound, _ = played(["wood"] * 12, seed=1)
        silence = Samples(np.zeros(RATE_HZ), RATE_HZ)
        low = Samples(sound.read(0, sound.frames)[::4], RATE_HZ // 4)
        for some, what in ((sound, []), (silence, known("wood")), (low, known("wood"))):
            names, kept, left_out = told_apart(some, onsets(some), what)
            self.assertEqual((len(names), left_out), (len(kept.onset_s), 0))

    def test_too_few_strokes_and_shapes_that_are_none_are_refused(self) -> None:
        with self.assertRaisesRegex(GiustoError, "stand clear, and 8 are needed"):
            learned(played(["wood"] * 5, seed=1)[0], "wood")
        for shapes in ([], [[1.0] * 5] * 7, [[1.0] * 27] * 9, [[-1.0] * 5] * 9, [[float("nan")] * 5] * 9, [1.0] * 9):
            with self.assertRaises(GiustoError):
                timbre("drum", np.array(shapes))

    def test_kept_as_numbers_it_is_the_same(self) -> None:
        one = known("wood")[0]
        again = timbre("wood", one.shapes.round(4))
        self.assertAlmostEqual(again.own, one.own, places=3)

    def test_a_take_says_on_what_each_note_was_played(self) -> None:
        plan = planned(cycles=4, grid=1)
        asked_s = plan.seconds(plan.notes.tick)
        rng = np.random.default_rng(3)
        sound = 1e-3 * rng.standard_normal(round((float(plan.seconds(plan.end_tick)) + 2) * RATE_HZ))
        for number, at_s in enumerate(asked_s.tolist()):
            stroke, at = 0.4 * strike(("skin", "wood")[number % 2], rng, rate_hz=RATE_HZ), round((1 + at_s) * RATE_HZ)
            sound[at : at + stroke.size] += stroke[: sound.size - at]
        told = KnownOfSound(1.0, 0.0, "wood", Gate(), tuple(known(*SOUNDS)))
        samples = Samples(np.clip(sound, -1, 1), RATE_HZ)
        dropped = heard(samples, plan, timbres=told.timbres).notes  # as a recording
        self.assertEqual(dropped.source.tolist(), [("skin", "wood")[k % 2] for k in range(asked_s.size)])
        notes = through_microphone(samples, plan, told).notes
        self.assertEqual(len(notes), asked_s.size)
        self.assertEqual(notes.source.tolist(), [("skin", "wood")[k % 2] for k in range(asked_s.size)])
