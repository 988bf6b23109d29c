"""Reach: against a probit regression of a general-purpose library, and over simulated players."""

import json
from pathlib import Path
from unittest import TestCase

import jsonschema
import numpy as np
import statsmodels.api as sm
from scipy.special import ndtr, ndtri

from giusto.errors import GiustoError
from giusto.practice.reach import parse_silences, reach

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
