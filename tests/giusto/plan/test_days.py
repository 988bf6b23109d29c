"""Routines as days: each rule by hand (all common practice), and what always holds."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path
from typing import Any
from unittest import TestCase

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from giusto.errors import DrillError, GiustoError
from giusto.plan.days import MOST_DAYS, Slot, block_minutes, plain_plan, plan, shortened
from giusto.plan.routine import json_schema, parse_routine, routine_of

SCHEMAS = Path(__file__).parents[3] / "docs/schema"
MONDAY = date(2026, 11, 30)
BLOCKS = [
    {"name": "warm-up", "minutes": [5, 10]},
    {"name": "technique", "minutes": [20, 35]},
    {"name": "application", "minutes": [15, 30], "flexible": True},
]
TWELVE = ["C", "F", "B♭", "E♭", "A♭", "D♭", "G♭", "B", "E", "A", "D", "G"]


def routine(*exercises: dict[str, Any], **changes: Any) -> str:
    """Return a routine's file: three days a week, an hour from six."""
    plain = {"giusto": "routine/1", "days": ["mon", "tue", "thu"], "minutes": 60, "start": "18:00"}
    plain |= {"zone": "Europe/Vienna", "blocks": BLOCKS, "exercises": list(exercises)}
    return json.dumps(plain | changes)


def slots(file: str, *, days: int = 7, start: date = MONDAY, minutes: int | None = None) -> list[Slot]:
    """Return the slots of a week from Monday."""
    return plan(parse_routine(file), start=start, days=days, minutes=minutes)


def lengths(file: str, minutes: int | None = None) -> list[int]:
    """Return how long the blocks of the first session are."""
    return [slot.minutes for slot in slots(file, days=1, minutes=minutes)]


class BlockTests(TestCase):
    def test_the_flexible_part_gives_and_takes_first(self) -> None:
        """Middles 7.5, 27.5 and 22.5, together 57.5; 65 are 7.5 more, all of it for the last; 50 are 7.5 fewer."""
        self.assertEqual(lengths(routine(), 65)[2], 30)
        self.assertEqual(lengths(routine(), 50)[2], 15)
        self.assertEqual(lengths(routine(), 60)[2], 25)

    def test_then_the_others_in_proportion_never_below_their_least_nor_above_their_most(self) -> None:
        self.assertEqual(lengths(routine(), 45), [6, 24, 15])  # 5 fewer than 7.5 and 27.5: 6.43 and 23.57
        self.assertEqual(lengths(routine(), 40), [5, 20, 15])
        self.assertEqual(lengths(routine(), 75), [10, 35, 30])
        self.assertEqual(lengths(routine(), 90), [10, 35, 30])  # it ends when they do
        for minutes, said in ((39, "minutes is 39, allowed is at least 40"), (1, "allowed is at least 40")):
            with self.assertRaisesRegex(GiustoError, said):
                lengths(routine(), minutes)

    def test_what_one_cannot_take_the_others_share(self) -> None:
        """Middles 21, 50 and 20; 121 minutes are 30 more: the first takes one, the others 29 as 50 to 20."""
        blocks = [{"name": n, "minutes": m} for n, m in (("a", [20, 22]), ("b", [20, 80]), ("c", [10, 30]))]
        self.assertEqual(block_minutes(parse_routine(routine(blocks=blocks, minutes=60)).blocks, 121), [22, 71, 28])

    def test_a_minute_at_least_for_each_exercise_and_no_more_than_the_block_has(self) -> None:
        some = [{"name": n, "block": "warm-up", "minutes": m} for n, m in (("a", 1), ("b", 1), ("c", 1), ("d", 97))]
        found = [slot.minutes for slot in slots(routine(*some), days=1, minutes=40) if slot.block == "warm-up"]
        self.assertEqual(found, [1, 1, 1, 2])

    def test_keys_share_what_their_exercise_has(self) -> None:
        """27 minutes for eight of two keys and eight of none: 6.75 each, and 13.5."""
        keyed = {"name": "a", "block": "technique", "minutes": 8, "keys": {"all": TWELVE, "per_session": 2}}
        plain = {"name": "b", "block": "technique", "minutes": 8}
        found = [slot.minutes for slot in slots(routine(keyed, plain), days=1) if slot.block == "technique"]
        self.assertEqual(found, [7, 7, 13])

    def test_ten_years_at_most(self) -> None:
        file = routine(blocks=[{"name": "a", "minutes": [5, 10]}], minutes=5)
        self.assertEqual(slots(file, days=MOST_DAYS)[-1].date, date(2036, 12, 4))
        for days in (0, MOST_DAYS + 1):
            with self.assertRaisesRegex(GiustoError, f"days is {days}, allowed are 1 to 3660"):
                slots(file, days=days)

    def test_a_short_session_keeps_what_fits_with_its_exercises(self) -> None:
        names = (("a", "warm-up"), ("b", "application"), ("c", "technique"))
        some = [{"name": name, "block": block, "minutes": 5} for name, block in names]
        found = shortened(parse_routine(routine(*some)), 26)
        self.assertEqual([block.name for block in found.blocks], ["warm-up", "technique"])
        self.assertEqual([one.name for one in found.exercises], ["a", "c"])
        alone = parse_routine(routine(blocks=[{"name": "a", "minutes": [5, 30]}], minutes=30))
        self.assertEqual(shortened(alone, 12).blocks, alone.blocks)  # it can be as short by itself
        self.assertEqual(shortened(alone, 3).blocks[0].minutes, (3, 3))

    def test_a_session_may_end_at_midnight(self) -> None:
        parse_routine(routine(start="22:45"))  # 75 minutes at most
        with self.assertRaisesRegex(DrillError, "allowed is a time from which 75 minutes end on the same day"):
            parse_routine(routine(start="22:46"))

    def test_a_routine_goes_back_into_its_file(self) -> None:
        season = {"from": "2026-11-30", "weeks_on": 3, "weeks_off": 2}
        file = routine({"name": "a", "block": "warm-up", "minutes": 5, "season": season})
        self.assertEqual(parse_routine(file).plain(), json.loads(file))

    @settings(max_examples=100, deadline=None)
    @given(
        st.lists(st.tuples(st.integers(1, 30), st.integers(0, 40), st.booleans()), min_size=1, max_size=6),
        st.integers(1, 300),
    )
    def test_what_always_holds(self, some: list[tuple[int, int, bool]], minutes: int) -> None:
        blocks = parse_routine(
            routine(
                blocks=[
                    {"name": str(n), "minutes": [least, least + more], "flexible": flexible}
                    for n, (least, more, flexible) in enumerate(some)
                ],
                minutes=1440,
                start="00:00",
            )
        ).blocks
        found = block_minutes(blocks, minutes)
        self.assertTrue(all(b.least <= n <= b.most for b, n in zip(blocks, found, strict=True)))
        bounds = sum(b.least for b in blocks), sum(b.most for b in blocks)
        self.assertEqual(sum(found), min(max(minutes, bounds[0]), bounds[1]))


class DayTests(TestCase):
    def test_days_of_practice_in_the_order_of_the_blocks(self) -> None:
        found = slots(routine())
        self.assertEqual([slot.date.isoformat() for slot in found[::3]], ["2026-11-30", "2026-12-01", "2026-12-03"])
        self.assertEqual([slot.block for slot in found[:3]], ["warm-up", "technique", "application"])
        self.assertEqual([f"{slot.start:%H:%M}" for slot in found[:3]], ["18:00", "18:08", "18:35"])
        row = found[0].plain()
        self.assertEqual((row["exercise"], row["key"], row["why"]), (None, None, "the block’s own time"))

    def test_exercises_share_their_block(self) -> None:
        one, two = ({"name": name, "block": "technique", "minutes": n} for name, n in (("a", 8), ("b", 10)))
        found = [slot for slot in slots(routine(one, two), days=1) if slot.block == "technique"]
        self.assertEqual([(slot.exercise, slot.minutes) for slot in found], [("a", 12), ("b", 15)])

    def test_each_key_once_before_any_twice(self) -> None:
        """One to three keys a session, all twelve in about two weeks (common practice)."""
        keyed = {"name": "scales", "block": "technique", "minutes": 8, "keys": {"all": TWELVE, "per_session": 2}}
        for start in (MONDAY, date(2027, 3, 4)):
            keys = [slot.key for slot in slots(routine(keyed), days=42, start=start) if slot.key]
            self.assertEqual(len(keys), 36)
            for first in range(len(keys) - 11):
                self.assertEqual(len(set(keys[first : first + 12])), 12)
            following = dict(zip(TWELVE, [*TWELVE[1:], TWELVE[0]], strict=True))
            self.assertEqual(keys[1:], [following[key] for key in keys[:-1]])  # in the order that they have
        whole = [slot for slot in slots(routine(keyed), days=14) if slot.key]
        weeks = (slots(routine(keyed), start=start) for start in (MONDAY, date(2026, 12, 7)))
        parts = [slot for week in weeks for slot in week if slot.key]
        self.assertEqual(whole, parts)  # plans from any day agree

    def test_seasons_leave_an_exercise_out(self) -> None:
        season = {"from": "2026-11-30", "weeks_on": 3, "weeks_off": 2}
        seasonal = {"name": "doubling", "block": "warm-up", "minutes": 5, "season": season}
        found = [slot for slot in slots(routine(seasonal), days=70, start=date(2026, 11, 23)) if slot.exercise]
        weeks = sorted({(slot.date - MONDAY).days // 7 for slot in found})
        self.assertEqual(weeks, [0, 1, 2, 5, 6, 7])
        self.assertEqual(found[0].why, "week 1 of 3 on")

    def test_a_rotation_goes_on_over_the_weeks_off(self) -> None:
        season = {"from": "2026-11-30", "weeks_on": 1, "weeks_off": 1}
        keyed = {"name": "s", "block": "warm-up", "minutes": 5, "season": season, "keys": {"all": ["C", "F", "G", "D"]}}
        keys = [slot.key for slot in slots(routine(keyed), days=28) if slot.key]
        self.assertEqual(keys, ["C", "F", "G", "D", "C", "F"])

    def test_a_key_is_told_by_its_number(self) -> None:
        keyed = {"name": "s", "block": "warm-up", "minutes": 5, "keys": {"all": ["C", "F", "G"], "per_session": 3}}
        told = {slot.key: slot.why for slot in slots(routine(keyed), days=1) if slot.key}
        self.assertEqual(told, {"C": "key 1 of 3", "F": "key 2 of 3", "G": "key 3 of 3"})

    def test_a_rotation_goes_on_within_the_weeks_on(self) -> None:
        season = {"from": "2026-11-30", "weeks_on": 3, "weeks_off": 1}
        keys_ = {"all": [*"ABCDEFG"]}
        keyed = {"name": "s", "block": "warm-up", "minutes": 5, "season": season, "keys": keys_}
        keys = [slot.key for slot in slots(routine(keyed), days=56) if slot.key]
        self.assertEqual("".join(keys), ("ABCDEFG" * 3)[: len(keys)])


class SchemaTests(TestCase):
    def test_the_published_schemas(self) -> None:
        published = json.loads((SCHEMAS / "routine-1.json").read_text(encoding="utf-8"))
        self.assertEqual(published, json.loads(json.dumps(json_schema())))
        keyed = {"name": "a", "block": "technique", "minutes": 8, "keys": {"all": TWELVE, "per_session": 2}}
        keyed["season"] = {"from": "2026-11-30", "weeks_on": 1, "weeks_off": 1}
        jsonschema.validate(json.loads(routine(keyed)), published)
        some = parse_routine(routine(keyed))
        written = plain_plan(some, plan(some, start=MONDAY, days=14))
        jsonschema.validate(written, json.loads((SCHEMAS / "plan-1.json").read_text(encoding="utf-8")))
        self.assertEqual(parse_routine(json.dumps(some.plain())), some)


class PractisedTests(TestCase):
    """Keys by what was played: the one that was not played for longest comes first."""

    @given(st.integers(1, 12), st.integers(1, 4), st.lists(st.sampled_from(TWELVE), max_size=30), st.integers(5, 60))
    @settings(deadline=None, max_examples=60)
    def test_no_key_twice_before_all_once_from_any_history(
        self, count: int, per_session: int, history: list[str], days: int
    ) -> None:
        keys = TWELVE[:count]
        keyed = {"all": keys, "per_session": min(per_session, count)}
        file = parse_routine(routine({"name": "a", "block": "technique", "minutes": 30, "keys": keyed}))
        before = [key for key in history if key in keys]
        found = plan(file, start=MONDAY, days=days, practised={"a": before})
        came = [slot.key for slot in found if slot.key]
        for first in range(0, len(came) - count + 1):
            self.assertEqual(len(set(came[first : first + count])), count)
        never = [key for key in keys if key not in before]
        self.assertEqual(came[: len(never)], never[: len(came)])
        self.assertEqual(before, [key for key in history if key in keys])  # what was given stays as it was

    def test_a_missed_day_takes_no_key_with_it(self) -> None:
        keyed = {"all": TWELVE[:4], "per_session": 1}
        file = parse_routine(routine({"name": "a", "block": "technique", "minutes": 30, "keys": keyed}))
        tuesday = date(2026, 12, 1)
        self.assertEqual(plan(file, start=tuesday, days=1, practised={"a": ["C"]})[1].key, "F")
        self.assertEqual(plan(file, start=tuesday, days=1, practised={"a": []})[1].key, "C")  # Monday was missed

    def test_chosen_days_take_the_place_of_the_routines(self) -> None:
        wednesday = date(2026, 12, 2)
        found = plan(parse_routine(routine()), start=MONDAY, days=7, chosen=[wednesday, date(2027, 1, 1)])
        self.assertEqual({slot.date for slot in found}, {wednesday})


class ShortenedTests(TestCase):
    @given(st.integers(1, 120))
    def test_a_short_session_is_as_long_as_was_asked_and_keeps_the_order(self, minutes: int) -> None:
        whole = parse_routine(routine({"name": "a", "block": "technique", "minutes": 5}))
        short = shortened(whole, minutes)
        found = plan(short, start=MONDAY, days=1)
        total = sum(slot.minutes for slot in found)
        self.assertEqual(total, min(minutes, sum(block.most for block in short.blocks)))
        names = [block.name for block in whole.blocks]
        order = [names.index(slot.block) for slot in found]
        self.assertEqual(order, sorted(order))

    def test_of_two_flexible_blocks_the_later_one_goes_first(self) -> None:
        blocks = [
            {"name": "warm-up", "minutes": [5, 10]},
            {"name": "repertoire", "minutes": [10, 20], "flexible": True},
            {"name": "application", "minutes": [10, 20], "flexible": True},
        ]
        whole = routine_of({**json.loads(routine()), "blocks": blocks, "exercises": [], "minutes": 40})
        left = {n: [block.name for block in shortened(whole, n).blocks] for n in (25, 24, 14)}
        self.assertEqual(left, {25: [one["name"] for one in blocks], 24: ["warm-up", "repertoire"], 14: ["warm-up"]})

    def test_the_flexible_block_goes_first_then_the_last(self) -> None:
        whole = parse_routine(routine())
        left = {n: [block.name for block in shortened(whole, n).blocks] for n in (40, 39, 25, 24, 4)}
        both = ["warm-up", "technique"]
        self.assertEqual(left, {40: [*both, "application"], 39: both, 25: both, 24: ["warm-up"], 4: ["warm-up"]})
        self.assertEqual(shortened(whole, 4).blocks[0].minutes, (4, 4))


class FaultTests(TestCase):
    def test_each_names_its_place(self) -> None:
        keyed = {"name": "a", "block": "technique", "minutes": 8, "keys": {"all": ["C"], "per_session": 2}}
        for file, said in (
            ("[]", "a routine is a JSON object"),
            (routine(days=[]), "days"),
            (routine(days=["mon", "mon"]), "days: one stands twice"),
            (routine(days=["noday"]), r"days\[0\]"),
            (routine(minutes=30), "minutes: is 30, allowed is at least the blocks' least, 40"),
            (routine(start="25:00"), 'start: is "25:00"'),
            (routine(start="23:30"), 'start: is "23:30"'),
            (routine(zone="Nowhere/Here"), "zone"),
            (routine(zone="../etc"), "zone"),
            (routine(blocks=[]), "blocks"),
            (routine(blocks=[{"name": "a", "minutes": [9, 5]}]), r"blocks\[0\].minutes\[1\]: is 5"),
            (routine(more=1), "more"),
            (routine({"name": "a", "block": "none", "minutes": 5}), r"exercises\[0\].block"),
            (routine({"name": "a", "block": "technique", "minutes": 0}), r"exercises\[0\].minutes"),
            (routine(keyed), r"exercises\[0\].keys.per_session: is 2, allowed are at most all 1"),
            (routine(keyed | {"season": {"from": "soon", "weeks_on": 1, "weeks_off": 1}}), r"season.from"),
        ):
            with self.subTest(said), self.assertRaisesRegex(DrillError, said):
                parse_routine(file)
        for days in (0, 4000):
            with self.assertRaisesRegex(GiustoError, "days is"):
                slots(routine(), days=days)
        with self.assertRaisesRegex(GiustoError, "beyond the calendar"):
            slots(routine(), start=date(9999, 12, 30), days=7)
