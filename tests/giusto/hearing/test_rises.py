"""How onsets are found, step by step: curves, levels and peaks that are written down."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

import numpy as np

from giusto.arrays import FloatArray
from giusto.hearing.onsets import (
    ATTACK,
    BOWED,
    BOWED_ALONE_S,
    FIRST_SHARE,
    MOST_CONTRAST,
    MOST_RISE_DB,
    REFRACTORY_S,
    SHARE_OF_RISE,
    STRUCK,
    Peaks,
    _attack,
    _band_edges,
    _factor,
    _far,
    _level,
    _levels,
    _peaks,
    _rises,
    _swelling,
    band_levels,
    rise_curve,
)
from giusto.hearing.sound import Samples

RATE_HZ = 44_100
HOP_S = STRUCK.hop(RATE_HZ) / RATE_HZ


class CurveTests(TestCase):
    def curve(self, levels_db: FloatArray) -> FloatArray:
        """Return how much louder bands became."""
        found: FloatArray = rise_curve(levels_db.astype(np.float16), STRUCK, RATE_HZ).astype(float)
        return found

    def test_a_band_that_rises_rises_the_mean_over_the_bands(self) -> None:
        """One band of ten by 20 dB, above a floor 8 dB over its quiet: the mean of one band's 12."""
        levels = np.full((60, 10), -60.0)
        levels[30:, 4] = -40.0
        curve = self.curve(levels)
        self.assertEqual(curve[:30].tolist(), [0.0] * 30)
        self.assertAlmostEqual(curve[30], 1.2, delta=0.02)
        far = round(STRUCK.far_s / HOP_S)
        near = round(STRUCK.near_s / HOP_S)
        self.assertGreater(curve[30 + near - 1], 1.0)  # against what was some frames before
        self.assertEqual(curve[30 + near], 0.0)
        self.assertEqual(curve[30 + far + 1 :].tolist(), [0.0] * (60 - 31 - far))

    def test_no_band_counts_for_more_than_its_share(self) -> None:
        levels = np.full((60, 10), -60.0)
        levels[30:, 4] = 0.0
        self.assertAlmostEqual(self.curve(levels)[30], MOST_RISE_DB / 10, delta=0.01)

    def test_what_slides_into_the_next_band_is_no_rise(self) -> None:
        levels = np.full((60, 10), -60.0)
        levels[:30, 4] = levels[30:, 5] = -20.0
        self.assertEqual(float(self.curve(levels)[25:].max()), 0.0)
        levels[30:] = -60.0
        levels[30:, 6] = -20.0  # two bands on it is one
        self.assertGreater(float(self.curve(levels)[30]), 2.0)

    def test_far_below_the_loudest_nothing_rises(self) -> None:
        levels = np.full((400, 10), -100.0)
        levels[:200] = 0.0
        levels[300:] = -70.0  # 70 dB below
        self.assertEqual(float(self.curve(levels)[250:].max()), 0.0)
        levels[300:] = -50.0
        self.assertGreater(float(self.curve(levels)[300]), 5.0)

    def test_a_long_one_is_as_its_parts(self) -> None:
        """A thousand frames at a time, each set against those before it: by hand, in either layer."""
        levels = np.random.default_rng(1).uniform(-60, -20, (2_500, 10)).astype(np.float16)
        lifted = np.maximum(levels.astype(float), np.quantile(levels.astype(float), 0.02, axis=0) + 8.0)
        for layer in (STRUCK, BOWED):
            hop_s = layer.hop(RATE_HZ) / RATE_HZ
            near, far = round(layer.near_s / hop_s), round(layer.far_s / hop_s)
            self.assertEqual((far - near + 1) % 2, layer is BOWED)  # an even length, and an odd one
            whole = rise_curve(levels, layer, RATE_HZ)
            for at in (500, 1_023, 1_024, 1_025, 2_048, 2_499):
                before = lifted[at - far : at - near + 1]
                highest = np.array([before[:, max(band - 1, 0) : band + 2].max() for band in range(10)])
                expected = np.clip(lifted[at] - highest, 0, MOST_RISE_DB).mean()
                self.assertAlmostEqual(float(whole[at]), expected, delta=0.01)


class PeaksTests(TestCase):
    def found(self, *bumps: tuple[int, float], base: float = 0.0) -> list[int]:
        """Return the peaks of a curve that has some."""
        curve = np.full(400, base, dtype=np.float32)
        for at, height in bumps:
            curve[at] = height
            curve[at - 1] = curve[at + 1] = max(height * 0.6, base)
        found: list[int] = _peaks(curve, STRUCK, HOP_S).tolist()
        return found

    def test_from_the_least_on(self) -> None:
        self.assertEqual(self.found((100, STRUCK.least_db), (200, STRUCK.least_db - 0.01)), [100])
        self.assertEqual(self.found(), [])

    def test_clear_of_what_is_around(self) -> None:
        self.assertEqual(self.found((100, 3.5), base=3.0), [100])
        self.assertEqual(self.found((100, 3.2), base=3.0), [])

    def test_none_within_the_time_in_which_nothing_is_struck_again(self) -> None:
        apart = int(np.ceil(REFRACTORY_S / HOP_S))
        self.assertEqual(self.found((100, 8.0), (100 + apart, 8.0)), [100, 100 + apart])
        self.assertEqual(self.found((100, 8.0), (100 + apart - 1, 8.0)), [100])

    def test_of_several_bursts_the_first_that_is_loud_enough(self) -> None:
        self.assertEqual(self.found((100, 8.0 * FIRST_SHARE + 0.01), (108, 8.0)), [100])
        self.assertEqual(self.found((100, 8.0 * FIRST_SHARE - 0.01), (108, 8.0)), [108])
        later = 100 + round(0.032 / HOP_S) + 1
        self.assertIn(100, self.found((100, 8.0 * FIRST_SHARE - 0.01), (later, 8.0)))


class AttackTests(TestCase):
    def test_a_level_rises_where_it_first_stands_above_a_bound_dips_aside(self) -> None:
        level = np.array([0, 0, 2, 0, 3, 4, 5, 9, 9.0])
        self.assertEqual(_rises(level, 7, 2.0, 2), 2)
        self.assertEqual(_rises(level, 7, 2.0, 1), 4)
        self.assertEqual(_rises(level, 5, 4.0, 2), 5)
        self.assertEqual(_rises(level, 7, 10.0, 2), 7)  # nowhere: at its peak
        self.assertEqual(_rises(level, 6, 5.0, 2), 6)  # the peak itself counts

    def look(self, rang: float, peak: float) -> FloatArray:
        """Return a level: what rings, then from sample 20 on a rise to a peak at 40, by twentieths."""
        return np.concatenate([np.full(20, rang), np.linspace(rang, peak, 21), np.full(20, peak / 2)])

    def later(self, level: FloatArray) -> FloatArray:
        """Return the same five samples later."""
        return np.concatenate([level[:5], level[:-5]])

    def test_the_sample_and_the_strength_of_an_attack(self) -> None:
        """Without anything before, 1.5 % of the peak; over what rings, 12 % of the way from it."""
        at, strength = _attack([(self.look(0.0, 1.0), 1.0)], 10, 5)
        self.assertEqual(at, 20 + int(np.ceil(20 * SHARE_OF_RISE)))
        self.assertEqual(strength, 1.0)
        at, strength = _attack([(self.look(0.4, 0.5), 1.0)], 10, 5)
        self.assertEqual(at, 20 + int(np.ceil(20 * SHARE_OF_RISE)))
        self.assertAlmostEqual(strength, 1 - 20 * np.log10(0.5) / -60.0)
        slow = np.concatenate([np.zeros(20), np.linspace(0.0, 0.1, 100), [1.0]])
        at, _ = _attack([(slow, 1.0)], 10, 5)
        self.assertEqual(at, 120)  # 12 % of the way, and not a hundredth: only where it jumps
        self.assertGreater(SHARE_OF_RISE, ATTACK)
        self.assertEqual(_attack([(np.zeros(60), 1.0)], 10, 5), (None, 0.0))

    def test_the_look_in_which_it_stands_out_most_as_it_is_preferred(self) -> None:
        early = self.look(0.1, 0.5)  # five times what rang
        late = self.later(self.look(0.1, 0.5))
        self.assertEqual(_attack([(early, 1.0), (late, 0.9)], 10, 5)[0], 23)
        self.assertEqual(_attack([(early, 1.0), (late, 1.1)], 10, 5)[0], 28)
        clear = self.later(self.look(0.001, 0.5))  # five hundred times, of which a hundred count
        self.assertEqual(_attack([(early, MOST_CONTRAST / 5 + 0.1), (clear, 1.0)], 10, 5)[0], 23)
        self.assertEqual(_attack([(early, MOST_CONTRAST / 5 - 0.1), (clear, 1.0)], 10, 5)[0], 28)

    def test_levels_are_the_root_of_the_mean_square_of_what_came_last(self) -> None:
        row = np.array([3.0, 4.0, 0.0, 5.0])
        found = _levels(np.stack([row, 2 * row]), 2)
        expected = np.sqrt(np.array([9.0, 25.0, 16.0, 25.0]) / 2)
        np.testing.assert_allclose(found, np.stack([expected, 2 * expected]))

    def test_the_strength_of_a_soft_onset(self) -> None:
        samples = np.zeros(RATE_HZ)
        samples[1_000] = -0.1
        samples[8_000] = 1.0
        sound = Samples(samples, RATE_HZ)
        self.assertAlmostEqual(_level(sound, 900), 1 - 20 / 60)
        self.assertEqual(_level(sound, 7_000), 1.0)
        self.assertEqual(_level(sound, 1_001), 0.0)
        self.assertAlmostEqual(_level(sound, 1_000), 1 - 20 / 60)
        self.assertEqual(_level(sound, 8_000 - 4_410), 0.0)  # a tenth of a second is looked at


class LayerTests(TestCase):
    def test_as_thin_as_its_highest_band_allows(self) -> None:
        for rate_hz, layer, factor in (
            (44_100, STRUCK, 1),
            (96_000, STRUCK, 2),
            (192_000, STRUCK, 5),
            (44_100, BOWED, 4),
            (48_000, BOWED, 4),
            (8_000, BOWED, 1),
            (22_050, BOWED, 2),
        ):
            self.assertEqual(_factor(rate_hz, layer), factor, (rate_hz, layer.bands))
            self.assertLess(layer.highest_hz, 0.45 * rate_hz / factor) if factor > 1 else None
            self.assertEqual(rate_hz % factor, 0)

    def test_edges_of_bands_are_bins_each_once_and_none_beyond_the_last(self) -> None:
        edges = _band_edges(STRUCK, 512, RATE_HZ)
        self.assertEqual(edges.tolist(), sorted(set(edges.tolist())))
        self.assertEqual((int(edges[0]), int(edges[-1])), (1, round(16_000 * 512 / RATE_HZ)))
        low = _band_edges(STRUCK, 93, 8_000)
        self.assertEqual(int(low[-1]), round(0.45 * 93))
        self.assertGreaterEqual(int(low[0]), 1)

    def test_a_tones_level_in_its_band(self) -> None:
        """A sine of amplitude a under a window w has the power (a Σw / 2)² in its bin, and its sides."""
        size = round(STRUCK.window_s * RATE_HZ)
        hz = 40 * RATE_HZ / size
        tone = 0.5 * np.sin(2 * np.pi * hz * np.arange(RATE_HZ) / RATE_HZ)
        levels = band_levels(Samples(tone, RATE_HZ), STRUCK).astype(float)
        self.assertEqual(levels.shape[0], (RATE_HZ - size) // STRUCK.hop(RATE_HZ) + 1)
        edges = _band_edges(STRUCK, size, RATE_HZ)
        band = int(np.searchsorted(edges, 40, side="right")) - 1
        window = np.hanning(size + 2)[1:-1]
        self.assertTrue(edges[band] < 40 < edges[band + 1] - 1)
        peak = 20 * np.log10(0.5 * window.sum() / 2)
        self.assertAlmostEqual(float(np.median(levels[:, band])), peak + 10 * np.log10(1.5), delta=0.1)
        self.assertLess(float(np.median(levels[:, 0])), peak - 60)
        self.assertEqual(band_levels(Samples(tone[: size - 1], RATE_HZ), STRUCK).shape[0], 0)
        self.assertEqual(band_levels(Samples(tone[:size], RATE_HZ), STRUCK).shape[0], 1)


class SwellingTests(TestCase):
    def test_far_from_all_others(self) -> None:
        alone = round(BOWED_ALONE_S * RATE_HZ)
        others = np.array([20_000, 40_000])
        some = np.array([20_000 - alone, 20_000 - alone + 1, 20_000 + alone - 1, 20_000 + alone, 40_000 + alone])
        self.assertEqual(_far(some, others, RATE_HZ).tolist(), [True, False, False, True, True])
        self.assertEqual(_far(some, np.zeros(0, dtype=np.int64), RATE_HZ).tolist(), [True] * 5)

    def peaks(self, heights: list[float], hop: int = 100) -> Peaks:
        """Return peaks of a curve two tenths of a second apart."""
        curve = np.zeros(2_000, dtype=np.float32)
        frames = np.arange(1, len(heights) + 1) * 88
        curve[frames] = heights
        return Peaks(curve, hop, frames * hop)

    def test_a_small_rise_counts_where_something_is_struck_too(self) -> None:
        """Of what is usual 47 in 100; half of the struck layer's decibels are added to that."""
        usual = [2.0] * 5
        nothing = replace(self.peaks([]), curve=np.zeros(2_000, dtype=np.float32))
        for small, expected in ((0.95, 6), (0.93, 5)):
            self.assertEqual(_swelling(self.peaks([*usual, small]), nothing, RATE_HZ).size, expected)
        struck = replace(nothing, curve=nothing.curve.copy())
        struck.curve[6 * 88 + round(0.020 * RATE_HZ / 100)] = 0.3
        self.assertEqual(_swelling(self.peaks([*usual, 0.7]), struck, RATE_HZ).size, 6)
        self.assertEqual(_swelling(self.peaks([*usual, 0.6]), struck, RATE_HZ).size, 5)
        self.assertEqual(
            _swelling(self.peaks(usual), nothing, RATE_HZ).tolist(),
            [88 * 100 * k + round(0.020 * RATE_HZ) for k in range(1, 6)],
        )
        self.assertEqual(_swelling(self.peaks([]), nothing, RATE_HZ).size, 0)
