"""Ladders, each rule walked by hand from the words of docs/formats.md; all of them common practice."""

import json
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, ClassVar
from unittest import TestCase

import jsonschema
import numpy as np

from giusto.errors import DrillError, GiustoError
from giusto.practice.ladder import (
    Attempt,
    State,
    Step,
    climbed,
    next_step,
    parse_attempts,
    parse_ladder,
    step_from,
)
from tests.drills import fixed, plain

SCHEMAS = Path(__file__).parents[4] / "docs/schema"
MONDAY = datetime.fromisoformat("2026-11-23T18:00:00+01:00")
TEMPO = {"what": "tempo", "from": 60, "to": 80, "by": 4}  # six rungs: 60, 64, 68, 72, 76, 80


def ladder(rule: dict[str, Any], *, vary: dict[str, Any] | None = None, **changes: Any) -> str:
    """Return a ladder's file."""
    found = {"giusto": "ladder/1", "name": "A ladder", "drill": plain(), "vary": vary or TEMPO, "rule": rule}
    return json.dumps(found | changes)


def walk(file: str, *days: str, at: str = "", off: tuple[int, ...] = (), minutes: float = 2.0) -> Step:
    """Return the step after days of attempts, and of ``at`` today: ``+`` clean, ``-`` not, ``4+`` on rung 4.

    Each attempt is on the rung that was proposed, unless it names its own; an empty day is one without attempts.
    """
    found = parse_ladder(file)
    made: list[Attempt] = []
    for number, day in enumerate([*days, at]):
        now = MONDAY + timedelta(days=number)
        for word in day.split():
            rung = int(word[:-1]) if word[:-1] else next_step(found, made, at=now, off=number in off).rung
            made.append(Attempt(now, rung, word[-1] == "+", minutes, number in off))
            now += timedelta(minutes=3)
    last = MONDAY + timedelta(days=len(days), hours=3)
    return next_step(found, made, at=last, off=len(days) in off)


class RuleCase(TestCase):
    def assert_step(self, step: Step, rung: int, why: str, needs: Any = ..., secure: int | None = None) -> None:
        self.assertEqual((step.rung, step.why), (rung, why))
        if needs is not ...:
            expected = None if needs is None else dict(zip(("clean", "so_far"), needs, strict=True))
            self.assertEqual(step.needs, expected)
        if secure is not None:
            self.assertEqual(step.secure, secure)


class StreakTests(RuleCase):
    three = ladder({"kind": "streak", "clean": 3})

    def test_up_and_down(self) -> None:
        self.assert_step(walk(self.three), 1, "first", (3, 0), 0)
        self.assert_step(walk(self.three, at="+ +"), 1, "streak", (3, 2), 0)
        self.assert_step(walk(self.three, at="+ + +"), 2, "streak", (3, 0), 1)
        self.assert_step(walk(self.three, at="+ + + + -"), 1, "fell", (3, 0), 1)
        self.assert_step(walk(self.three, at="-"), 1, "streak", (3, 0), 0)  # nothing falls below 1
        self.assert_step(walk(self.three, at="4+"), 4, "moved", (3, 1), 0)
        self.assert_step(walk(self.three, at="4+ + +"), 5, "streak", (3, 0), 4)

    def test_a_step_brings_its_rungs_value_and_drill(self) -> None:
        for tried, rung in (("", 1), ("+ + +", 2), ("4+", 4)):
            step = walk(self.three, at=tried)
            self.assertEqual((step.rung, step.drill.tempo.bpm), (rung, step.value))
            self.assertEqual(step.value, parse_ladder(self.three).values[rung - 1])

    def test_the_last_rung_ends_it(self) -> None:
        step = walk(self.three, at="6+ + +")
        self.assert_step(step, 6, "done", None, 6)
        self.assertTrue(step.done)
        self.assertTrue(walk(self.three, "6+ + +", at="1- -").done)

    def test_falls_as_the_file_says(self) -> None:
        rare = ladder({"kind": "streak", "clean": 3}, fall={"after": 2, "by": 3})
        self.assert_step(walk(rare, at="5- + -"), 5, "streak", (3, 0))
        self.assert_step(walk(rare, at="5- -"), 2, "fell", (3, 0))
        never = ladder({"kind": "streak", "clean": 3}, fall=None)
        self.assert_step(walk(never, at="3- - - -"), 3, "streak")

    def test_a_new_day_begins_below_and_returns(self) -> None:
        self.assert_step(walk(self.three, "4+"), 3, "next day", (1, 0))
        self.assert_step(walk(self.three, "4+", at="+"), 4, "streak", (3, 0))
        two = ladder({"kind": "streak", "clean": 3}, next_day={"back": 2})
        self.assert_step(walk(two, "4+", at="+"), 3, "returning", (1, 0))
        self.assert_step(walk(two, "4+", at="+ +"), 4, "streak", (3, 0))
        self.assert_step(walk(two, "4+", at="-"), 1, "fell", (3, 0))  # it counts in f
        self.assert_step(walk(two, "4+", at="5+"), 5, "moved", (3, 1))  # a move ends the return
        none = ladder({"kind": "streak", "clean": 3}, next_day={"back": 0})
        self.assert_step(walk(none, "4+ +"), 4, "streak", (3, 2))

    def test_weeks_away_take_a_rung_each_and_four_at_most(self) -> None:
        for days, rung in ((6, 5), (7, 4), (13, 4), (14, 3), (28, 1), (90, 1)):
            step = walk(self.three, "6+", *[""] * days)
            self.assert_step(step, rung, "break" if days >= 7 else "next day", (1, 0))
        long = ladder({"kind": "streak", "clean": 3}, vary=TEMPO | {"to": 120})
        self.assert_step(walk(long, "12+", *[""] * 90), 7, "break")

    def test_an_off_day(self) -> None:
        self.assert_step(walk(self.three, "4+", at="+", off=(1,)), 4, "streak", (4, 0))  # back to e, and n is one more
        self.assert_step(walk(self.three, "4+", at="+ + + +", off=(1,)), 4, "streak", (4, 3))
        self.assert_step(walk(self.three, "4+", at="+ + + + +", off=(1,)), 4, "off day", None, 4)  # never above e

    def test_an_off_day_begins_when_it_is_called_so(self) -> None:
        """What was played before counts as usual (FORMATS: an off day takes nothing back)."""
        found = parse_ladder(ladder({"kind": "streak", "clean": 2}))
        made = [Attempt(MONDAY + timedelta(minutes=3 * n), 1, True, 2.0) for n in range(2)]
        now = MONDAY + timedelta(hours=1)
        self.assert_step(next_step(found, made, at=now), 2, "streak", (2, 0), 1)
        self.assert_step(next_step(found, made, at=now, off=True), 2, "streak", (3, 0), 1)
        off = [Attempt(now + timedelta(minutes=3 * n), 2, True, 2.0, off=True) for n in range(3)]
        later = now + timedelta(minutes=20)
        self.assert_step(next_step(found, [*made, *off[:2]], at=later), 2, "streak", (3, 2), 1)
        self.assert_step(
            next_step(found, [*made, *off], at=later), 2, "off day", None, 2
        )  # nothing above e from now on
        unmarked = Attempt(later, 2, True, 2.0)  # once off, the rest of the day is
        step = next_step(found, [*made, *off[:1], unmarked], at=later + timedelta(minutes=3))
        self.assert_step(step, 2, "streak", (3, 2), 1)

    def test_a_double_step_only_where_a_rung_is_newly_secure(self) -> None:
        found = parse_ladder(ladder({"kind": "streak", "clean": 2}, next_day={"back": 0}))

        def offered(*rungs: int, easy: bool = True) -> int | None:
            made = [Attempt(MONDAY + timedelta(minutes=3 * n), r, True, 2.0, easy=easy) for n, r in enumerate(rungs)]
            return next_step(found, made, at=MONDAY + timedelta(hours=1)).offered

        self.assertEqual(offered(1, 1), 3)
        self.assertIsNone(offered(1, 1, easy=False))
        self.assertIsNone(offered(1, 1, 2))  # on its way, and nothing newly secure
        self.assertIsNone(offered(3, 3, 1, 1))  # rung 1 was passed long ago: 3 is secure
        self.assertIsNone(offered(5, 5))  # there is no rung above the last


class TotalTests(RuleCase):
    four = ladder({"kind": "total", "clean": 4})

    def test_in_a_row_or_not(self) -> None:
        self.assert_step(walk(self.four), 1, "first", (4, 0), 0)
        self.assert_step(walk(self.four, at="+ - + -"), 1, "total", (4, 2), 0)
        self.assert_step(walk(self.four, at="+ - + - - + +"), 2, "total", (4, 0), 1)

    def test_over_days_and_without_a_step_back(self) -> None:
        self.assert_step(walk(self.four, "+ -", "- +", at="+"), 1, "total", (4, 3), 0)
        self.assert_step(walk(self.four, "+ + + + +"), 2, "total", (4, 1), 1)

    def test_what_was_clean_on_a_rung_is_never_lost(self) -> None:
        self.assert_step(walk(self.four, at="3+ + 1- 3+"), 3, "moved", (4, 3))
        self.assert_step(walk(self.four, at="3+ + 1- 3+ +"), 4, "total", (4, 0), 3)

    def test_where_all_are_there_one_more_passes_it(self) -> None:
        self.assert_step(walk(self.four, at="+ + + + 1-"), 1, "moved", (4, 3), 1)

    def test_an_off_day_asks_one_more(self) -> None:
        self.assert_step(walk(self.four, at="+ + + +", off=(0,)), 1, "total", (5, 4), 0)

    def test_falls_where_the_file_says_so(self) -> None:
        falls = ladder({"kind": "total", "clean": 4}, fall={"after": 2, "by": 1})
        self.assert_step(walk(falls, at="3+ - -"), 2, "fell", (4, 0))


class StayTests(RuleCase):
    ten = ladder({"kind": "stay", "minutes": 10})

    def test_minutes_add_up_over_days(self) -> None:
        self.assertEqual(walk(self.ten, at="+ + -").needs, {"minutes": 10, "so_far": 4})
        self.assertEqual(walk(self.ten, "+ +", at="+").needs, {"minutes": 10, "so_far": 6})
        self.assert_step(walk(self.ten, "+ +", at="+"), 1, "stay")

    def test_a_rung_passed_is_kept_for_the_day(self) -> None:
        self.assert_step(walk(self.ten, at="+ + + + + - 5-"), 1, "stayed", None, 1)
        step = walk(self.ten, "+ + + + +")
        self.assert_step(step, 2, "stay")
        self.assertEqual(step.needs, {"minutes": 10, "so_far": 0})

    def test_the_last_rung_passed_ends_it(self) -> None:
        step = walk(self.ten, at="6+ + + + +")
        self.assert_step(step, 6, "done", None, 6)
        self.assertTrue(step.done)
        self.assertFalse(walk(self.ten, at="6+ + + +").done)

    def test_falling_or_moving_starts_anew(self) -> None:
        falls = ladder({"kind": "stay", "minutes": 10}, fall={"after": 1, "by": 1})
        self.assert_step(walk(falls, at="3+ + -"), 2, "fell")
        self.assertEqual(walk(self.ten, at="+ + 2+ 1+").needs, {"minutes": 10, "so_far": 2})

    def test_a_rung_passed_on_an_off_day_is_not_left_the_next(self) -> None:
        """Only where the off day ended no higher: what was passed before it was called so counts as usual."""
        self.assert_step(walk(self.ten, "3+", "+ + + + +", off=(1,)), 3, "stay", secure=3)
        found = parse_ladder(self.ten)
        made = [Attempt(MONDAY + timedelta(minutes=3 * n), 1, True, 2.0) for n in range(5)]
        made.append(Attempt(MONDAY + timedelta(hours=1), 1, True, 2.0, off=True))
        self.assert_step(next_step(found, made, at=MONDAY + timedelta(days=1)), 2, "stay", secure=1)

    def test_tenths_of_minutes(self) -> None:
        self.assert_step(walk(ladder({"kind": "stay", "minutes": 0.3}), at="+ + +", minutes=0.1), 1, "stayed")


class EdgeTests(RuleCase):
    edge = ladder({"kind": "edge", "clean": 2, "nights": 2})

    def test_down_and_no_rise_until_the_nights_have_passed(self) -> None:
        self.assert_step(walk(self.edge, at="4-"), 3, "edge", (2, 0), 0)
        self.assert_step(walk(self.edge, at="4- - -"), 1, "edge")
        self.assert_step(walk(self.edge, at="4- + +"), 3, "edge", None, 3)  # secure, but no rise
        self.assert_step(walk(self.edge, "4- + +"), 3, "edge", None, 3)  # one night
        self.assert_step(walk(self.edge, "4- + +", ""), 3, "overnight", (2, 0), 3)
        self.assert_step(walk(self.edge, "4-", "", at="+ +"), 2, "streak", (2, 0), 1)
        self.assert_step(walk(self.edge, "4- + +", "", ""), 3, "overnight")  # the first day that is played
        self.assert_step(walk(self.edge, "4- 2+"), 2, "edge", (2, 1), 0)  # moved the day before

    def test_the_day_after_begins_below_again(self) -> None:
        self.assert_step(walk(self.edge, "4- + +", "", "+ +"), 3, "next day", (1, 0), 3)


class WeekTests(RuleCase):
    week = ladder({"kind": "week", "clean": 1, "by": 5}, next_day={"back": 0})

    def test_no_further_than_by_above_what_was_secure(self) -> None:
        """From 60 with 5 more: 68 is the first that is at least 65, and rung 3."""
        self.assert_step(walk(self.week, at="+ + + + +"), 3, "week reached", None, 3)
        self.assert_step(walk(self.week, "+ + +", *[""] * 5, at="+"), 3, "week reached", None, 3)  # Sunday
        self.assert_step(walk(self.week, "+ + +", *[""] * 6, at="+ + +"), 5, "week reached", None, 5)  # 68 + 5: 76

    def test_only_where_values_are_numbers(self) -> None:
        with self.assertRaisesRegex(DrillError, "rule.kind"):
            parse_ladder(ladder({"kind": "week", "clean": 1, "by": 5}, vary={"what": "notes", "steps": [1, 2]}))


class BandTests(RuleCase):
    band = ladder({"kind": "band", "low": 0.7, "high": 0.85}, vary=TEMPO | {"to": 120})

    def test_at_most_two_up_and_says_how_sure(self) -> None:
        self.assertEqual(walk(self.band).rung, 1)
        step = walk(self.band, at="+")
        self.assertLessEqual(step.rung, 3)
        assert step.chance
        low, high = step.chance.ci95
        self.assertTrue(0 <= low <= step.chance.estimate <= high <= 1)
        self.assertEqual((step.why, step.needs), ("band", None))

    def test_no_further_on_an_off_day_than_the_day_before_ended(self) -> None:
        """Five clean on rung 1 speak for more, of which two rungs are taken at once, asked again or not."""
        clean = "1+ 1+ 1+ 1+ 1+"
        ended = walk(self.band, at=clean).rung
        self.assertEqual(ended, 3)
        self.assertEqual(walk(self.band, clean, off=(1,)).rung, 3)
        self.assertEqual(walk(self.band, clean, at="3+ 3+", off=(1,)).rung, 3)

    def test_it_stays_in_the_band(self) -> None:
        """Players whose chance falls as a logistic: of what is proposed after the first dozen, 85 % over all."""
        found = parse_ladder(self.band)
        rungs = np.arange(1, len(found.values) + 1)
        fits = []
        for seed, (half, slope) in enumerate(((5, 0.7), (9, 0.7), (12, 3.0), (7, 3.0))):
            rng = np.random.default_rng(seed)
            chance = 1 / (1 + np.exp((rungs - half) / slope))
            off = np.maximum(np.maximum(0.7 - chance, chance - 0.85), 0)
            good = set((np.flatnonzero(off == off.min()) + 1).tolist())
            state = State()
            for number in range(150):
                rung = step_from(found, state, at=MONDAY).rung
                fits += [rung in good] if number >= 12 else []
                made = Attempt(MONDAY, rung, bool(rng.random() < chance[rung - 1]), 1.0)
                state = climbed(found, [made], state)
        self.assertGreater(np.mean(fits), 0.85)


class FileTests(TestCase):
    rule: ClassVar[dict[str, Any]] = {"kind": "streak", "clean": 3}

    def values(self, **vary: Any) -> list[float | None]:
        return list(parse_ladder(ladder(self.rule, vary=vary)).values)

    def test_rungs(self) -> None:
        self.assertEqual(self.values(**{"what": "tempo", "from": 60, "to": 70, "by": 4}), [60, 64, 68, 70])
        self.assertEqual(self.values(**{"what": "tempo", "from": 60, "to": 60.3, "by": 0.1}), [60, 60.1, 60.2, 60.3])
        notches = self.values(**{"what": "tempo", "from": 61, "to": 70, "by": "notch"})
        self.assertEqual(notches, [61, 63, 66, 69, 70])
        self.assertEqual(self.values(**{"what": "silence", "from": 1, "to": 6, "by": 2}), [1, 3, 5, 6])
        self.assertEqual(self.values(what="notes", steps=[1, 2, 4]), [1, 2, 4])
        self.assertEqual(self.values(what="drills", steps=[plain(), plain(bpm=70)]), [None, None])
        silences = parse_ladder(ladder(self.rule, vary={"what": "silence", "from": 1, "to": 3, "by": 1}))
        self.assertEqual([d.clicks.silence.silent for d in silences.drills], [1, 2, 3])  # type: ignore[union-attr]

    def test_faults_name_their_place(self) -> None:
        for changes, path in (
            ({"rule": {"kind": "streak", "clean": 0}}, "rule.clean: is 0"),
            ({"rule": {"kind": "climb"}}, "rule"),
            ({"vary": TEMPO | {"by": "half"}}, "vary.by"),
            ({"vary": TEMPO | {"to": 50}}, "vary.to: is 50"),
            ({"fall": {"after": 1}}, "fall.by: is missing"),
            ({"drill": plain(bpm=5)}, "drill.tempo.bpm: is 5"),
            (
                {"vary": {"what": "silence", "from": 1, "to": 3, "by": 1}, "drill": plain(silence=None)},
                "drill.clicks.silence",
            ),
            ({"vary": {"what": "drills", "steps": [plain(), plain(grid=0)]}}, "vary.steps\\[1\\].part.grid"),
            ({"more": 1}, "more: is not a field"),
            ({"drill": None}, "drill: is missing"),
            ({"rule": {"kind": "band", "low": 0.9, "high": 0.8}}, "rule.high"),
        ):
            with self.subTest(path), self.assertRaisesRegex(DrillError, path):
                parse_ladder(ladder(**({"rule": self.rule} | changes)))

    def test_attempts(self) -> None:
        good = "at,rung,clean,minutes,off\r\n2026-11-23T18:00:00+01:00,2,1,2.5,0\r\n2026-11-23T17:30:00Z,1,0,1,1\r\n"
        first, second = parse_attempts(good, rungs=3)
        self.assertEqual((first.rung, first.clean, first.minutes, second.off), (2, True, 2.5, True))
        for row, message in (
            ("2026-11-23T18:00:00,1,1,2", "line 2: at is .* with an offset"),
            ("2026-11-23T18:00:00Z,4,1,2", 'rung is "4", allowed is 1 to 3'),
            ("2026-11-23T18:00:00Z,1,yes,2", "clean is"),
            ("2026-11-23T18:00:00Z,1,1,-2", "minutes is"),
            ("2026-11-23T18:00:00Z,1,1", "line 2 has 3 fields"),
            ("2026-11-23T18:00:00Z,1,1,2\n2026-11-22T18:00:00Z,1,1,2", "must ascend"),
        ):
            with self.subTest(row), self.assertRaisesRegex(GiustoError, message):
                parse_attempts(f"at,rung,clean,minutes\n{row}\n", rungs=3)
        with self.assertRaisesRegex(GiustoError, "line 1 must be"):
            parse_attempts("at,rung\n", rungs=3)

    def test_schemas_say_the_same(self) -> None:
        ladders = json.loads((SCHEMAS / "ladder-1.json").read_text(encoding="utf-8"))
        steps = json.loads((SCHEMAS / "step-1.json").read_text(encoding="utf-8"))
        rules = [
            {"kind": "streak", "clean": 3},
            {"kind": "total", "clean": 4},
            {"kind": "stay", "minutes": 10},
            {"kind": "edge", "clean": 2, "nights": 1},
            {"kind": "week", "clean": 2, "by": 5},
            {"kind": "band", "low": 0.7, "high": 0.85},
        ]
        for rule in rules:
            file = ladder(rule, fall={"after": 1, "by": 1}, next_day={"back": 1})
            jsonschema.validate(json.loads(file), ladders)
            for days in ([], ["+ + -"], ["+ + +"]):
                jsonschema.validate(walk(file, *days).plain(), steps)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(json.loads(ladder({"kind": "streak", "clean": 0})), ladders)

    def test_a_removed_attempt_is_as_if_it_had_not_been(self) -> None:
        silences = {"what": "silence", "from": 1, "to": 3, "by": 1}
        file = parse_ladder(ladder(self.rule, vary=silences, drill=plain(silence=fixed(2, 1))))
        made = [
            Attempt(MONDAY + timedelta(minutes=n), 1, clean, 1.0) for n, clean in enumerate((True, False, True, True))
        ]
        self.assertEqual(next_step(file, made, at=MONDAY + timedelta(hours=1)).rung, 1)
        without = [made[0], *made[2:]]
        self.assertEqual(next_step(file, without, at=MONDAY + timedelta(hours=1)).rung, 2)
