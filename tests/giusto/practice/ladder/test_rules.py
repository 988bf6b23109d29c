"""The schools as objects: one module each, tied to the file, its schema and its docs; what a belief remembers."""

import json
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import TestCase

import numpy as np
from scipy.stats import beta

from giusto.drill.identity import rung_key
from giusto.errors import DrillError, GiustoError
from giusto.practice.ladder import (
    RULES,
    Attempt,
    State,
    Step,
    Why,
    climbed,
    ladder_of,
    parse_attempts,
    step_from,
    write_attempts,
)
from giusto.practice.ladder.chance import GAINS, HALF_STEP, WANDERS, Chances, _drifted
from giusto.practice.ladder.file import json_schema
from tests.drills import plain
from tests.giusto.practice.ladder.test_climb import MONDAY

DOCS = Path(__file__).parents[4] / "docs"
EXAMPLES = {
    "streak": {"clean": 3},
    "total": {"clean": 4},
    "stay": {"minutes": 10},
    "edge": {"clean": 3, "nights": 1},
    "week": {"clean": 3, "by": 5},
    "band": {"low": 0.7, "high": 0.85},
}


def ladder(kind: str, **fields: object):  # type: ignore[no-untyped-def]
    vary = {"what": "tempo", "from": 60, "to": 80, "by": 4}
    rule = {"kind": kind, **EXAMPLES.get(kind, {}), **fields}
    return ladder_of({"giusto": "ladder/1", "drill": plain(), "vary": vary, "rule": rule})


class RulesTests(TestCase):
    def test_each_has_its_module_its_row_in_the_docs_and_its_place_in_the_schema(self) -> None:
        self.assertEqual(set(RULES), set(EXAMPLES))
        text = (DOCS / "formats.md").read_text(encoding="utf-8")
        published = json.loads((DOCS / "schema/ladder-1.json").read_text(encoding="utf-8"))
        self.assertEqual(published, json.loads(json.dumps(json_schema())))
        for kind, rule in RULES.items():
            with self.subTest(rule=kind):
                self.assertEqual(rule.__module__.rpartition(".")[2], kind)
                self.assertIn(f"| `{kind}`", text)
                self.assertIn(kind, published["properties"]["rule"]["discriminator"]["mapping"])

    def test_every_reason_is_in_the_steps_schema_and_the_docs(self) -> None:
        schema = json.loads((DOCS / "schema/step-1.json").read_text(encoding="utf-8"))
        self.assertEqual(schema["properties"]["why"]["enum"], [why.value for why in Why])
        text = (DOCS / "formats.md").read_text(encoding="utf-8")
        for why in Why:
            self.assertIn(f"`{why.value}`", text)

    def test_an_unknown_kind_is_refused(self) -> None:
        with self.assertRaises(DrillError) as caught:
            ladder("lucky")
        self.assertIn("rule: is", str(caught.exception))
        self.assertIn("'streak', 'total', 'stay', 'edge', 'week', 'band'", str(caught.exception))

    def test_what_each_brings_where_the_file_says_nothing(self) -> None:
        """By the contract of ladder/1: never a fall under stay and total, and a new day begins there where it ended."""
        found = {
            kind: (one.terms.fall_after, one.terms.fall_by, one.terms.back) for kind in RULES if (one := ladder(kind))
        }
        self.assertEqual(found["streak"], (1, 1, 1))
        self.assertEqual(found["week"], (1, 1, 1))
        self.assertEqual(found["stay"], (0, 1, 0))
        self.assertEqual(found["total"], (0, 1, 0))
        self.assertEqual((found["edge"][0], found["edge"][2]), (0, 1))  # the edge takes the fall's place
        self.assertEqual((found["band"][0], found["band"][2]), (0, 0))

    def test_a_state_goes_on_from_where_it_was(self) -> None:
        """Counted in two parts it is what it is counted as a whole."""
        rng = np.random.default_rng(1)
        made = [
            Attempt(
                MONDAY.replace(day=1 + n // 4, hour=18 + n % 4), int(rng.integers(1, 5)), bool(rng.random() < 0.7), 2.0
            )
            for n in range(60)
        ]
        for kind in RULES:
            one = ladder(kind)
            half = climbed(one, made[:30])
            for state in (climbed(one, made[30:], half), climbed(one, made, State())):
                with self.subTest(rule=kind):
                    step = step_from(one, state, at=MONDAY)
                    self.assertEqual(step, step_from(one, climbed(one, made), at=MONDAY))

    def test_secure_has_one_door(self) -> None:
        """Nothing but ``passed`` writes it, and that never writes less."""
        state = State(rung=2, secure=5)
        self.assertEqual(state.passed().secure, 5)
        self.assertEqual(state.but(rung=7).passed().secure, 7)
        folder = Path(__file__).parents[4] / "src/giusto/practice/ladder"
        written = [path.name for path in folder.rglob("*.py") if "secure=" in path.read_text(encoding="utf-8")]
        self.assertEqual(sorted(written), ["climb.py", "state.py"])  # climb copies it into the step


class RuleTests(TestCase):
    """What each rule says where its numbers meet."""

    def test_a_band_has_a_width(self) -> None:
        with self.assertRaises(DrillError):
            ladder("band", low=0.8, high=0.8)

    def test_the_band_goes_up_two_from_where_was_played_last_and_not_from_before(self) -> None:
        """Clean on the fifth rung, then on the first: however likely more is, the next is the third at most."""
        one = ladder("band")
        rungs = [5] * 30 + [1]
        state = climbed(one, [Attempt(MONDAY + timedelta(minutes=n), rung, True, 1.0) for n, rung in enumerate(rungs)])
        self.assertEqual(step_from(one, state, at=MONDAY + timedelta(minutes=40)).rung, 3)

    def test_minutes_and_a_half(self) -> None:
        one = ladder("stay", minutes=7.5)
        state = climbed(one, [Attempt(MONDAY, 1, True, 2.5)])
        self.assertEqual(step_from(one, state, at=MONDAY).needs, {"minutes": 7.5, "so_far": 2.5})
        whole = step_from(ladder("stay", minutes=7), climbed(one, [Attempt(MONDAY, 1, True, 2.0)]), at=MONDAY).needs
        self.assertEqual([type(value) for value in (whole or {}).values()], [int, int])

    def test_why_a_week_goes_no_further(self) -> None:
        """Eight above what was secure when it began; and on an off day, for the day's sake."""
        one = ladder("week", clean=1, by=8)
        week = [Attempt(MONDAY + timedelta(minutes=n), rung, True, 1.0) for n, rung in enumerate((1, 2, 3))]
        self.assertEqual(step_from(one, climbed(one, week), at=MONDAY + timedelta(hours=1)).why, Why.WEEK_REACHED)
        start = MONDAY + timedelta(days=1)
        off = [*week[:1], *(Attempt(start + timedelta(minutes=n), 2, True, 1.0, off=True) for n in range(3))]
        self.assertEqual(step_from(one, climbed(one, off), at=start + timedelta(hours=1)).why, Why.OFF_DAY)

    def test_the_last_rung_is_what_was_asked_for_whether_or_not_the_steps_meet_it(self) -> None:
        for to, values in ((68, [60, 64, 68]), (70, [60, 64, 68, 70])):
            vary = {"what": "tempo", "from": 60, "to": to, "by": 4}
            found = ladder_of(
                {"giusto": "ladder/1", "drill": plain(), "vary": vary, "rule": {"kind": "streak", "clean": 2}}
            )
            self.assertEqual(list(found.values), values)
        notches = {"what": "tempo", "from": 61, "to": 71, "by": "notch"}
        found = ladder_of(
            {"giusto": "ladder/1", "drill": plain(), "vary": notches, "rule": {"kind": "streak", "clean": 2}}
        )
        self.assertEqual(list(found.values), [61, 63, 66, 69, 71])  # the marks of the scale between, and both ends

    def test_rungs_that_ask_for_the_same_are_told_apart_by_name(self) -> None:
        drills = [plain(name=name) for name in ("Clap it", "Play it")]
        vary = {"what": "drills", "steps": drills}
        found = ladder_of({"giusto": "ladder/1", "vary": vary, "rule": {"kind": "streak", "clean": 2}})
        key = rung_key(found.drills[0])
        self.assertEqual([found.rung_of(key, name) for name in ("Clap it", "Play it", "Neither")], [1, 2, 1])
        self.assertIsNone(found.rung_of("another", "Play it"))


class BeliefTests(TestCase):
    def test_each_rung_has_its_own_chance_and_a_higher_one_less(self) -> None:
        belief = Chances(6).after(None, Attempt(MONDAY, 3, True, 1.0))
        chances = [Chances(6).of(belief, rung).estimate for rung in range(1, 7)]
        self.assertEqual(chances, sorted(chances, reverse=True))
        self.assertEqual(len(set(chances)), 6)

    def test_a_skill_that_rises_is_followed(self) -> None:
        """Sixty attempts that were clean on the third rung only; then thirty that are clean on the fifth."""
        chances, belief = Chances(8), None
        for n in range(60):
            belief = chances.after(belief, Attempt(MONDAY, 3 + 2 * (n % 2), n % 2 == 0, 1.0))
        before = chances.of(belief, 5).estimate
        for _ in range(30):
            belief = chances.after(belief, Attempt(MONDAY, 5, True, 1.0))
        self.assertLess(before, 0.25)
        self.assertGreater(chances.of(belief, 5).estimate, 0.75)

    def test_the_half_drifts_by_its_gain_and_wanders_by_its_own(self) -> None:
        """A half that is known to a point: after ten steps its mean is ten gains on, by each way of drifting."""
        belief = np.zeros((len(GAINS) * len(WANDERS), 1, 101))
        belief[:, :, 50] = 1.0
        for _ in range(10):
            belief = _drifted(belief)
        at = HALF_STEP * (np.arange(101) - 50)
        ways = [(gain, wander) for gain, _ in GAINS for wander, _ in WANDERS]
        for (gain, wander), row in zip(ways, belief[:, 0], strict=True):
            mean = float(row @ at)
            self.assertAlmostEqual(mean, 10 * gain, places=9)
            self.assertGreaterEqual(float(row @ (at - mean) ** 2), 0.95 * 10 * wander**2)
            self.assertAlmostEqual(float(row.sum()), 1.0)

    def test_before_any_attempt_half_of_the_ladder_is_as_likely_as_not(self) -> None:
        chance = Chances(6).of(None, 3)
        self.assertLess(abs(chance.estimate - 0.5), 0.1)
        self.assertLess(chance.ci95[0], 0.05)
        self.assertGreater(chance.ci95[1], 0.95)


class ChanceTests(TestCase):
    """Attempts with a chance: open ones, and a rung that is passed by the rate."""

    def after(self, chances: list[tuple[bool | None, float]], kind: str = "streak", **changes: Any) -> Step:
        made = [
            Attempt(MONDAY + timedelta(minutes=n), 1, clean, 1.0, chance=chance)
            for n, (clean, chance) in enumerate(chances)
        ]
        one = ladder(kind, **changes)
        return step_from(one, climbed(one, made), at=MONDAY + timedelta(hours=1))

    def test_an_open_attempt_changes_neither_the_row_nor_the_misses(self) -> None:
        step = self.after([(True, 0.9), (None, 0.5), (True, 0.9)], clean=3)
        self.assertEqual((step.rung, step.needs), (1, {"clean": 3, "so_far": 2}))
        two = self.after([(True, 0.9), (False, 0.1), (None, 0.5), (False, 0.1)], clean=3)
        self.assertEqual(
            (two.rung, two.why), (1, Why.STREAK)
        )  # at the first rung a fall changes nothing but the misses

    def test_a_rung_is_passed_by_the_rate_of_its_attempts(self) -> None:
        """Beta(1 + Σ chance, 1 + Σ (1 − chance)) above .75: of eight open ones at .95 it is .80 and more, by scipy."""
        for count in (3, 5, 7, 8, 9):
            surely = beta.sf(0.75, 1 + 0.95 * count, 1 + 0.05 * count) >= 0.8
            for kind, more in (("streak", {}), ("edge", {"nights": 1})):
                with self.subTest(count=count, kind=kind):
                    step = self.after([(None, 0.95)] * count, kind, clean=3, **more)
                    self.assertEqual(step.secure, int(surely))

    def test_it_takes_as_many_as_the_rule_asks_for_and_no_other_school_goes_by_it(self) -> None:
        self.assertEqual(self.after([(None, 0.99)] * 11, clean=12).secure, 0)
        self.assertEqual(self.after([(None, 0.99)] * 12, clean=12).secure, 1)
        for kind, more in (("week", {"clean": 3, "by": 4}), ("total", {"clean": 3}), ("stay", {"minutes": 3})):
            self.assertEqual(self.after([(None, 0.99)] * 20, kind, **more).secure, 0)

    def test_what_was_counted_before_arriving_does_not_pass_it(self) -> None:
        one = ladder("streak", clean=3)
        first = [Attempt(MONDAY + timedelta(minutes=n), 1, None, 1.0, chance=0.99) for n in range(2)]
        above = [Attempt(MONDAY + timedelta(minutes=9), 2, None, 1.0, chance=0.99)]
        back = [Attempt(MONDAY + timedelta(minutes=20 + n), 1, None, 1.0, chance=0.99) for n in range(4)]
        self.assertEqual(climbed(one, [*first, *above, *back]).chances, 4)

    def test_a_band_goes_by_chances(self) -> None:
        """Ten that are clean by .8 tell what eight clean of ten do."""
        open_, told = (
            self.after([(None, 0.8)] * 10, "band"),
            self.after([(n % 5 > 0, float(n % 5 > 0)) for n in range(10)], "band"),
        )
        assert open_.chance
        assert told.chance
        self.assertAlmostEqual(open_.chance.estimate, told.chance.estimate, delta=0.06)

    def test_files_have_a_column_for_it(self) -> None:
        text = "at,rung,clean,minutes,chance\n2026-11-30T18:00:00Z,1,,2,0.62\n2026-11-30T18:05:00Z,1,1,2,\n"
        found = parse_attempts(text, rungs=3)
        self.assertEqual([(one.clean, one.chance) for one in found], [(None, 0.62), (True, None)])
        self.assertEqual(parse_attempts(write_attempts(found), rungs=3), found)
        for row, message in (
            ("2026-11-30T18:00:00Z,1,,2,", "clean is"),
            ("2026-11-30T18:00:00Z,1,,2,1.2", "chance is .* allowed is 0 to 1"),
            ("2026-11-30T18:00:00Z,1,2,2,0.5", "clean is"),
        ):
            with self.subTest(row), self.assertRaisesRegex(GiustoError, message):
                parse_attempts(f"at,rung,clean,minutes,chance\n{row}\n", rungs=3)
