"""Verdict, what was played against what was asked, findings and clean: rules by hand, and simulated students."""

import json
from dataclasses import replace
from pathlib import Path
from typing import get_args
from unittest import TestCase

import jsonschema
import numpy as np
from scipy.stats import chi2

from giusto.practice.advice import Change
from giusto.practice.clean import Cleanness, Limits, Margins, cleanness, in_the_end, is_clean, is_easy, margins
from giusto.practice.finding import Judged, Played
from giusto.practice.judge import Judgement, judge
from giusto.practice.verdict import VerdictCode, tempo_alone, verdict_of
from giusto.reading import analyse
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import fixed, planned
from tests.giusto.returns import Bridging
from tests.giusto.takes import taken

STEADY = SimulatedPlayer(clock_percent=0.4, hand_ms=3.0)


def judged(player: SimulatedPlayer, *, seed: int = 1, **changes) -> Judgement:  # type: ignore[no-untyped-def]
    """Return what is said of a simulated take of a drill of ``tests.drills``."""
    return judge(planned(**changes), taken(player, seed=seed, **changes))


def codes(judgement: Judgement) -> list[str]:
    """Return the codes of what was found."""
    return [finding.code for finding in judgement.findings]


class VerdictTests(TestCase):
    def of(self, outcomes: str, **changes) -> tuple[str, int, int]:  # type: ignore[no-untyped-def]
        """Return the verdict on outcomes given by their first letters, of a take without a sure lean."""
        names = {name[0]: name for name in ("held", "late", "early", "unreadable")} | {"x": "edge"}
        start = taken(SimulatedPlayer())
        silences = [replace(start.silences[0], outcome=names[letter], slip_beats=0) for letter in outcomes]
        unclear = replace(start.tendency, verdict="unclear")  # type: ignore[type-var]
        verdict = verdict_of(planned(), replace(start, silences=silences, tendency=unclear, course=None, **changes))
        return verdict.code, verdict.silences, verdict.of

    def test_by_hand(self) -> None:
        cases = (
            ("hhhh", ("held", 4, 4)),
            ("hhhl", ("held", 3, 4)),
            ("lllh", ("dragged", 3, 4)),
            ("eeeu", ("rushed", 3, 3)),
            ("lehx", ("uneven", 2, 4)),
            ("xxxx", ("edge", 4, 4)),
            ("hhll", ("dragged", 2, 4)),
            ("xxh", ("edge", 2, 3)),
            ("uuu", ("too-few", 0, 3)),
            ("", ("before", 0, 0)),  # the simulated player plays 20 ms before the click
        )
        for outcomes, expected in cases:
            with self.subTest(outcomes):
                self.assertEqual(self.of(outcomes), expected)

    def test_a_lean_that_is_sure_decides_where_outcomes_do_not(self) -> None:
        """Sixteen returns, all a little late, none surely beyond the limit."""
        start = taken(SimulatedPlayer())
        edge = [replace(start.silences[0], outcome="edge", slip_beats=0, return_ms=20.0)] * 16
        leaning = replace(start.tendency, tempo_percent=-1.2, ci95_percent=(-1.8, -0.6), verdict="dragging")  # type: ignore[type-var]
        verdict = verdict_of(planned(), replace(start, silences=edge, tendency=leaning, course=None))
        self.assertEqual((verdict.code, verdict.silences, verdict.of), ("dragged", 16, 16))

    def test_jumped_at_once_is_not_dragged(self) -> None:
        plan = planned(cycles=32)
        onsets = simulate(plan, SimulatedPlayer(clock_percent=0.8), seed=2).onsets_s.copy()
        for silence in plan.silences:
            start_s, end_s = plan.seconds(np.array([silence.start_tick, silence.end_tick]))
            onsets[(onsets > start_s + 0.1) & (onsets < end_s + 0.1)] += 0.060
        found = judge(plan, analyse(plan, onsets).reading)
        self.assertEqual((found.verdict.code, found.findings[0].came), ("jumped", "at once"))
        self.assertEqual(found.advice.proposed.change, "more_heard")

    def test_returns_that_are_surely_late_together(self) -> None:
        """Each by itself is close to the limit of 31 ms; eight of them, all past it, are not."""
        start = taken(SimulatedPlayer())
        unclear = replace(start.tendency, verdict="unclear")  # type: ignore[type-var]
        for sizes, code in (((45,) * 8, "dragged"), ((-45,) * 8, "rushed"), ((45,) * 3, "edge"), ((20,) * 8, "edge")):
            silences = [
                replace(
                    start.silences[0], outcome="edge", slip_beats=0, return_ms=ms, return_ci95_ms=(ms - 30, ms + 30)
                )
                for ms in sizes
            ]
            verdict = verdict_of(planned(), replace(start, silences=silences, tendency=unclear, course=None))
            self.assertEqual(verdict.code, code)

    def test_a_take_that_stops_right_after_a_lost_beat(self) -> None:
        """100, eight cycles alone, a note a beat, 4 % slow: one note after the return bends no tempo."""
        for slip in (-1.0, 0.0, 1.0):
            for seed in range(3):
                plan = planned(bpm=100, silence=fixed(2, 8), grid=1, cycles=10)
                player = SimulatedPlayer(bias_percent=-4, clock_percent=1, hand_ms=6, slip_beats=slip)
                onsets_s = simulate(plan, player, seed=seed).onsets_s
                after = int(np.searchsorted(onsets_s, float(plan.seconds(plan.silences[0].end_tick)) + 0.3))
                found = analyse(plan, onsets_s[: after + 1]).reading.tendency
                assert found
                self.assertAlmostEqual(found.tempo_percent, -4, delta=0.6)

    def test_a_leap_at_the_return_is_no_drift_though_more_silences_would_have_come(self) -> None:
        """100, eight cycles alone, a note a beat, 4 to 4.6 % slow; the take stops one or two notes after the return."""
        plan = planned(bpm=100, silence=fixed(2, 8), grid=1, cycles=30)
        silence = plan.silences[0]
        start_s, end_s = plan.seconds(np.array([silence.start_tick, silence.end_tick])).tolist()
        for bias in (-4.6, -4.2, 4.3):
            for seed in range(4):
                take = simulate(plan, SimulatedPlayer(bias_percent=bias, clock_percent=1.0, hand_ms=10), seed=seed)
                played = int(np.searchsorted(take.onsets_s, end_s))
                true = 100 * ((end_s - start_s) / (end_s - start_s + take.drift_s[0]) - 1)
                for after in (1, 2):
                    found = analyse(plan, take.onsets_s[: played + after]).reading.silences[0]
                    with self.subTest(bias=bias, seed=seed, after=after):
                        self.assertAlmostEqual(found.tempo_percent or 0.0, true, delta=0.5)

    def test_no_beat_is_lost_by_a_steady_drag(self) -> None:
        """0.6 of a beat, and a whole one, by a drag that the notes follow: late, not a slip."""
        for beats in (0.6, 1.0):
            player = SimulatedPlayer(bias_percent=100 * (1 / (1 + beats / 65) - 1), clock_percent=0.5, hand_ms=3.0)
            found = judged(player, bpm=200, silence=fixed(1, 16), cycles=17)
            self.assertEqual((found.verdict.code, found.findings[0].code), ("dragged", "wide"))

    def test_a_beat_lost_at_once_is_a_slip(self) -> None:
        changes = dict(silence=fixed(2, 8), cycles=30, grid=1, play=["1"])
        found = judged(SimulatedPlayer(slip_beats=-1, clock_percent=0.5), **changes)
        self.assertEqual((found.verdict.code, found.findings[0].code, found.findings[0].size), ("slipped", "slip", -1))


class TempoTests(TestCase):
    def test_the_tempo_alone_is_the_lean_between_clicks(self) -> None:
        """On two and four each click brings the player home, yet the tempo in the gaps is 2 % slow."""
        plan = planned(on=["2", "4"], silence=None, bpm=160, cycles=24)
        reading = analyse(plan, simulate(plan, SimulatedPlayer(bias_percent=-2.0, alpha=0.8), seed=3).onsets_s).reading
        found = tempo_alone(plan.drill, reading)
        assert found is not None
        self.assertTrue(found.ci95_bpm[0] <= 160 * 0.98 <= found.ci95_bpm[1])
        self.assertLess(found.bpm, 159)

    def test_none_without_silences(self) -> None:
        self.assertIsNone(tempo_alone(planned(silence=None).drill, taken(SimulatedPlayer(), silence=None, cycles=4)))


class PlayedTests(TestCase):
    """All as eighths at 160, two heard and two silent, eight cycles: what a teacher would say."""

    def setUp(self) -> None:
        self.plan = planned(bpm=160, cycles=8)
        take = simulate(self.plan, SimulatedPlayer(clock_percent=0.8, hand_ms=5.0), seed=4)
        self.onsets, self.asked = take.onsets_s, take.asked
        tick = self.plan.notes.tick
        inside = np.zeros(tick.size, dtype=bool)
        for silence in self.plan.silences:
            inside |= (tick > silence.start_tick) & (tick < silence.end_tick)
        self.alone = inside[self.asked]

    def found(self, onsets: np.ndarray) -> list[tuple[str, float, str | None]]:
        judgement = judge(self.plan, analyse(self.plan, np.sort(onsets)).reading)
        return [(finding.code, finding.size, finding.where) for finding in judgement.findings]

    def test_as_asked(self) -> None:
        named = {"half", "double", "doubled", "stopped-alone", "joined-late", "other-part", "not-this-drill"}
        self.assertEqual({code for code, *_ in self.found(self.onsets)} & named, set())

    def test_another_number_of_notes(self) -> None:
        slot_s = 60 / 160 / 2
        cases = (
            (self.onsets[self.asked % 2 == 0], ("half", 2, None)),
            (self.onsets[self.asked % 2 == 1], ("half", 2, None)),
            (self.onsets[self.asked % 4 == 0], ("half", 4, None)),
            (self.onsets[(self.asked % 2 == 0) | ~self.alone], ("half", 2, "alone")),
            (np.append(self.onsets, self.onsets + slot_s / 2), ("double", 2, None)),
            (np.append(self.onsets, self.onsets + 0.045), ("doubled", 45.0, None)),
            (self.onsets[~self.alone], ("stopped-alone", 2, None)),
            (self.onsets[self.plan.notes.cycle[self.asked] >= 3], ("joined-late", 3, "3")),
            (np.arange(1.5, 14.9, 0.125), ("other-part", 35, "1/3")),
        )
        for onsets, (code, size, where) in cases:
            with self.subTest(code, where=where):
                first = self.found(onsets)[0]
                self.assertEqual((first[0], first[2]), (code, where))
                self.assertAlmostEqual(first[1], size, delta=20 if code == "other-part" else 0.5)

    def test_who_played_something_else_first_did_not_join_late(self) -> None:
        """Two cycles half a slot beside the places: they are played, and not what was asked."""
        early = self.plan.notes.cycle[self.asked] < 3
        moved = np.where(early, self.onsets + 0.5 * 60 / 160 / 2, self.onsets)
        self.assertNotIn("joined-late", {code for code, *_ in self.found(moved)})
        self.assertIn("joined-late", {code for code, *_ in self.found(self.onsets[~early])})

    def test_few_notes_left_out_at_a_place_are_slips_and_no_other_number_of_notes(self) -> None:
        """A quarter of the offbeats left out, here and there: they were asked and mostly played."""
        offbeats = np.flatnonzero(self.asked % 2 == 1)
        left_out = np.isin(np.arange(self.onsets.size), offbeats[::4])
        self.assertEqual({"half", "other-part"} & {code for code, *_ in self.found(self.onsets[~left_out])}, set())

    def test_quarters_and_offbeats_alone_are_read_all_the_same(self) -> None:
        for odd in (0, 1):
            reading = analyse(self.plan, self.onsets[self.asked % 2 == odd]).reading
            self.assertNotIn("unreadable", [silence.outcome for silence in reading.silences])

    def test_another_figure_on_the_same_grid(self) -> None:
        plan = planned(bpm=80, grid=4, play=["1", "1+3/4", "2", "2+3/4", "3", "3+3/4", "4", "4+3/4"], cycles=8)
        played = planned(bpm=80, grid=4, play=["1", "1+1/2", "2", "2+1/2", "3", "3+1/2", "4", "4+1/2"], cycles=8)
        onsets = simulate(played, STEADY, seed=1).onsets_s
        found = judge(plan, analyse(plan, onsets).reading).findings[0]
        self.assertEqual((found.code, found.where), ("other-part", "1/2"))

    def test_random_hits_are_not_this_drill_and_no_verdict(self) -> None:
        judgement = judge(self.plan, analyse(self.plan, np.sort(np.random.default_rng(2).uniform(1.5, 15, 72))).reading)
        self.assertEqual((judgement.verdict.code, codes(judgement)), ("not-this-drill", ["not-this-drill"]))

    def test_nobody_comes_back_who_stopped_inside_the_silence(self) -> None:
        start_s = float(self.plan.seconds(self.plan.silences[0].start_tick))
        reading = analyse(self.plan, self.onsets[self.onsets < start_s + 2.0]).reading
        self.assertEqual([s.outcome for s in reading.silences], ["unreadable", "unreadable"])
        self.assertIsNone(reading.silences[0].return_ms)
        judgement = judge(self.plan, reading)
        self.assertEqual((judgement.findings[0].code, judgement.findings[0].where), ("stopped-in-silence", "1"))

    def test_uneven_hands_come_before_anything_else(self) -> None:
        found = judged(SimulatedPlayer(hand_ms=30, clock_percent=1.0), bpm=160, cycles=16)
        self.assertEqual((found.findings[0].code, found.findings[0].where), ("spread", "click"))
        self.assertEqual(found.advice.proposed.change, "slower")


class FindingTests(TestCase):
    def test_late_clicks_mean_narrow_beats_and_the_reverse(self) -> None:
        found = judged(SimulatedPlayer(bias_percent=3.0)).findings[0]
        assert found.ci95 is not None
        self.assertEqual((found.code, found.n), ("narrow", 4))
        # Eighths at 96 last 312.5 ms: 3 % faster means that each must be felt about 9.4 ms wider.
        self.assertAlmostEqual(found.slot_ms or 0.0, 312.5 * found.size / 100, places=2)
        self.assertTrue(found.ci95[0] < 3.0 < found.ci95[1])
        self.assertEqual(codes(judged(SimulatedPlayer(bias_percent=-3.0)))[0], "wide")

    def test_held_few_and_follows(self) -> None:
        self.assertIn("held", codes(judged(STEADY)))
        self.assertEqual(codes(judged(SimulatedPlayer(missed=0.9), seed=3))[-1], "few")
        self.assertIn("follows", codes(judged(SimulatedPlayer(alpha=1.0), silence=None, cycles=200, grid=1)))

    def test_rhythm_is_kept_apart_from_time(self) -> None:
        plan = planned(grid=4)
        onsets = simulate(plan, STEADY, seed=1).onsets_s.copy()
        onsets[3::4] -= 0.020
        found = judge(plan, analyse(plan, onsets).reading).findings
        self.assertEqual([finding.code for finding in found], ["held", "crushed", "stretched"])
        self.assertEqual([finding.where for finding in found[1:]], ["1/2 to 3/4", "3/4 to 1"])
        self.assertAlmostEqual(found[1].slot_ms or 0.0, -20.0, delta=3.0)

    def test_swung_eighths_are_no_fault_and_a_dotted_figure_is_no_swing(self) -> None:
        plan = planned()
        onsets = simulate(plan, STEADY, seed=1).onsets_s.copy()
        onsets[1::2] += 0.06
        self.assertEqual(codes(judge(plan, analyse(plan, onsets).reading)), ["held"])
        # The dotted eighth and sixteenth, the sixteenth 42 ms early each time.
        dotted = planned(bpm=120, grid=4, play=[f"{b}{p}" for b in (1, 2, 3, 4) for p in ("", "+3/4")])
        onsets = simulate(dotted, STEADY, seed=1).onsets_s.copy()
        onsets[1::2] -= 0.042
        reading = analyse(dotted, onsets).reading
        self.assertIsNone(reading.swing)
        self.assertEqual(codes(judge(dotted, reading))[1:], ["crushed", "stretched"])

    def test_no_spread_from_fewer_than_five_returns(self) -> None:
        reading = taken(SimulatedPlayer())
        outcomes = ["late", "early", "late", "early"]

        def of(count: int) -> list[str]:
            silences = [
                replace(reading.silences[0], outcome=o, slip_beats=0, return_ms=60.0 if o == "late" else -60.0)
                for o in (outcomes * 2)[:count]
            ]
            unclear = replace(reading.tendency, tempo_percent=0.0, ci95_percent=(-1.5, 1.5), verdict="unclear")  # type: ignore[type-var]
            return codes(judge(planned(cycles=4 * count), replace(reading, silences=silences, tendency=unclear)))

        self.assertNotIn("spread", of(4))
        self.assertIn("spread", of(6))

    def test_players_without_a_fault_are_seldom_told_of_one(self) -> None:
        faults = {"narrow", "wide", "slip", "crushed", "stretched", "place", "tired", "spread", "other-part"}
        told = sum(
            code in faults
            for seed in range(30)
            for code in codes(judged(SimulatedPlayer(clock_percent=1.0, hand_ms=6.0), seed=seed))
        )
        self.assertLessEqual(told, 5)


class CleanTests(TestCase):
    def test_by_hand(self) -> None:
        plan, held = planned(), taken(STEADY)
        found = cleanness(margins(plan, held))
        self.assertEqual(found.told, "clean")
        self.assertGreater(found.chance, 0.9)
        late = replace(held.silences[0], return_ms=45.0, return_ci95_ms=(35.0, 55.0))  # the limit is 31 ms
        self.assertEqual(cleanness(margins(plan, replace(held, silences=[late, *held.silences[1:]]))).told, "not-clean")
        unread = replace(held.silences[0], outcome="unreadable", return_ms=None, return_ci95_ms=None)
        self.assertEqual(
            cleanness(margins(plan, replace(held, silences=[unread, *held.silences[1:]]))), Cleanness(None, None)
        )

    def test_how_far_of_the_limit_its_farthest_return_may_lie(self) -> None:
        """By the end of its range that is farther from the click; a beat is 625 ms, its twentieth 31.25."""
        plan, held = planned(), taken(STEADY)
        rest = [replace(one, return_ci95_ms=(-3.0, 3.0)) for one in held.silences[1:]]
        for ends, share in (((-10.0, 25.0), 0.8), ((-25.0, 10.0), 0.8), ((5.0, 12.5), 0.4), ((-12.5, -5.0), 0.4)):
            one = replace(held.silences[0], return_ci95_ms=ends)
            self.assertEqual(margins(plan, replace(held, silences=[one, *rest])).return_share, share)

    def test_a_spread_is_told_in_percent_of_a_slot(self) -> None:
        plan, held = planned(grid=2), taken(STEADY, grid=2)
        shown = margins(plan, replace(held, heard=replace(held.heard, sd_ms=6.25)))
        self.assertEqual(shown.spread_percent, 2.0)  # of 312.5 ms

    def test_where_one_take_tells_little_it_is_open(self) -> None:
        """Returns at the limit, read to ± 1.6 and to ± 2.4 hundredths of a beat: the one is told, the other is not."""
        plan, held = planned(), taken(STEADY)
        beat_ms = 60_000 / plan.drill.tempo.bpm
        for sd, told in ((0.016, {"clean", "not-clean"}), (0.024, {"open"})):
            half = 1.08 * 1.96 * sd * beat_ms
            returns = [
                replace(s, return_ms=at * beat_ms, return_ci95_ms=(at * beat_ms - half, at * beat_ms + half))
                for s, at in zip(held.silences, (0.055, 0.0, 0.0, 0.0), strict=True)
            ]
            found = cleanness(margins(plan, replace(held, silences=returns)))
            with self.subTest(sd, chance=found.chance):
                self.assertTrue(0.2 <= (found.chance or 0) <= 0.8)
                self.assertIn(found.told, told)

    def test_what_is_known_of_the_player_moves_the_chance(self) -> None:
        plan, held = planned(), taken(STEADY)
        near = [replace(s, return_ms=28.0, return_ci95_ms=(10.0, 46.0)) for s in held.silences]
        reading = replace(held, silences=near)
        sure, wild = (
            margins(plan, reading, before=Bridging(walk=walk).returns(12, lengths=(9.0,) * 4, seed=2)).chance
            for walk in (0.004, 0.03)
        )
        self.assertGreater(sure, wild)

    def test_without_silences_by_spread_and_missed_notes(self) -> None:
        changes = dict(silence=None, cycles=8)
        plan, reading = planned(**changes), taken(STEADY, **changes)
        self.assertIs(is_clean(margins(plan, reading)), True)
        self.assertIs(is_clean(margins(plan, reading), Limits(spread_percent=0.5)), False)
        missed = cleanness(margins(plan, taken(replace(STEADY, missed=0.2), **changes)))
        self.assertEqual((missed.chance, missed.told), (0.0, "not-clean"))

    def test_figures_alone_tell_where_no_chance_can_be_had(self) -> None:
        """Margins of an earlier version, without notes: on both limits is within them, beyond either is not."""
        for spread, missed, told in ((4.0, 5.0, "clean"), (4.01, 5.0, "not-clean"), (4.0, 5.01, "not-clean")):
            self.assertEqual(cleanness(Margins(0, 0, 0, None, spread, missed)), Cleanness(None, told))
        for silences, held, unreadable, told in ((3, 3, 0, "clean"), (3, 2, 1, None), (3, 1, 1, "not-clean")):
            found = cleanness(Margins(silences, held, unreadable, None, 3.0, 1.0))
            self.assertEqual(found, Cleanness(None, told))
        self.assertEqual(cleanness(Margins(0, 0, 0, None, None, None)), Cleanness(None, None))

    def test_the_chance_of_a_spread_is_that_of_chi_squared(self) -> None:
        """Thirty notes with the click say as much as ten: scipy.stats.chi2, of nine degrees."""
        plan, reading = planned(silence=None, cycles=8), taken(STEADY, silence=None, cycles=8)
        shown = replace(margins(plan, reading), spread_percent=3.0, notes=30)
        self.assertAlmostEqual(cleanness(shown).chance or 0, chi2.sf(9 * (3 / 4) ** 2, 9), places=3)

    def test_a_place_counts_where_it_is_asked_for(self) -> None:
        plan, reading = planned(), taken(replace(STEADY, place_ms=-60.0))
        self.assertIs(is_clean(margins(plan, reading)), True)
        self.assertIs(is_clean(margins(plan, reading), Limits(place_ms=30.0)), False)
        self.assertIs(is_clean(margins(plan, reading), Limits(place_ms=90.0)), True)

    def test_easy_is_the_whole_range_within_half_of_what_is_held(self) -> None:
        plan, held = planned(), taken(STEADY)
        limit_ms = 0.05 * 60_000 / plan.drill.tempo.bpm
        for end, easy in ((0.49, True), (0.51, False)):
            ends = (-end * limit_ms, end * limit_ms)
            made = [replace(silence, outcome="held", return_ci95_ms=ends) for silence in held.silences]
            self.assertIs(is_easy(margins(plan, replace(held, silences=made))), easy, end)
        self.assertTrue(is_easy(Margins(3, 3, 0, None, 3.0, 1.0, chance=0.99)))  # of an earlier version, without ranges

    def test_a_stage_of_a_build_up_needs_note_and_click_as_one_for_so_many_cycles(self) -> None:
        changes = dict(silence=None, cycles=8)
        plan, reading = planned(**changes), taken(STEADY, **changes)
        assert reading.together
        for longest, clean in ((4 * 8, True), (4 * 8 - 1, False)):  # four clicks a cycle, a note with each
            made = replace(reading, together=replace(reading.together, longest=longest))
            self.assertIs(is_clean(margins(plan, made), Limits(fused_cycles=8)), clean)

    def test_the_players_word_makes_it_not_clean_and_answers_what_is_open(self) -> None:
        by_hand = {
            (True, True, None): True,
            (True, True, False): False,
            (False, True, True): False,
            (None, True, None): None,
            (None, True, True): True,
            (None, True, False): False,
            (True, False, None): None,
            (True, False, True): True,
            (False, False, None): False,
        }
        for (read, is_whole, said), expected in by_hand.items():
            self.assertIs(in_the_end(read, is_whole=is_whole, said=said), expected, (read, is_whole, said))


class FileTests(TestCase):
    def test_advice_2_has_what_its_contract_names(self) -> None:
        plan = planned()
        plain_advice = judge(plan, taken(SimulatedPlayer(bias_percent=-3.0))).plain()
        self.assertEqual(plain_advice["giusto"], "advice/2")
        self.assertEqual(plain_advice["verdict"], {"code": "dragged", "silences": 4, "of": 4})
        self.assertEqual(plain_advice["kind"], "silences")
        self.assertEqual([step["way"] for step in plain_advice["next"]], ["easier", "again", "harder"])
        self.assertEqual(plain_advice["next"][1]["drill"], plan.drill.plain())
        self.assertEqual(plain_advice["clean"]["told"], "not-clean")
        self.assertLess(plain_advice["tempo"]["ci95_bpm"][0], plain_advice["tempo"]["bpm"])


class SchemaTests(TestCase):
    """``advice/2``, as its published schema says."""

    schema = json.loads((Path(__file__).parents[3] / "docs/schema/advice-2.json").read_text(encoding="utf-8"))

    def test_the_schema_knows_every_code(self) -> None:
        fields = self.schema["properties"]
        found = fields["findings"]["items"]["properties"]["code"]["enum"]
        self.assertEqual(set(found), {*get_args(Judged), *get_args(Played)})
        self.assertEqual(set(fields["verdict"]["properties"]["code"]["enum"]), set(get_args(VerdictCode)))
        self.assertEqual(set(fields["next"]["items"]["properties"]["change"]["enum"]), set(get_args(Change)))

    def test_takes_of_all_kinds_are_written_by_it(self) -> None:
        for player in (
            STEADY,
            SimulatedPlayer(bias_percent=3),
            SimulatedPlayer(missed=0.6),
            SimulatedPlayer(hand_ms=50, extra=0.3),
        ):
            for changes in ({}, {"silence": None}, {"play": "free"}, {"grid": 1, "silence": fixed(1, 4)}):
                with self.subTest(player=player, **changes):
                    written = json.loads(json.dumps(judged(player, **changes).plain()))
                    faults = jsonschema.Draft202012Validator(self.schema).iter_errors(written)
                    self.assertEqual([fault.message for fault in faults], [])
