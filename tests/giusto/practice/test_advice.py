"""What to play next: rules by hand, and simulated students who follow it."""

from dataclasses import replace
from functools import cache
from itertools import groupby
from unittest import TestCase

from giusto.drill import Drill, validate
from giusto.practice.advice import Earlier
from giusto.practice.judge import earlier, judge
from giusto.reading import analyse
from giusto.schedule import schedule
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

    def test_six_silences_are_enough_to_be_told_by(self) -> None:
        """Too close to call in five that return alike: more of them; in six: a step easier (ours)."""
        for silences, change in ((5, "more_cycles"), (6, "shorter_silence")):
            plan = planned(cycles=4 * silences, bpm=200)
            reading = analyse(plan, simulate(plan, SimulatedPlayer(bias_percent=-0.6), seed=2).onsets_s).reading
            self.assertEqual(len(reading.silences), silences)
            alike = [replace(s, outcome="edge", slip_beats=0, return_ms=4.0) for s in reading.silences]
            edge = replace(reading, silences=alike)
            unclear = replace(edge, tendency=replace(edge.tendency, verdict="unclear"))  # type: ignore[type-var]
            self.assertEqual(judge(plan, unclear).advice.proposed.change, change)

    def test_two_silences_that_can_not_tell_ask_for_more(self) -> None:
        plan = planned(cycles=8, bpm=200)
        reading = analyse(plan, simulate(plan, SimulatedPlayer(bias_percent=-0.6), seed=2).onsets_s).reading
        edge = replace(reading, silences=[replace(s, outcome="edge", slip_beats=0) for s in reading.silences])
        unclear = replace(edge, tendency=replace(edge.tendency, verdict="unclear"))  # type: ignore[type-var]
        self.assertEqual(judge(plan, unclear).advice.proposed.change, "more_cycles")

    def test_what_no_single_take_shows_the_last_ones_show_together(self) -> None:
        plan = planned(cycles=8, bpm=200)
        reading = analyse(plan, simulate(plan, SimulatedPlayer(), seed=2).onsets_s).reading
        assert reading.tendency is not None
        little = replace(reading.tendency, tempo_percent=-0.9, ci95_percent=(-2.0, 0.2), verdict="unclear")
        edge = replace(reading, silences=[replace(s, outcome="edge", slip_beats=0) for s in reading.silences])
        take = replace(edge, tendency=little)
        found = judge(plan, take, before=[earlier(plan, take)] * 4)
        self.assertEqual((found.findings[0].code, found.findings[0].takes), ("wide", 5))
        self.assertEqual(found.advice.proposed.way, "easier")

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
