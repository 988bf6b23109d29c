"""Reach: against a probit regression of a general-purpose library, and over simulated players."""

import json
from pathlib import Path
from unittest import TestCase

import jsonschema
import numpy as np
import psignifit as ps
import questplus as qp
import statsmodels.api as sm
from scipy.special import ndtr, ndtri

from giusto.errors import GiustoError
from giusto.practice.reach import fading, parse_silences, reach, reach_curve
from giusto.practice.reach.by_clock import predicted_reach
from giusto.practice.reach.estimate import LAPSES, LONGEST, SHORTEST, SPREADS_OCT, STEP

SCHEMA = Path(__file__).parents[3] / "docs/schema/reach-1.json"


def played(half: float, spread: float, lapse: float, beats: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Return which silences a simulated player holds."""
    return rng.random(beats.size) < (1 - lapse) * ndtr((half - np.log2(beats)) / spread)


class ReachTests(TestCase):
    def test_as_a_probit_regression_has_it(self) -> None:
        """statsmodels' Probit on 2,000 silences: where its curve is at three quarters."""
        rng = np.random.default_rng(4)
        beats = 2.0 ** rng.uniform(1, 7, 2000)
        held = played(4.2, 0.6, 0.0, beats, rng)
        fitted = sm.Probit(held.astype(float), sm.add_constant(np.log2(beats))).fit(disp=0)
        constant, slope = fitted.params
        expected = 2 ** ((0.6744897501960817 - constant) / slope)
        found = reach(beats.tolist(), held.tolist())
        assert found.beats
        assert found.ci95_beats
        self.assertAlmostEqual(found.beats / expected, 1, delta=0.05)
        self.assertLess(found.ci95_beats[1] / found.ci95_beats[0], 1.25)

    def test_ranges_hold(self) -> None:
        rng = np.random.default_rng(1)
        hits = []
        for _ in range(120):
            half, spread, lapse = rng.uniform(2, 6), rng.uniform(0.3, 1.2), rng.uniform(0, 0.05)
            beats = 2.0 ** rng.uniform(half - 2, half + 2, 24)
            held = played(half, spread, lapse, beats, rng)
            truth = 2 ** (half + spread * ndtri(1 - 0.75 / (1 - lapse)))
            found = reach(beats.tolist(), held.tolist())
            if found.ci95_beats:
                hits.append(found.ci95_beats[0] <= truth <= found.ci95_beats[1])
        self.assertTrue(0.92 <= np.mean(hits) <= 0.99, np.mean(hits))

    def test_all_held_or_none(self) -> None:
        all_held = reach([4, 8, 12], [True] * 3)
        self.assertEqual((all_held.beats, all_held.reason, all_held.at_most), (None, "all-held", None))
        assert all_held.at_least
        self.assertGreater(all_held.next_beats, 12)
        none = reach([8, 16], [False] * 2)
        self.assertEqual((none.beats, none.reason, none.at_least), (None, "none-held", None))
        self.assertLess(none.next_beats, 8)

    def test_the_next_length_follows_what_is_known(self) -> None:
        """Held up to 8, lost from 16: neither a short nor a long silence would tell anything."""
        found = reach([4, 6, 8, 8, 16, 20, 24] * 3, [True] * 4 * 1 + [False] * 3 + ([True] * 4 + [False] * 3) * 2)
        self.assertTrue(6 <= found.next_beats <= 20, found)

    def test_files(self) -> None:
        self.assertEqual(parse_silences("beats,held\r\n8.5,1\r\n16,0\r\n"), ([8.5, 16.0], [True, False]))
        for text, message in (
            ("beats\n8\n", "line 1 must be"),
            ("beats,held\n0,1\n", "line 2 is"),
            ("beats,held\n8,yes\n", "line 2 is"),
            ("beats,held\n8\n", "line 2 is"),
            ("beats,held\n", "no silence"),
        ):
            with self.subTest(text), self.assertRaisesRegex(GiustoError, message):
                parse_silences(text)

    def test_the_schema_says_the_same(self) -> None:
        schema = json.loads(SCHEMA.read_text(encoding="utf-8"))
        for held in ([True, False], [True, True], [False, False]):
            jsonschema.validate(reach([8.0, 16.0], held).plain(), schema)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(reach([8.0], [True]).plain() | {"more": 1}, schema)


class QuestPlusTests(TestCase):
    """questplus (Watson 2017, J Vis 17(3):10) on our grid: the same posterior, the same next length."""

    def test_step_by_step(self) -> None:
        lengths = np.unique(np.round(2.0 ** np.arange(0, 10.1, 0.125)).astype(int))
        quest = qp.QuestPlus(
            stim_domain={"intensity": -np.log2(lengths)},
            param_domain={
                "mean": -np.arange(SHORTEST, LONGEST, STEP),
                "sd": SPREADS_OCT,
                "lower_asymptote": [0.0],
                "lapse_rate": LAPSES,
            },
            outcome_domain={"response": ["held", "not"]},
            func="norm_cdf",
            stim_scale="linear",
            stim_selection_method="min_entropy",
            param_estimation_method="mean",
        )
        rng = np.random.default_rng(3)
        beats, held, following = [], [], 4
        for _ in range(4):
            is_held = bool(played(3.6, 0.5, 0.02, np.array([float(following)]), rng)[0])
            beats.append(following)
            held.append(is_held)
            quest.update(stim={"intensity": -np.log2(following)}, outcome={"response": "held" if is_held else "not"})
            following = reach(beats, held).next_beats
            self.assertAlmostEqual(float(quest.next_stim["intensity"]), -np.log2(following), places=9)
        marginal = quest.marginal_posterior["mean"]
        half = -float(np.sum(quest.param_domain["mean"] * marginal))
        curve = reach_curve(beats, held, [2.0**half])
        self.assertAlmostEqual(float(curve.chance[0]), 0.5, delta=0.06)


class PsignifitTests(TestCase):
    """psignifit (Schütt et al. 2016, Vision Res 122:105) on the same data: the threshold at three quarters."""

    def test_the_same_threshold(self) -> None:
        for seed, half in ((5, 3.5), (6, 4.5)):
            rng = np.random.default_rng(seed)
            beats = np.repeat(np.round(2.0 ** np.linspace(half - 2, half + 1.5, 8)), 25)
            held = played(half, 0.6, 0.02, beats, rng)
            rows = [[-np.log2(n), held[beats == n].sum(), np.count_nonzero(beats == n)] for n in np.unique(beats)]
            fitted = ps.psignifit(
                np.array(rows[::-1]), experiment_type="yes/no", sigmoid="norm", fixed_parameters={"gamma": 0.0}
            )
            expected = 2.0 ** -fitted.threshold(0.75, return_ci=False, unscaled=True)
            found = reach(beats.tolist(), held.tolist())
            assert found.beats
            assert found.ci95_beats
            self.assertAlmostEqual(float(np.log2(found.beats / expected)), 0, delta=0.1)
            self.assertTrue(found.ci95_beats[0] <= expected <= found.ci95_beats[1])


class WeightTests(TestCase):
    def test_counts_are_weights_and_nothing_counts_for_nothing(self) -> None:
        twice = reach([8, 8, 16, 16], [True, True, False, False])
        weighed = reach([8, 16], [True, False], weights=[2.0, 2.0])
        self.assertEqual((weighed.beats, weighed.ci95_beats), (twice.beats, twice.ci95_beats))
        with_old = reach([8, 16, 4], [True, False, False], weights=[2.0, 2.0, 0.0])
        self.assertEqual(with_old.beats, twice.beats)

    def test_older_silences_fade(self) -> None:
        ages = [200.0] * 20 + [1.0] * 20
        better = reach([8.0] * 40, [False] * 20 + [True] * 20, weights=fading(ages))
        plainly = reach([8.0] * 40, [False] * 20 + [True] * 20)
        assert better.beats
        assert plainly.beats
        self.assertGreater(better.beats, 1.2 * plainly.beats)

    def test_a_test_of_it_ends_within_a_quarter(self) -> None:
        rng = np.random.default_rng(8)
        beats, held = [8], [True]
        while not (found := reach(beats, held)).is_sure and len(beats) < 150:
            beats.append(found.next_beats)
            held.append(bool(played(4.0, 0.4, 0.0, np.array([float(found.next_beats)]), rng)[0]))
        truth = 2 ** (4.0 + 0.4 * ndtri(0.25))
        assert found.beats
        self.assertTrue(found.is_sure)
        self.assertLess(len(beats), 100)
        self.assertAlmostEqual(float(np.log2(found.beats / truth)), 0, delta=0.45)


class ByClockTests(TestCase):
    def test_a_random_walk_by_hand(self) -> None:
        """Φ(1.1503) − Φ(−1.1503) = 3/4 (normal table): n = (limit / (1.1503 · clock))² slots."""
        found = predicted_reach(10.0, (9.99, 10.01), 0.0, (-1e-6, 1e-6), bpm=60, slots=2)
        self.assertAlmostEqual(found.beats, (50 / (1.15035 * 10.0)) ** 2 / 2, delta=0.15)

    def test_a_lean_alone_by_hand(self) -> None:
        """A clock without noise that leans 1 % is 5 % of a beat off after five beats."""
        found = predicted_reach(0.01, (0.0099, 0.0101), -1.0, (-1.0001, -0.9999), bpm=96, slots=1)
        self.assertAlmostEqual(found.beats, 5.0, delta=0.1)

    def test_as_simulated_players_hold(self) -> None:
        """The share that players without a correction to make hold at the predicted length, over 400 walks."""
        rng = np.random.default_rng(2)
        clock_ms, lean = 7.0, 0.4
        found = predicted_reach(clock_ms, (6.99, 7.01), lean, (0.3999, 0.4001), bpm=90, slots=2)
        n = round(found.beats)
        ends = rng.normal(0, clock_ms, (4000, 2 * n)).sum(axis=1) - lean / 100 * (60_000 / 90) * n
        self.assertAlmostEqual(float(np.mean(np.abs(ends) <= 0.05 * 60_000 / 90)), 0.75, delta=0.06)

    def test_what_it_is_measured_with_shortens_it_and_ranges_agree_where_they_overlap(self) -> None:
        sure = predicted_reach(8.0, (7.0, 9.1), 0.2, (-0.1, 0.5), bpm=84, slots=2)
        measured = predicted_reach(8.0, (7.0, 9.1), 0.2, (-0.1, 0.5), bpm=84, slots=2, range_ms=12.0)
        self.assertLess(measured.beats, sure.beats)
        self.assertTrue(sure.ci95_beats[0] < sure.beats < sure.ci95_beats[1])
        self.assertTrue(sure.agrees(sure.ci95_beats))
        self.assertFalse(sure.agrees((500.0, 600.0)))
