"""Reach: files by hand, players of known clocks, the schema; and as clock and lean let expect it."""

import json
from pathlib import Path
from unittest import TestCase

import jsonschema
import numpy as np
from scipy.special import ndtri

from giusto.errors import GiustoError
from giusto.practice.reach import Reach, is_of_outcomes, parse_returns, reach
from giusto.practice.reach.by_clock import Predicted, predicted_reach
from giusto.returns.drift import AHEAD, NONE, START
from tests.giusto.returns import Bridging

SCHEMA = json.loads((Path(__file__).parents[3] / "docs/schema/reach-2.json").read_text(encoding="utf-8"))
HEADER = "take,beats,return_beats,sd_beats"


class ReachTests(TestCase):
    def test_the_range_holds_the_true_length_and_closes_in_with_takes(self) -> None:
        for player in (Bridging(walk=0.012), Bridging(walk=0.02, lean=0.004, apart=0.002)):
            few, many = (reach(player.returns(takes, seed=3)) for takes in (6, 60))
            with self.subTest(player):
                for found in (few, many):
                    low, high = found.ci95_beats or (0.0, 0.0)
                    self.assertTrue(low <= player.reach <= high, found)
                self.assertLess(abs(np.log2((many.beats or 0.0) / player.reach)), 0.3)
                self.assertLess(self.octaves(many), self.octaves(few))
                self.assertEqual((many.silences, many.takes), (240, 60))
                self.assertIsNone(many.bounded)

    def octaves(self, found: Reach) -> float:
        low, high = found.ci95_beats or (0.0, 0.0)
        return float(np.log2(high / low))

    def test_a_loose_hand_or_few_notes_shorten_nothing(self) -> None:
        """The same clock read to 1 and to 3 hundredths of a beat: what is read worse is known worse, not shorter."""
        player = Bridging(walk=0.012)
        well, badly = (reach(player.returns(40, sd=sd, seed=4)) for sd in (0.01, 0.03))
        self.assertLess(abs(np.log2((well.beats or 0.0) / (badly.beats or 1.0))), 0.5)

    def test_the_curve_falls_and_the_longest_held_is_one_that_was_tried(self) -> None:
        found = reach(Bridging(walk=0.015).returns(30, seed=5))
        chances = [one.chance for one in found.curve]
        self.assertEqual([one.beats for one in found.curve], [1, 2, 4, 8, 16, 32])
        self.assertEqual(chances, sorted(chances, reverse=True))
        self.assertTrue(all(one.ci95[0] <= one.chance <= one.ci95[1] for one in found.curve))
        assert found.longest
        self.assertIn(found.longest.beats, (4.0, 8.0))
        self.assertGreaterEqual(found.longest.chance, 2 / 3)

    def test_what_takes_cannot_tell_is_said(self) -> None:
        short = reach(Bridging(walk=0.008).returns(4, lengths=(1.0, 2.0), seed=6))
        self.assertEqual(short.bounded, "below")
        self.assertGreater((short.ci95_beats or (0, 0))[1], 4.0)
        self.assertEqual(short.next_beats, 4)  # twice what was tried, and no further
        inside = reach(Bridging(walk=0.012).returns(30, lengths=(8.0, 12.0), seed=6))
        self.assertGreater((inside.ci95_beats or (0, 0))[1], 12.0)  # a little beyond what was tried
        self.assertLess((inside.ci95_beats or (0, 0))[1], 24.0)
        self.assertIsNone(inside.bounded)
        self.assertEqual([one.beats for one in inside.curve], [1, 2, 4, 8, 16])  # no further than twice what was tried
        long = reach(Bridging(walk=0.05).returns(6, lengths=(16.0, 32.0), seed=6))
        self.assertEqual(long.bounded, "above")
        nothing = reach(NONE)
        self.assertEqual((nothing.beats, nothing.reason, nothing.next_beats), (None, "no-silences", 8))

    def test_lapses_are_counted_apart_and_widen_no_clock(self) -> None:
        """One return in twelve half a beat off: a lapse, whose chance no length escapes."""
        player = Bridging(walk=0.01)
        plain, lost = reach(player.returns(30, seed=7)), reach(player.returns(30, lapses=1 / 12, seed=7))
        self.assertLess(lost.curve[0].chance, 0.96)
        self.assertGreater(plain.curve[0].chance, 0.97)
        self.assertGreater((lost.beats or 0.0) / (plain.beats or 1.0), 0.6)

    def test_a_test_of_it_ends_within_a_quarter(self) -> None:
        player, rng = Bridging(walk=0.014), np.random.default_rng(8)
        rows = [(0, 8.0, player.once(8.0, rng))]
        while not (found := reach(player.of(rows))).is_sure and len(rows) < 400:
            rows.append((len(rows), float(found.next_beats), player.once(float(found.next_beats), rng)))
        self.assertTrue(found.is_sure)
        self.assertAlmostEqual(float(np.log2((found.beats or 0.0) / player.reach)), 0, delta=0.4)

    def test_the_lean_is_told_as_a_tempo(self) -> None:
        """One beat in a hundred too late at each return is a tempo 0.99 % slower."""
        found = reach(Bridging(walk=0.005, lean=0.01).returns(40, seed=9))
        low, high = found.lean_ci95_percent or (0.0, 0.0)
        self.assertAlmostEqual(found.lean_percent or 0.0, -0.99, delta=0.2)
        self.assertTrue(low < -0.99 < high)

    def test_the_schema_says_the_same(self) -> None:
        for found in (reach(Bridging().returns(3, seed=1)), reach(NONE)):
            jsonschema.validate(found.plain(), SCHEMA)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(reach(NONE).plain() | {"more": 1}, SCHEMA)


class FileTests(TestCase):
    def test_columns_in_any_order_with_when_they_were(self) -> None:
        text = (
            "at,take,beats,return_beats,sd_beats\r\n"
            "2026-11-02T10:00:00+01:00,a,8,-0.02,0.01\r\n2026-11-30T09:00:00Z,b,8.5,0.03,0\r\n"
        )
        found = parse_returns(text)
        self.assertEqual(found.take.tolist(), [0, 1])
        self.assertEqual((found.beats.tolist(), found.return_beats.tolist()), ([8.0, 8.5], [-0.02, 0.03]))
        np.testing.assert_allclose(found.weight, [0.5, 1.0])  # four weeks older counts half

    def test_a_name_may_be_as_long_as_is_allowed(self) -> None:
        self.assertEqual(parse_returns(f"{HEADER}\n{'a' * 100},8,0,0\n").take.tolist(), [0])

    def test_no_rows_are_no_silences(self) -> None:
        self.assertEqual(reach(parse_returns(f"{HEADER}\n")).reason, "no-silences")

    def test_the_header_says_which_kind_it_is(self) -> None:
        self.assertEqual((is_of_outcomes("beats,held\n8,1\n"), is_of_outcomes(f"{HEADER}\n")), (True, False))

    def test_what_is_wrong_is_named_with_its_place_and_what_is_allowed(self) -> None:
        for text, message in (
            ("take,beats\n", "line 1 must be"),
            (f"{HEADER},more\n", "line 1 must be"),
            (f"{HEADER}\na,8,0\n", "line 2 has 3 fields, allowed are 4"),
            (f"{HEADER}\n,8,0,0\n", 'line 2, take: is ""'),
            (f"{HEADER}\n{'a' * 101},8,0,0\n", "line 2, take: .* allowed is a name of 1 to 100 letters"),
            (f"{HEADER}\na,0,0,0\n", 'line 2, beats: is "0", allowed is above 0'),
            (f"{HEADER}\na,8,nan,0\n", 'line 2, return_beats: is "nan"'),
            (f"{HEADER}\na,8,0,-1\n", 'line 2, sd_beats: is "-1", allowed is 0 to'),
            (f"{HEADER}\na,8,0,0\na,8,1e9,0\n", 'line 3, return_beats: is "1e9"'),
            (f"{HEADER},at\na,8,0,0,2026-11-30\n", "line 2, at: .* with an offset"),
        ):
            with self.subTest(text), self.assertRaisesRegex(GiustoError, message):
                parse_returns(text)

    def test_a_hundred_thousand_beats_either_way_are_allowed_and_no_more(self) -> None:
        for most in ("100000", "-100000"):
            self.assertEqual(parse_returns(f"{HEADER}\na,8,{most},0\n").return_beats.tolist(), [float(most)])
        with self.assertRaisesRegex(GiustoError, 'line 2, return_beats: is "100001", allowed is -100,000 to 100,000'):
            parse_returns(f"{HEADER}\na,8,100001,0\n")

    def test_years_from_1970_to_2200_are_allowed(self) -> None:
        for year, is_allowed in ((1969, False), (1970, True), (2200, True), (2201, False)):
            text = f"{HEADER},at\na,8,0,0,{year}-06-01T10:00:00Z\n"
            with self.subTest(year):
                if is_allowed:
                    self.assertEqual(parse_returns(text).weight.tolist(), [1.0])
                    continue
                with self.assertRaisesRegex(GiustoError, "1970 to 2200"):
                    parse_returns(text)


class ByClockTests(TestCase):
    def test_a_random_walk_by_hand(self) -> None:
        """Φ(1.15035) − Φ(−1.15035) = 3/4 (normal table): the variance at the reach is (limit / 1.15035)²."""
        found = predicted_reach(10.0, (9.99, 10.01), 0.0, (-1e-6, 1e-6), bpm=60, slots=2)
        self.assertAlmostEqual(found.beats, ((0.05 / 1.15035) ** 2 - START**2) / (2 * 0.01**2) - AHEAD, delta=0.1)

    def test_a_lean_alone_by_hand(self) -> None:
        """A clock without noise that leans 1 %: of 5 % of a beat, what three returns in four vary by is left."""
        found = predicted_reach(0.01, (0.0099, 0.0101), -1.0, (-1.0001, -0.9999), bpm=96, slots=1)
        self.assertAlmostEqual(found.beats, (0.05 - float(ndtri(0.75)) * START) / 0.01, delta=0.05)

    def test_ranges_of_clock_and_lean_become_those_of_the_length(self) -> None:
        """By the two formulas above: a clock known to ± 20 %; a lean of 1 %, known to ± .2."""
        var = (0.05 / 1.15035) ** 2 - START**2
        found = predicted_reach(8.0, (6.4, 10.0), 0.0, (-1e-6, 1e-6), bpm=60, slots=1)
        for end, clock_s in zip(found.ci95_beats, (0.010, 0.0064), strict=True):
            self.assertAlmostEqual(end / (var / clock_s**2 - AHEAD), 1, delta=0.12)
        left = 0.05 - float(ndtri(0.75)) * START
        found = predicted_reach(0.01, (0.0099, 0.0101), -1.0, (-1.2, -0.8), bpm=96, slots=1)
        for end, lean in zip(found.ci95_beats, (0.012, 0.008), strict=True):
            self.assertAlmostEqual(end / (left / lean), 1, delta=0.06)

    def test_whose_takes_lean_apart_by_hand(self) -> None:
        """No walk: the variance at the reach is σ0² + δ² L², by the same Φ; a looser start leaves less of it."""
        still = (0.001, (0.00099, 0.00101), 0.0, (-1e-6, 1e-6))
        for differ, start in ((0.3, 0.012), (0.6, 0.012), (0.3, 0.03)):
            found = predicted_reach(*still, bpm=96, slots=1, differ_percent=differ, start=start)
            expected = np.sqrt((0.05 / 1.15035) ** 2 - start**2) / (differ / 100)
            self.assertAlmostEqual(found.beats / expected, 1, delta=0.02)
            # Known to thirty in a hundred: the range of the length is about that of a log-normal δ.
            self.assertAlmostEqual(np.log(found.ci95_beats[1] / found.ci95_beats[0]) / 3.92, 0.25, delta=0.06)

    def test_a_start_that_is_hardly_known_widens_the_range(self) -> None:
        clock = (8.0, (7.9, 8.1), 0.0, (-1e-6, 1e-6))
        known, guessed = (predicted_reach(*clock, bpm=60, slots=1, start=0.03, start_log_sd=sd) for sd in (0.0, 0.5))
        self.assertLess(guessed.ci95_beats[0], 0.7 * known.ci95_beats[0])
        self.assertGreater(guessed.ci95_beats[1], 1.2 * known.ci95_beats[1])

    def test_as_simulated_players_hold(self) -> None:
        """The share that players without a correction to make hold at the predicted length, over 400 walks."""
        rng = np.random.default_rng(2)
        clock_ms, lean = 7.0, 0.4
        found = predicted_reach(clock_ms, (6.99, 7.01), lean, (0.3999, 0.4001), bpm=90, slots=2)
        n = round(found.beats)
        ends = rng.normal(0, clock_ms, (4000, 2 * n)).sum(axis=1) - lean / 100 * (60_000 / 90) * n
        self.assertAlmostEqual(float(np.mean(np.abs(ends) <= 0.05 * 60_000 / 90)), 0.75, delta=0.06)

    def test_ranges_agree_where_they_overlap(self) -> None:
        found = predicted_reach(8.0, (7.0, 9.1), 0.2, (-0.1, 0.5), bpm=84, slots=2)
        self.assertTrue(found.ci95_beats[0] < found.beats < found.ci95_beats[1])
        self.assertTrue(found.agrees(found.ci95_beats))
        self.assertFalse(found.agrees((500.0, 600.0)))
        one = Predicted(8.0, (4.0, 16.0))
        for measured, agrees in (
            ((5.0, 7.0), True), ((1.0, 4.0), True), ((16.0, 20.0), True), ((1.0, 3.9), False), ((17.0, 20.0), False)
        ):  # fmt: skip
            self.assertIs(one.agrees(measured), agrees, measured)
