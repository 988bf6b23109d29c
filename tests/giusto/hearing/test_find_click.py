"""The click found in a recording, and taken out of it: clicks alone, clicks under notes, none."""

from unittest import TestCase

import numpy as np

from giusto.arrays import FloatArray
from giusto.click.sound import blocks
from giusto.hearing.find_click import find_click, peak_between
from giusto.hearing.sound import Samples
from giusto.hearing.without_click import WithoutClick
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
