"""Another's groove behind a take is left out; one's own soft notes, of whatever kind, are not."""

import tracemalloc
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing import others as module
from giusto.hearing.attack import Attacks
from giusto.hearing.onsets import onsets
from giusto.hearing.others import _in_time, covered_own, others, remarks_of
from giusto.hearing.sound import Samples
from giusto.simulation.hearing_benchmark import Sounding, beside_groove, heard, taken
from giusto.simulation.instrument import RATE_HZ, strike


def take_of(sound: str, *, seed: int = 1) -> Sounding:
    """Return sixty strokes from −18 to −3 dB, half a second apart or so."""
    return taken(
        sound, [strike(sound, np.random.default_rng(k), rate_hz=RATE_HZ) for k in range(60)], noise_db=-60, seed=seed
    )


def rhythm(*struck: tuple[str, int, int, float], steps: int, step_s: float) -> FloatArray:
    """Return a rhythm, even to 8 ms: a sound, on which steps of how many it falls, and its level in dB."""
    rng = np.random.default_rng(4)
    found = 1e-4 * rng.standard_normal(round((steps + 4) * step_s * RATE_HZ))
    for step in range(steps):
        at = round((0.5 + step * step_s + 0.008 * rng.standard_normal()) * RATE_HZ)
        for sound, first, every, level_db in struck:
            if step % every == first:
                stroke = 10 ** (level_db / 20) * strike(sound, rng, rate_hz=RATE_HZ)[: found.size - at]
                found[at : at + stroke.size] += stroke
    return found


class OthersTests(TestCase):
    def test_a_groove_behind_a_take_is_left_out(self) -> None:
        """The bar: F .9 beside a groove 20 dB below full scale, among strokes from 18 dB below; .6 without this."""
        for sound in ("skin", "wood", "string", "metal"):
            for seed in (1, 2):
                one = beside_groove(take_of(sound, seed=seed), seed=seed)
                found = onsets(Samples(one.samples, RATE_HZ))
                with self.subTest(sound, seed=seed):
                    self.assertGreaterEqual(heard(one, found.onset_s).f, 0.9)
                    self.assertGreater(found.others, 30)

    def test_soft_notes_under_anothers_strokes_are_ones_own(self) -> None:
        """Notes that swell for 20 ms, as of strings softly plucked: each groove's stroke hid those near it (F .86)."""
        time_s = np.arange(round(0.9 * RATE_HZ)) / RATE_HZ
        for seed in (1, 3):
            rng, notes = np.random.default_rng(seed), []
            for _ in range(60):
                pitch_hz = 196 * 2 ** (rng.integers(0, 12) / 12)
                partials = [
                    np.exp(-time_s * (1.5 + 0.5 * k))
                    / k
                    * np.sin(2 * np.pi * pitch_hz * k * time_s + rng.uniform(0, 6))
                    for k in range(1, 9)
                ]
                note = np.sum(partials, axis=0) * np.minimum(1, time_s / 0.02)
                notes.append(note / np.max(np.abs(note)))
            one = taken("soft", notes, noise_db=-60, seed=seed, stops=True)
            with self.subTest(seed=seed):
                self.assertGreaterEqual(heard(beside_groove(one, seed=seed)).f, 0.9)

    def test_alone_nothing_is_left_out(self) -> None:
        for sound in ("skin", "wood", "string", "metal"):
            with self.subTest(sound):
                self.assertEqual(onsets(Samples(take_of(sound).samples, RATE_HZ)).others, 0)

    def test_soft_notes_of_another_kind_that_stand_in_the_rhythm_are_ones_own(self) -> None:
        for struck, step_s in (
            ((("skin", 0, 4, -3.0), ("wood", 2, 4, -18.0)), 0.15),  # in the middle
            ((("skin", 0, 4, -3.0), ("wood", 1, 4, -18.0), ("metal", 3, 4, -20.0)), 0.15),
            ((("wood", 0, 3, -3.0), ("skin", 2, 3, -18.0)), 0.18),  # the last of a triplet
            ((("wood", 0, 4, -3.0), ("metal", 0, 3, -18.0)), 0.12),  # four against three
        ):
            with self.subTest(struck):
                self.assertEqual(onsets(Samples(rhythm(*struck, steps=120, step_s=step_s), RATE_HZ)).others, 0)

    def test_an_hour_of_onsets_takes_no_more_memory_than_its_sound(self) -> None:
        """Twenty thousand onsets of two kinds: found as they were drawn, without a table of each beside each."""
        rng = np.random.default_rng(5)
        is_other = rng.random(20_000) < 0.4
        kinds = np.abs(rng.normal(size=(2, 26)))
        shapes = kinds[is_other.astype(int)] + 0.1 * np.abs(rng.normal(size=(20_000, 26)))
        shapes /= np.linalg.norm(shapes, axis=1, keepdims=True)
        tracemalloc.start()
        alike = Attacks(np.zeros(20_000), shapes, np.ones(shapes.shape)).alike(~is_other)
        _, most = tracemalloc.get_traced_memory()
        tracemalloc.stop()
        self.assertLess(most, 250e6)
        self.assertGreater(float(alike[~is_other].min()), float(alike[is_other].max()))

    def test_few_are_no_groove(self) -> None:
        one = take_of("skin")
        few = Samples(one.samples[: 4 * RATE_HZ] + beside_groove(one, seed=1).samples[: 4 * RATE_HZ], RATE_HZ)
        self.assertEqual(onsets(few).others, 0)

    def test_it_is_said(self) -> None:
        self.assertEqual(remarks_of(0), ())
        self.assertIn("31 softer sounds of another kind", remarks_of(31)[0])


OWN, OTHER = 0.0, 80.0  # degrees at which shapes stand
OWN_S = np.arange(20) * 0.5
ANYWHERE_S = np.random.default_rng(3).uniform(0.1, 9.4, 12)


def lying(angles: list[float], loudness: list[float]) -> Attacks:
    """Return onsets whose shapes stand at some angles, each of its kind by half a degree from the next."""
    at = np.radians(np.array(angles) + 0.01 * np.arange(len(angles)))
    shapes = np.stack([np.cos(at), np.sin(at)], axis=1)
    return Attacks(np.array(loudness), shapes, np.ones_like(shapes))


class ByHandTests(TestCase):
    """Shapes, levels and places that are written down: no sound is read."""

    def found(
        self, other_s: FloatArray, *, below_db: float = 15.0, degrees: float = OTHER, own: int = 20, more: int = 0
    ) -> int:
        """Return how many are left out of notes of one's own and softer ones, at some times and of another kind."""
        own_s = OWN_S[:own]
        at_s = np.concatenate([own_s, other_s])
        order = np.argsort(at_s)
        heard = lying([OWN] * own + [degrees] * other_s.size, [-6.0] * own + [-6.0 - below_db] * other_s.size)
        heard = Attacks(*(part[order] for part in (heard.loudness, heard.shapes, heard.tells)))
        with patch.object(module, "attacks", lambda *_: heard):
            left = others(Samples(np.zeros(1), RATE_HZ), at_s[order])
        self.assertFalse(left[np.isin(at_s[order], own_s)].any())
        return int(left.sum())

    def test_softer_of_another_kind_and_anywhere_is_anothers(self) -> None:
        self.assertEqual(self.found(ANYWHERE_S), 12)

    def test_as_loud_or_alike_or_in_time_it_is_ones_own(self) -> None:
        self.assertEqual(self.found(ANYWHERE_S, below_db=7.9), 0)
        self.assertEqual(self.found(ANYWHERE_S, below_db=8.1), 12)
        self.assertEqual(self.found(ANYWHERE_S, degrees=OWN), 0)
        self.assertEqual(self.found(ANYWHERE_S, degrees=15.0), 0)  # alike to .966
        self.assertEqual(self.found(ANYWHERE_S, degrees=18.0), 12)  # to .951
        self.assertEqual(self.found(OWN_S[:12] + 0.25), 0)  # in the middle
        self.assertEqual(self.found(OWN_S[:12] + 0.5 / 3), 0)

    def test_few_are_nobody(self) -> None:
        self.assertEqual(self.found(ANYWHERE_S[:10]), 10)
        self.assertEqual(self.found(ANYWHERE_S[:9]), 0)
        self.assertEqual(self.found(ANYWHERE_S[ANYWHERE_S < 3.4], own=8), 0)

    def test_what_does_not_rise_above_what_rang_is_no_evidence(self) -> None:
        self.assertEqual(self.found(ANYWHERE_S, below_db=63.0), 12)
        self.assertEqual(self.found(ANYWHERE_S, below_db=65.0), 0)  # below −70 dB

    def test_where_rhythm_stands(self) -> None:
        own_s = np.arange(30) * 0.5
        for parts, is_in_time in (((0.5,), True), ((1 / 3, 2 / 3), True), ((0.25, 0.75), True), ((0.166667,), True)):
            other_s = np.concatenate([own_s[:15] + 0.5 * part for part in parts])
            self.assertIs(_in_time(other_s, own_s), is_in_time, parts)
        rng = np.random.default_rng(1)
        self.assertFalse(_in_time(rng.uniform(0, 14.5, 40), own_s))
        self.assertTrue(_in_time(rng.uniform(0, 14.5, 9), own_s))  # too few to tell

    def test_outside_and_in_pauses_nothing_is_told_by(self) -> None:
        """What comes before the first own note, after the last, or in a gap of more than four usual ones."""
        own_s = np.concatenate([np.arange(15) * 0.5, 30 + np.arange(15) * 0.5])
        rng = np.random.default_rng(2)
        far_s = np.concatenate([rng.uniform(-9, -1, 20), rng.uniform(8, 29, 20), rng.uniform(38, 60, 20)])
        self.assertTrue(_in_time(far_s, own_s))
        near_s = rng.uniform(0, 7, 12)
        self.assertFalse(_in_time(np.concatenate([far_s, near_s]), own_s))
        wide_s = np.arange(12) * 2.0
        apart_s = np.concatenate([wide_s, 22 + 8.0 + np.arange(12) * 2.0])  # one gap of four times the usual
        self.assertFalse(_in_time(np.concatenate([rng.uniform(22.1, 29.9, 12)]), apart_s))
        apart_s[12:] += 0.1
        self.assertTrue(_in_time(rng.uniform(22.1, 29.9, 12), apart_s))

    def test_a_swelling_is_ones_own_where_it_sounds_so_and_no_less_than_as_anothers(self) -> None:
        onset_s, covered_s = np.arange(12.0), np.array([2.5, 4.5, 20.0])
        own = np.arange(12) % 2 == 0
        order = np.argsort(np.concatenate([onset_s, covered_s]), kind="stable")
        for angles, expected in (
            ([OWN, OTHER, OWN], [True, False, True]),
            ([24.0, 27.0, 60.0], [True, False, False]),  # alike to .91, to .89
        ):
            heard = lying([OWN if one else OTHER for one in own] + angles, [-6.0] * 15)
            heard = Attacks(*(part[order] for part in (heard.loudness, heard.shapes, heard.tells)))
            with patch.object(module, "attacks", lambda *_, heard=heard: heard):
                found = covered_own(Samples(np.zeros(1), RATE_HZ), onset_s, own, covered_s)
            self.assertEqual(found.tolist(), expected)
        nothing = covered_own(Samples(np.zeros(1), RATE_HZ), onset_s, np.zeros(12, dtype=bool), covered_s)
        self.assertEqual(nothing.tolist(), [False] * 3)
