"""Reach by what was held: against a probit regression of a general-purpose library, and over simulated players."""

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
from giusto.practice.reach import parse_silences
from giusto.practice.reach.by_outcomes import LAPSES, LONGEST, SHORTEST, SPREADS_OCT, STEP, reach_by_outcomes

SCHEMA = Path(__file__).parents[3] / "docs/schema/reach-1.json"


def played(half: float, spread: float, lapse: float, beats: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Return which silences a simulated player holds."""
    return rng.random(beats.size) < (1 - lapse) * ndtr((half - np.log2(beats)) / spread)


class ReachTests(TestCase):
    def test_a_fortieth_of_what_is_likely_lies_beyond_each_end(self) -> None:
        """Of a learner who holds four octaves: both ends lie tenths of an octave off, not at the grid's end."""
        beats = 2.0 ** np.linspace(2, 6, 60)
        found = reach_by_outcomes(beats.tolist(), (beats < 2.0**4).tolist())
        assert found.beats
        assert found.ci95_beats
        below, above = (abs(float(np.log2(end / found.beats))) for end in found.ci95_beats)
        self.assertTrue(0.05 < below < 1.0, below)
        self.assertTrue(0.05 < above < 1.0, above)
        self.assertLess(max(below, above) / min(below, above), 2.0)

    def test_as_a_probit_regression_has_it(self) -> None:
        """statsmodels' Probit on 2,000 silences: where its curve is at three quarters."""
        rng = np.random.default_rng(4)
        beats = 2.0 ** rng.uniform(1, 7, 2000)
        held = played(4.2, 0.6, 0.0, beats, rng)
        fitted = sm.Probit(held.astype(float), sm.add_constant(np.log2(beats))).fit(disp=0)
        constant, slope = fitted.params
        expected = 2 ** ((0.6744897501960817 - constant) / slope)
        found = reach_by_outcomes(beats.tolist(), held.tolist())
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
            found = reach_by_outcomes(beats.tolist(), held.tolist())
            if found.ci95_beats:
                hits.append(found.ci95_beats[0] <= truth <= found.ci95_beats[1])
        self.assertTrue(0.92 <= np.mean(hits) <= 0.99, np.mean(hits))

    def test_all_held_or_none(self) -> None:
        all_held = reach_by_outcomes([4, 8, 12], [True] * 3)
        self.assertEqual((all_held.beats, all_held.reason, all_held.at_most), (None, "all-held", None))
        assert all_held.at_least
        self.assertGreater(all_held.next_beats, 12)
        none = reach_by_outcomes([8, 16], [False] * 2)
        self.assertEqual((none.beats, none.reason, none.at_least), (None, "none-held", None))
        self.assertLess(none.next_beats, 8)

    def test_the_next_length_follows_what_is_known(self) -> None:
        """Held up to 8, lost from 16: neither a short nor a long silence would tell anything."""
        found = reach_by_outcomes(
            [4, 6, 8, 8, 16, 20, 24] * 3, [True] * 4 * 1 + [False] * 3 + ([True] * 4 + [False] * 3) * 2
        )
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
            jsonschema.validate(reach_by_outcomes([8.0, 16.0], held).plain(), schema)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(reach_by_outcomes([8.0], [True]).plain() | {"more": 1}, schema)


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
            following = reach_by_outcomes(beats, held).next_beats
            self.assertAlmostEqual(float(quest.next_stim["intensity"]), -np.log2(following), places=9)


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
            found = reach_by_outcomes(beats.tolist(), held.tolist())
            assert found.beats
            assert found.ci95_beats
            self.assertAlmostEqual(float(np.log2(found.beats / expected)), 0, delta=0.1)
            self.assertTrue(found.ci95_beats[0] <= expected <= found.ci95_beats[1])
