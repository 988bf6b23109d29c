"""What to play next: rules by hand, and simulated students who follow it."""

from dataclasses import replace
from functools import cache
from itertools import groupby
from unittest import TestCase

from giusto.drill import Drill, validate
from giusto.practice.advice import Earlier
from giusto.practice.judge import earlier, judge
from giusto.reading import Reading, analyse
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from tests.drills import fixed, plain, planned
from tests.giusto.takes import taken

STEADY = SimulatedPlayer(clock_percent=0.4, hand_ms=3.0)


class RuleTests(TestCase):
    def test_a_lean_asks_for_what_it_came_by(self) -> None:
        plan, dragged = planned(), taken(SimulatedPlayer(bias_percent=-3.0))
        assert dragged.course is not None
        cases = (
            ("more_notes", replace(dragged, course=replace(dragged.course, way=None))),
            ("shorter_silence", replace(dragged, course=replace(dragged.course, way="growing"))),
            ("more_heard", replace(dragged, course=replace(dragged.course, way="at once"))),
        )
        for change, reading in cases:
            with self.subTest(change):
                proposed = judge(plan, reading).advice.proposed
                self.assertEqual((proposed.change, proposed.way), (change, "easier"))

    def test_more_notes_are_not_tried_twice(self) -> None:
        eighths = Earlier(planned().drill, False)
        proposed = judge(
            planned(grid=4), taken(SimulatedPlayer(bias_percent=-3.0), grid=4), before=[eighths]
        ).advice.proposed
        self.assertEqual(proposed.change, "shorter_silence")
        quarters, as_now = Earlier(planned(grid=1).drill, False), Earlier(planned().drill, False)
        for before, change in (
            ([], "more_notes"),
            ([as_now] * 3, "more_notes"),
            ([as_now] * 3 + [quarters], "shorter_silence"),
        ):
            found = judge(planned(), taken(SimulatedPlayer(bias_percent=-3.0)), before=before).advice.proposed
            self.assertEqual(found.change, change, len(before))

    def test_held_once_again_held_twice_harder(self) -> None:
        plan, held = planned(), taken(STEADY)
        once = earlier(plan, held)
        self.assertEqual(judge(plan, held).advice.proposed.way, "again")
        self.assertEqual(judge(plan, held, before=[replace(once, is_clean=False)]).advice.proposed.way, "again")
        twice = judge(plan, held, before=[once]).advice.proposed
        self.assertEqual((twice.way, twice.change), ("harder", "fewer_notes"))

    def test_come_back_comes_back(self) -> None:
        """A drill left for an easier one is proposed again once the easier one held twice."""
        hard, easy = planned(), planned(silence=fixed(2, 1), cycles=12)
        held = taken(STEADY, silence=fixed(2, 1), cycles=12)
        before = [Earlier(hard.drill, False), earlier(easy, held)]
        proposed = judge(easy, held, before=before).advice.proposed
        self.assertEqual((proposed.way, proposed.change, proposed.drill), ("harder", "back", hard.drill))

    def test_an_easier_drill_may_be_left_for_the_same_one_twice(self) -> None:
        """Come back to a third time the way there is made in smaller steps (ours)."""
        hard, easy = planned(), planned(silence=fixed(2, 1), cycles=12)
        held = taken(STEADY, silence=fixed(2, 1), cycles=12)
        visit = [Earlier(hard.drill, False), earlier(easy, held)]
        for visits, change in ((1, "back"), (2, "back"), (3, "")):
            proposed = judge(easy, held, before=visit * visits).advice.proposed
            self.assertEqual(proposed.change == "back", change == "back", visits)

    def unclear(self, return_ms: float, cycles: int = 8) -> tuple[Schedule, Reading]:
        """Return a take at 200, where 15 ms are the limit, whose returns are alike and can't be called."""
        plan = planned(cycles=cycles, bpm=200)
        reading = analyse(plan, simulate(plan, SimulatedPlayer(), seed=2).onsets_s).reading
        ends = (return_ms - 12.0, return_ms + 12.0)
        alike = [
            replace(s, outcome="edge", slip_beats=0, return_ms=return_ms, return_ci95_ms=ends, held_chance=0.5)
            for s in reading.silences
        ]
        lean = replace(reading.tendency, tempo_percent=-0.9, ci95_percent=(-2.0, 0.2), verdict="unclear")  # type: ignore[type-var]
        return plan, replace(reading, silences=alike, tendency=lean)

    def test_what_can_not_be_called_asks_for_a_longer_take_unless_it_is_clean_so_far(self) -> None:
        for return_ms, change in ((2.0, ""), (18.0, "more_cycles")):
            plan, reading = self.unclear(return_ms)
            found = judge(plan, reading)
            self.assertEqual((found.verdict.code, found.advice.proposed.change), ("edge", change))
            self.assertEqual(found.advice.proposed.way, "again")

    def test_what_no_single_take_shows_the_last_ones_show_together(self) -> None:
        plan, reading = self.unclear(18.0)
        found = judge(plan, reading, before=[earlier(plan, reading)] * 4)
        self.assertEqual((found.findings[0].code, found.findings[0].takes), ("wide", 5))
        self.assertEqual(found.advice.proposed.way, "easier")

    def test_what_was_held_never_asks_for_an_easier_drill(self) -> None:
        """However it leans: the verdict and the way on are one sentence."""
        plan = planned()
        held = taken(STEADY)
        leaning = replace(held.tendency, tempo_percent=-0.9, ci95_percent=(-1.2, -0.6), verdict="dragging")  # type: ignore[type-var]
        reading = replace(held, tendency=leaning)
        before = [earlier(plan, reading)]
        for known in ([], before, before * 5):
            found = judge(plan, reading, before=known)
            self.assertEqual(found.verdict.code, "held")
            self.assertNotEqual(found.advice.proposed.way, "easier")

    def test_no_two_ways_lead_to_one_drill(self) -> None:
        for changes in ({}, {"silence": None}, {"grid": 1}, {"grid": 4, "silence": fixed(1, 4)}, {"on": ["1"]}):
            for player in (STEADY, SimulatedPlayer(bias_percent=3), SimulatedPlayer(hand_ms=40)):
                advice = judge(planned(**changes), taken(player, **changes)).advice
                drills = [step.drill for step in advice.choices]
                with self.subTest(player=player, **changes):
                    self.assertEqual(len({drill.model_dump_json() for drill in drills}), len(drills))
                    self.assertEqual(len({step.way for step in advice.choices}), len(drills))
                    self.assertIn(advice.proposed, advice.choices)

    def test_again_easier_and_harder_do_what_they_say(self) -> None:
        plan, reading = planned(), taken(SimulatedPlayer(bias_percent=-3.0))
        advice = judge(plan, reading).advice
        self.assertEqual([step.way for step in advice.choices], ["again", "easier", "harder"])
        self.assertEqual(advice.choices[0].drill, plan.drill)
        self.assertEqual(advice.choices[1], advice.proposed)


@cache
def followed(player: SimulatedPlayer) -> list[Drill]:
    """Return the drills of twenty takes of a student who plays what is proposed."""
    drill, before, played = validate(plain(cycles=8)), [], []
    for number in range(20):
        plan = schedule(drill)
        reading = analyse(plan, simulate(plan, player, seed=number).onsets_s).reading
        judgement = judge(plan, reading, before=before)
        before.append(earlier(plan, reading))
        played.append(drill)
        drill = judgement.advice.proposed.drill
    return played


def silent_beats(drill: Drill) -> float:
    """Return the longest silence of a drill."""
    plan = schedule(drill)
    return max(((s.end_tick - s.start_tick) / plan.ticks_per_beat for s in plan.silences), default=1.0)


class StudentTests(TestCase):
    """Students who follow the proposal for twenty takes end where a teacher would want them."""

    DRAGS, RUSHES, WIDE = (
        SimulatedPlayer(bias_percent=-1.0),
        SimulatedPlayer(bias_percent=2.0),
        SimulatedPlayer(clock_percent=3.0, hand_ms=12.0),
    )
    BEGINNER = SimulatedPlayer(clock_percent=4.0, hand_ms=20.0, missed=0.03)

    def test_no_drill_four_times_running(self) -> None:
        for player in (self.DRAGS, self.RUSHES, self.WIDE, self.BEGINNER, STEADY):
            runs = [len(list(run)) for _, run in groupby(drill.plain() | {"name": ""} for drill in followed(player))]
            self.assertLessEqual(max(runs), 3, (player, runs))

    def test_a_clean_player_climbs(self) -> None:
        self.assertGreaterEqual(silent_beats(followed(STEADY)[-1]), 13)

    def test_a_rusher_is_led_to_silences_that_can_be_held(self) -> None:
        """2 % of nine beats is 18 % of a beat: in most of the last takes the way alone is a shorter one."""
        lengths = sorted(silent_beats(drill) for drill in followed(self.RUSHES)[-8:])
        self.assertLessEqual(lengths[4], 5)

    def test_a_beginner_is_led_to_short_silences(self) -> None:
        last = followed(self.BEGINNER)[-1]
        self.assertLessEqual(silent_beats(last), 5)
