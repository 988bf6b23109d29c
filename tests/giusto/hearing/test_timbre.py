"""Instruments learned: told from each other and from a room, by sounds of our own making (simulation.instrument)."""

from __future__ import annotations

from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giusto.arrays import FloatArray
from giusto.errors import GiustoError
from giusto.hearing import timbre as module
from giusto.hearing.attack import Attacks
from giusto.hearing.level import Gate
from giusto.hearing.microphone import KnownOfSound, through_microphone
from giusto.hearing.onsets import Heard, onsets
from giusto.hearing.recording import heard
from giusto.hearing.sound import Samples
from giusto.hearing.timbre import LESS, MOST, Timbre, learned, timbre, told_apart
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

    def test_no_more_than_two_dozen_strokes_are_learned(self) -> None:
        sound, _ = played(["wood"] * (MOST + 3), seed=2)
        self.assertEqual(learned(sound, "wood").shapes.shape[0], MOST)
        self.assertEqual(learned(sound, "wood", gate=Gate(-50.0, 0.5)).shapes.shape[0], (MOST + 3 + 1) // 2)


class ByHandTests(TestCase):
    """Shapes and loudness that are written down: no sound is read."""

    def test_how_alike_an_instruments_own_strokes_are(self) -> None:
        """Each to its nearest four; a tenth are less."""
        shapes = 3.0 * np.eye(3)[[0] * 8 + [1]]
        one = timbre("drum", shapes)
        np.testing.assert_allclose(one.shapes, np.eye(3)[[0] * 8 + [1]])  # of length 1
        self.assertAlmostEqual(one.own, float(np.quantile([1.0] * 8 + [0.0], 0.1)))
        self.assertEqual(timbre("drum", np.eye(3)[[0] * 4 + [1] * 4]).own, 0.75)  # three others, and one unlike

    def told(self, loudness: list[float], angles: list[float], *known: Timbre) -> tuple[list[str], list[float], int]:
        """Return what is told of onsets a second apart whose shapes stand at some angles, in degrees."""
        at = np.radians(angles)
        shapes = np.stack([np.cos(at), np.sin(at)], axis=1)
        heard = Heard(np.arange(len(angles), dtype=float), np.linspace(0.1, 0.9, len(angles)), 2)
        found = Attacks(np.array(loudness), shapes, np.ones_like(shapes))
        with patch.object(module, "attacks", lambda *_: found):
            names, kept, left_out = told_apart(Samples(np.zeros(1), RATE_HZ), heard, known)
        self.assertEqual(kept.others, 2)
        self.assertEqual(kept.strength.tolist(), heard.strength[np.isin(heard.onset_s, kept.onset_s)].tolist())
        return names.tolist(), kept.onset_s.tolist(), left_out

    def instrument(self, name: str, degrees: float) -> Timbre:
        """Return an instrument all of whose strokes stand at an angle."""
        at = np.radians(degrees)
        return timbre(name, np.tile([np.cos(at), np.sin(at)], (8, 1)))

    def test_each_is_of_what_it_is_most_alike_to(self) -> None:
        skin, wood = self.instrument("skin", 0), self.instrument("wood", 90)
        self.assertEqual(
            self.told([-6.0] * 4, [10, 80, 20, 44], skin, wood),
            (["skin", "wood", "skin", ""], [0, 1, 2, 3], 0),  # between both, and loud: played, on neither
        )

    def test_soft_and_unlike_is_left_out_loud_or_like_is_not(self) -> None:
        skin = self.instrument("skin", 0)
        border = float(np.degrees(np.arccos(1 - LESS)))
        loudness = [-6.0] * 20 + [-17.9, -18.1, -40.0, -40.0]
        angles = [0.0] * 20 + [60.0, 60.0, border - 1, border + 1]
        names, kept_s, left_out = self.told(loudness, angles, skin)
        self.assertEqual(kept_s, [*range(21), 22])
        self.assertEqual(names, ["skin"] * 20 + ["", "skin"])
        self.assertEqual(left_out, 2)

    def test_where_most_loud_ones_are_unlike_nobody_learned_it(self) -> None:
        skin = self.instrument("skin", 0)
        for unlike, is_learned in ((10, True), (11, False)):
            angles = [60.0] * unlike + [0.0] * (20 - unlike) + [60.0]
            names, kept_s, left_out = self.told([-6.0] * 20 + [-40.0], angles, skin)
            self.assertEqual(left_out, int(is_learned), unlike)
            self.assertEqual(len(kept_s), 21 - left_out)
            self.assertEqual("skin" in names, is_learned)

    def test_what_was_learned_by_other_bands_is_not_compared(self) -> None:
        wide = timbre("wide", np.ones((8, 3)))
        self.assertEqual(self.told([-6.0, -40.0], [0, 60], wide), (["", ""], [0, 1], 0))
        skin = self.instrument("skin", 0)
        self.assertEqual(self.told([-6.0] * 2, [0, 5], wide, skin)[0], ["skin", "skin"])
