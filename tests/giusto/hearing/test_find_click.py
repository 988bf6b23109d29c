"""The click found in a recording, and taken out of it: clicks alone, clicks under notes, none."""

from unittest import TestCase

import numpy as np
from scipy import signal

from giusto.arrays import FloatArray
from giusto.click.sound import blocks
from giusto.click.voice import OWN_RATE_HZ, OwnSound
from giusto.hearing.find_click import (
    LEAST_ALIKE,
    MOST_TIMED,
    NEAR_S,
    SURE_S,
    Click,
    Look,
    _rough,
    _some,
    _starts,
    best_place,
    find_click,
    other_take,
    peak_between,
    place_of,
)
from giusto.hearing.sound import Samples
from giusto.hearing.without_click import AFTER_S, ECHO_S, WithoutClick, _shifted, lasting
from giusto.simulation.instrument import strike
from tests.drills import fixed, planned

RATE_HZ, LEAD_S = 44_100, 0.7
PLAN = planned(bpm=110, cycles=8, silence=fixed(2, 1))


def clicks(level_db: float, *, noise_db: float = -70.0) -> FloatArray:
    """Return the drill's click as a recorder hears it from some way off, so much below full scale."""
    click = np.concatenate([*blocks(PLAN, voice="wood", rate_hz=RATE_HZ)]).astype(np.float64)
    found = 10 ** (noise_db / 20) * np.random.default_rng(1).standard_normal(click.size + 2 * RATE_HZ)
    lead = round(LEAD_S * RATE_HZ)
    found[lead : lead + click.size] += 10 ** (level_db / 20) * click / np.max(np.abs(click))
    return found


class FindTests(TestCase):
    def test_a_parabola_peaks_between_samples(self) -> None:
        """y = 5 − (x − .3)² at −1, 0, 1."""
        self.assertAlmostEqual(peak_between(np.array([5 - 1.69, 5 - 0.09, 5 - 0.49])), 0.3)
        self.assertEqual(peak_between(np.array([1.0, 1.0, 1.0])), 0.0)

    def test_time_zero_and_clock_to_a_sample_down_to_40_db(self) -> None:
        for level_db in (-10.0, -25.0, -40.0):
            line = find_click(Samples(clicks(level_db), RATE_HZ), PLAN)
            with self.subTest(level_db):
                assert line
                self.assertAlmostEqual(line.zero_s, LEAD_S, delta=1 / RATE_HZ)
                self.assertAlmostEqual(line.ppm or 0.0, 0.0, delta=3)
                self.assertEqual(line.by, "bleed")

    def test_where_it_may_lie_can_be_said(self) -> None:
        sound = Samples(clicks(-20.0), RATE_HZ)
        self.assertIsNotNone(find_click(sound, PLAN, zero_s=(0.6, 0.8)))
        elsewhere = find_click(sound, PLAN, zero_s=(1.0, 1.2))
        self.assertTrue(elsewhere is None or abs(elsewhere.zero_s - LEAD_S) > 0.2)

    def test_no_click_is_no_line(self) -> None:
        noise = 0.1 * np.random.default_rng(2).standard_normal(20 * RATE_HZ)
        self.assertIsNone(find_click(Samples(noise, RATE_HZ), PLAN))
        self.assertIsNone(find_click(Samples(np.zeros(RATE_HZ), RATE_HZ), PLAN))


class LookTests(TestCase):
    """Curves that are written down: how much of a click, and how like one, each sample is."""

    def look(self, *heard: tuple[int, float, float], frames: int = 8_000) -> Look:
        """Return a look at a recording of which only some samples are like a click."""
        match, alike = np.zeros(frames, np.float32), np.zeros(frames, np.float32)
        for at, much, like in heard:
            match[at - 1 : at + 2] = [much / 2, much, much / 2]
            alike[at - 1 : at + 2] = [like / 2, like, like / 2]
        return Look(Samples(np.zeros(frames), 1_000), Click.of("wood", 8_000), match, alike)

    def test_a_click_is_timed_where_most_of_it_is_and_it_is_like_one(self) -> None:
        near = round(NEAR_S * 1_000)
        look = self.look(
            (1_005, 2.0, 0.9),
            (2_000 - near + 1, 1.0, LEAST_ALIKE + 0.01),
            (3_000, 5.0, LEAST_ALIKE - 0.01),
            (4_000 + near, 5.0, 0.9),
        )
        at_s, found_s, share = look.timed(np.array([1.0, 2.0, 3.0, 4.0]) - 0.5, 0.5)
        self.assertEqual(at_s.tolist(), [0.5, 1.5])
        np.testing.assert_allclose(found_s, [1.005, 2.0 - NEAR_S + 0.001])
        self.assertEqual(share, 0.5)

    def test_between_samples_by_its_parabola(self) -> None:
        look = self.look((1_005, 2.0, 0.9))
        look.match[1_004:1_007] = [1.0, 2.0, 1.5]
        _, found_s, _ = look.timed(np.array([1.0]), 0.0)
        np.testing.assert_allclose(found_s, [1.005 + 1e-3 * peak_between(np.array([1.0, 2.0, 1.5]))])

    def test_how_well_a_schedule_fits_is_the_mean_and_what_is_not_there_counts_as_nothing(self) -> None:
        look = self.look((1_000, 1.0, 0.8), (2_001, 1.0, 0.6), (3_002, 1.0, 0.9))
        look.alike[3_995:4_006] = -0.5
        near = round(SURE_S * 1_000)
        self.assertEqual(near, 1)
        self.assertAlmostEqual(look.fit(np.array([1.0, 2.0, 3.0, 4.0])), (0.8 + 0.6 + 0.45 + 0.0) / 4, places=6)

    def test_laid_over_each_other(self) -> None:
        look = self.look((1_002, 2.0, 0.8), (2_004, 4.0, 0.6))
        found = look.summed(np.array([1.0, 2.0]), 0.005)
        self.assertEqual(found.size, 10)
        np.testing.assert_allclose(found[[6, 7, 8, 9]], [0.5, 1.0, 0.5 + 1.0, 2.0])

    def test_outside_of_what_was_seen_the_sound_is_looked_at(self) -> None:
        rate_hz = 8_000
        click = Click.of("wood", rate_hz)
        samples = np.zeros(rate_hz)
        samples[4_000 : 4_000 + click.samples.size] = click.samples
        sound = Samples(samples, rate_hz)
        seen = click.look(sound)
        for start, stop in ((3_900, 4_100), (-50, 60), (7_900, 8_050)):
            for one, other in zip(seen.at(start, stop), click.at(sound, start, stop), strict=True):
                np.testing.assert_allclose(one, other, atol=1e-5)
                self.assertEqual(one.size, stop - start)

    def test_match_and_correlation_beside_numpys(self) -> None:
        """A sliding product and a sliding cosine, by numpy, of the sound in the click's own band."""
        rate_hz = 8_000
        click = Click.of("wood", rate_hz)
        noise = np.random.default_rng(2).standard_normal(2 * rate_hz)
        match, alike = click.at(Samples(noise, rate_hz), 4_000, 4_200)
        passed = signal.sosfilt(click.band, noise[4_000 - 800 : 4_200 + click.samples.size])[800:]
        windows = np.lib.stride_tricks.sliding_window_view(passed, click.samples.size)[:200]
        np.testing.assert_allclose(match, windows @ click.samples, atol=1e-9)
        norms = np.linalg.norm(windows, axis=1) * np.linalg.norm(click.samples)
        np.testing.assert_allclose(alike, windows @ click.samples / norms, atol=1e-9)

    def test_a_long_recording_is_looked_at_as_a_short_one(self) -> None:
        """It is gone through twenty seconds at a time; only its first four minutes are."""
        rate_hz = 4_000
        click = Click.of("wood", rate_hz)
        sound = Samples(np.random.default_rng(3).standard_normal(250 * rate_hz), rate_hz)
        look = click.look(sound)
        self.assertEqual(look.match.size, 240 * rate_hz)
        for at in (20 * rate_hz - 5, 40 * rate_hz - 5):
            np.testing.assert_allclose(look.match[at : at + 10], click.at(sound, at, at + 10)[0], atol=1e-4)


class PlaceTests(TestCase):
    def test_clicks_spread_evenly(self) -> None:
        many = np.arange(1_201.0)
        some = _some(many, MOST_TIMED + 1)
        self.assertEqual((some[0], some[-1], some.size), (0.0, 1_200.0, MOST_TIMED + 1))
        self.assertEqual(set(np.diff(some)), {2.0})
        self.assertEqual(_some(many[:5], 80).tolist(), many[:5].tolist())

    def test_a_schedule_lies_where_it_fits_best_then_where_it_fits_next(self) -> None:
        clicks_s = 0.25 + np.array([0.0, 0.3, 0.7, 1.2, 1.3])
        curve = np.zeros(6_000)
        for zero_s, high in ((1.0, 1.0), (3.5, 0.7)):
            curve[np.round((zero_s + clicks_s) * 1_000).astype(int)] += high
        starts = _starts(curve, clicks_s, None)
        self.assertEqual(len(starts), 4)
        np.testing.assert_allclose(starts[:2], [1.0, 3.5], atol=1e-9)
        self.assertGreaterEqual(min(abs(a - b) for k, a in enumerate(starts) for b in starts[:k]), 0.0599)
        np.testing.assert_allclose(_starts(curve, clicks_s, (2.0, 4.0))[0], 3.5, atol=1e-9)
        self.assertTrue(all(0.9995 <= at <= 1.0505 for at in _starts(curve, clicks_s, (1.0, 1.05))))
        self.assertEqual(len(_starts(curve, clicks_s, (0.98, 1.02))), 1)  # nothing else is left of it

    def test_a_curve_that_is_loud_everywhere_in_one_place_fits_no_better(self) -> None:
        clicks_s = np.arange(20) * 0.25
        curve = np.zeros(20_000)
        curve[12_000:13_000] = 1.0  # a second of noise
        curve[np.round((2.0 + clicks_s) * 1_000).astype(int)] = 1.0
        self.assertAlmostEqual(_starts(curve, clicks_s, None)[0], 2.0)

    def test_the_highest_of_each_millisecond_widened(self) -> None:
        curve = np.zeros(44_100, np.float32)
        curve[4_410] = 3.0  # at 100 ms
        rough = _rough(curve, RATE_HZ)
        self.assertEqual(rough.size, 1_000)
        self.assertEqual(np.flatnonzero(rough).tolist(), list(range(100 - 12, 100 + 13)))
        self.assertEqual(float(rough.max()), 1.0)
        loud = np.full(44_100, 0.5, np.float32)
        loud[::441] = 1.0
        loud[10] = 50.0  # one stroke does not outweigh the rest
        self.assertEqual(float(_rough(loud, RATE_HZ)[500]), 1.0)
        self.assertEqual(float(_rough(-curve, RATE_HZ).max()), 0.0)

    def test_another_take_is_looked_for_where_there_is_room_for_one(self) -> None:
        twice = np.concatenate([clicks(-20.0), clicks(-20.0)])
        for samples, found_s in ((twice, clicks(-20.0).size / RATE_HZ + LEAD_S), (clicks(-20.0), None)):
            sound = Samples(samples, RATE_HZ)
            place = place_of(sound, PLAN, voices=("wood",))
            assert place
            other_s = other_take(sound, PLAN, place)
            if found_s is None:
                self.assertIsNone(other_s)
            else:
                assert other_s
                self.assertAlmostEqual(place.line.zero_s + other_s, LEAD_S + found_s, delta=1e-3)

    def test_too_few_clicks_are_nowhere(self) -> None:
        few = planned(bpm=60, cycles=1, beats=3, silence=None, count_in=0)
        self.assertIsNone(place_of(Samples(clicks(-10.0), RATE_HZ), few))
        self.assertIsNone(best_place(Look(Samples(np.zeros(8), 8_000), Click.of("wood", 8_000)), np.zeros(0) + 1))


class LastingTests(TestCase):
    def test_a_click_is_heard_as_long_as_it_sounds_and_its_room_and_no_longer_than_until_the_next(self) -> None:
        self.assertEqual(lasting("wood", PLAN), AFTER_S)
        apart_s = 60 / 110
        for own_s, expected in ((0.02, AFTER_S), (0.2, 0.2 + ECHO_S), (0.35, 0.35 + ECHO_S), (0.6, apart_s - 0.004)):
            own = OwnSound(np.zeros(round(own_s * OWN_RATE_HZ)), 1_000.0)
            self.assertAlmostEqual(lasting(own, PLAN), expected, places=4)

    def test_moved_by_a_part_of_a_sample(self) -> None:
        at = np.arange(400)
        swing = np.exp(-0.5 * ((at - 200) / 30) ** 2)
        for by in (0.25, -0.5, 0.0):
            np.testing.assert_allclose(_shifted(swing, by), np.exp(-0.5 * ((at - 200 - by) / 30) ** 2), atol=1e-6)


class WithoutTests(TestCase):
    def test_the_click_is_gone_and_a_note_under_it_stays(self) -> None:
        """Of the clicks' power less than a hundredth is left; a note struck on a click keeps nine tenths of its own."""
        samples = clicks(-15.0)
        line = find_click(Samples(samples, RATE_HZ), PLAN)
        assert line
        rest = WithoutClick(Samples(samples, RATE_HZ), line, PLAN).read(0, samples.size)
        self.assertLess(float(np.sum(rest**2)), 0.01 * float(np.sum(samples**2)))
        stroke = 0.3 * strike("skin", np.random.default_rng(3), rate_hz=RATE_HZ)
        at = round((LEAD_S + float(PLAN.seconds(PLAN.clicks.tick[PLAN.kinds != "count"][5]))) * RATE_HZ)
        played = samples.copy()
        played[at : at + stroke.size] += stroke
        kept = WithoutClick(Samples(played, RATE_HZ), line, PLAN).read(at, at + stroke.size)
        self.assertGreater(float(kept @ stroke) / float(stroke @ stroke), 0.9)

    def test_block_by_block_is_as_all_at_once(self) -> None:
        samples = clicks(-20.0)
        line = find_click(Samples(samples, RATE_HZ), PLAN)
        assert line
        without = WithoutClick(Samples(samples, RATE_HZ), line, PLAN)
        whole = without.read(0, samples.size)
        parts = [without.read(start, min(start + 7_001, samples.size)) for start in range(0, samples.size, 7_001)]
        np.testing.assert_allclose(np.concatenate(parts), whole, atol=1e-12)
