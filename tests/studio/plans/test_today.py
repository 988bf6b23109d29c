"""A fortnight planned, practised and closed, through the real pages, as a new player would from an empty log."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Any

from django.test import TestCase

from giusto.plan.days import plan
from giusto.plan.routine import routine_of
from studio.accounts.models import Player, local_player
from studio.drills.actions import set_delivery
from studio.drills.models import Delivery
from studio.drills.shelf import shelf
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.parts import split
from studio.ladders.shelf import ready
from studio.plans.actions import keep_routine
from studio.plans.models import Day, Routine, Week
from studio.plans.presets import PRESETS, preset
from studio.takes.models import Take
from tests.studio.ladders.climbing import at, ladder_core, play_asked, short

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)
BLOCKS = [
    {"name": "warm-up", "minutes": [1, 2]},
    {"name": "technique", "minutes": [3, 6]},
    {"name": "application", "minutes": [2, 6], "flexible": True},
]


def a_routine(*exercises: dict[str, Any], **changes: Any) -> Routine:
    """Keep a routine of three blocks, ten minutes on Monday, Tuesday and Thursday."""
    plain = {"giusto": "routine/1", "days": ["mon", "tue", "thu"], "minutes": 10, "start": "18:00", "zone": "UTC"}
    plain |= {"blocks": BLOCKS, "exercises": list(exercises)}
    return keep_routine(player=local_player(), routine=routine_of(plain | changes))


def in_technique(name: str, **more: Any) -> dict[str, Any]:
    """Return an exercise of the technique block."""
    return {"name": name, "block": "technique", "minutes": 4, **more}


class FirstTests(TestCase):
    def test_a_new_player_begins_with_a_ready_routine(self) -> None:
        with at(MONDAY):
            self.assertRedirects(self.client.get("/"), "/today/")  # the first page is Today, whatever is planned
            page = self.client.get("/today/")
            self.assertContains(page, "Nothing planned: play.")
            self.assertContains(page, "Twenty minutes")
            for preset, ladders in (("five", 1), ("twenty", 2), ("hour", 3)):
                answer = self.client.post("/routine/preset/", {"preset": preset}, follow=True)
                self.assertContains(answer, "Every beat")
                self.assertEqual(Ladder.objects.count(), ladders)  # each is started once
            self.assertRedirects(self.client.get("/"), "/today/")
        self.assertEqual(Routine.objects.get().core.minutes, 60)

    def test_presets_are_routines_whose_names_are_known(self) -> None:
        known = {one.name for one in (*ready().values(), *shelf().values())} | {"Reach"}
        for key in PRESETS:
            core = routine_of(preset(key, zone="Europe/Vienna", monday="2026-11-02"))
            self.assertLessEqual({one.name for one in core.exercises}, known)
            self.assertLessEqual(core.least, core.minutes)
            self.assertGreaterEqual(core.most, core.minutes)


class DayTests(TestCase):
    def setUp(self) -> None:
        self.ladder = start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 1}))
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2}, in_technique("Quarters"))
        self.moment = MONDAY

    def today(self) -> Any:
        with at(self.moment):
            return self.client.get("/today/")

    def post(self, path: str, **words: str) -> Any:
        with at(self.moment):
            return self.client.post(f"/today/{path}/", words)

    def play(self, address: str, *, clean: bool = True) -> Take:
        with at(self.moment):
            take = play_asked(self.client, address, clean=clean, moment=self.moment)
        self.moment += timedelta(minutes=1)
        return take

    def test_each_block_with_its_exercise_rung_and_one_reason(self) -> None:
        lines = self.today().context["lines"]
        self.assertEqual([line.line.item.name for line in lines], ["Every beat", "Quarters", "Application"])
        self.assertEqual([line.line.item.slot.minutes for line in lines], [2, 4, 4])
        self.assertEqual(lines[1].line.item.why, "60: the first step")
        self.assertEqual(lines[1].line.item.then, "64")
        self.assertContains(self.today(), "Ten minutes.")
        self.assertContains(self.today(), "One clean at 60, then 64.")

    def test_begin_then_each_take_leads_to_the_next_until_the_day_is_closed(self) -> None:
        answer = self.post("begin")
        self.assertIn("/play/?", answer.url)
        take = self.play(answer.url)
        came = []
        for _ in range(30):
            with at(self.moment):
                page = self.client.get(take.get_absolute_url())
            flow = page.context["flow"]
            came.append(flow.what)
            if "/play/" not in flow.url:
                break
            take = self.play(flow.url)
        self.assertEqual(came[0], "70, eighths")  # the same again: three times each
        self.assertIn("On to Quarters", came)
        self.assertIn("One clean at 64, then 68", came)
        self.assertEqual(came[-1], "On to Application")
        standing = self.client.get(f"{take.get_absolute_url()}?view=standing")
        self.assertNotContains(standing, "On to Application")  # another day: the plan of that one is over
        with at(self.moment):
            self.assertContains(self.client.get(f"{take.get_absolute_url()}?view=standing"), "On to Application")
        word = next(line.line.item.word for line in self.today().context["lines"] if line.is_next)
        self.post("over", word=word)
        page = self.today()
        self.assertTrue(page.context["today"].is_closed)
        lines = page.context["closing"].lines
        self.assertEqual(lines[0].done.split(",")[0], "three takes")
        self.assertIn("clean at", lines[1].done)
        self.assertContains(page, "What should the next time begin with?")
        self.post("close")
        self.assertContains(self.today(), "next: tomorrow.")

    def test_skip_and_take_back_swap_shorten_stop(self) -> None:
        word = self.today().context["lines"][0].line.item.word
        self.post("over", word=word)
        self.assertEqual(self.today().context["today"].next.item.name, "Quarters")
        self.post("over", word=word, over="0")
        self.assertEqual(self.today().context["today"].next.item.name, "Every beat")
        self.post("swap", word=word, name="reach")
        self.assertEqual(self.today().context["lines"][0].line.item.name, "Reach")
        self.assertIn("try 8 beats", self.today().context["lines"][0].line.item.why)
        self.post("swap", word=word, name="No such thing")
        self.assertContains(self.today(), "Nothing here is called “No such thing”")
        self.post("swap", word=word, name="")
        self.assertEqual(self.today().context["lines"][0].line.item.name, "Every beat")
        self.post("minutes", minutes="4")
        page = self.today()
        self.assertEqual(sum(line.line.item.slot.minutes for line in page.context["lines"]), 4)
        self.assertContains(page, "No room today for application.")
        for wrong in ("0", "x", "601", "-3", "९"):
            self.post("minutes", minutes=wrong)
            self.assertContains(self.today(), "Minutes from 1 to 600, please.")
        self.post("minutes", minutes="")
        self.post("close")
        self.assertTrue(self.today().context["today"].is_closed)
        self.post("close", open="1")
        self.assertFalse(self.today().context["today"].is_closed)

    def test_it_can_be_made_shorter_than_it_is(self) -> None:
        for minutes, shorter, others in ((10, [5], ""), (12, [5, 10], "5"), (45, [5, 10, 20, 40], "20, 10, 5")):
            blocks = [{"name": "technique", "minutes": [5, 45], "flexible": True}]
            a_routine(in_technique("Quarters"), minutes=minutes, blocks=blocks)
            context = self.today().context
            self.assertEqual((context["shorter"], context["others"]), (shorter, others), minutes)

    def test_an_off_day_asks_for_one_more_of_each(self) -> None:
        begun = self.post("begin").url
        with at(self.moment):
            self.client.post("/climb/off-day/", {"is_off": "1"})
        for count in range(1, 5):
            self.play(begun)
            self.moment -= timedelta(seconds=45)  # so that the two minutes are not over before
            self.assertEqual(self.today().context["lines"][0].line.is_over, count == 4, count)

    def test_what_the_day_held_stays_in_its_closing_table(self) -> None:
        """Played, then the day made shorter, another skipped, the day closed: each has its line."""
        lines = self.today().context["today"].lines
        self.play(lines[1].item.url)
        self.post("minutes", minutes="1")
        page = self.today()
        self.assertEqual([line.item.name for line in page.context["today"].lines], ["Every beat", "Quarters"])
        self.post("over", word=lines[0].item.word)
        with at(self.moment):
            play_asked(self.client, "/play/?drill=two-and-four&cycles=8", clean=True, moment=self.moment)
        closing = self.today().context["closing"]
        self.assertEqual([line.name for line in closing.lines], ["Every beat", "Quarters", "Beside the plan"])
        done = [line.done.split(",")[0] for line in closing.lines]
        self.assertEqual(done, ["skipped", "one take", "one take"])
        self.assertEqual(closing.takes, 2)

    def test_a_line_for_the_next_time_is_kept_on_what_it_is_about_and_shown_there(self) -> None:
        lines = self.today().context["today"].lines
        self.play(lines[1].item.url)
        with at(self.moment):
            page = self.client.get("/today/close/")
        self.assertContains(page, "What should the next time begin with?")
        line = next(one for one in page.context["closing"].lines if one.name == "Quarters")
        self.assertContains(page, f'name="next-{line.exercise}"')
        self.post("close", keep="1", **{f"next-{line.exercise}": "  sixteenths in\n the silence ", "next-999": "x"})
        closed = self.today()
        self.assertContains(closed, "Next time: sixteenths in the silence")
        self.post("close", open="1")  # the close is undone
        self.assertContains(self.today(), "You wrote: “sixteenths in the silence”")
        self.assertContains(self.client.get(self.ladder.get_absolute_url()), "sixteenths in the silence")
        self.post("close")  # without notes: what was written stays
        self.assertContains(self.today(), "Next time: sixteenths in the silence")

    def test_minutes_and_takes_are_the_same_on_today_weeks_and_month(self) -> None:
        """A simulated player's take is nobody's practice: it counts on none of them."""
        for number in range(3):
            self.play(self.today().context["lines"][number // 2].line.item.url)
        Take.objects.filter(pk=self.play(self.today().context["lines"][1].line.item.url).pk).update(input="simulated")
        self.post("close")
        closing = self.today().context["closing"]
        with at(self.moment):
            weeks = self.client.get("/weeks/").context["weeks"]
            month = self.client.get("/progress/month/2026/11/").context["month"]
        self.assertEqual(closing.takes, 3)
        self.assertEqual(closing.minutes, weeks[0].played)
        self.assertEqual((closing.minutes, closing.takes), (month.minutes, month.takes))
        self.assertGreater(closing.minutes, 0)

    def test_that_the_plan_is_over_is_said_once_and_takes_no_key(self) -> None:
        last = self.today().context["lines"][2].line.item.word
        self.post("begin")
        self.post("over", word=last)
        take = None
        while (page := self.today()).context["today"].next:
            take = self.play(page.context["today"].next.item.url)
        assert take
        more = self.play("/play/?drill=every-beat")
        with at(self.moment):
            told, after = (self.client.get(one.get_absolute_url()) for one in (take, more))
            standing = self.client.get(f"{take.get_absolute_url()}?view=standing")
        self.assertContains(told, "That was the plan: close the day", count=1)
        self.assertFalse(told.context["flow"].leads)
        self.assertContains(standing, "That was the plan")
        self.assertNotContains(standing, 'data-next="/today/"')
        self.assertIsNone(after.context["flow"])

    def test_a_slot_says_how_many_takes_it_has_room_for(self) -> None:
        long = ladder_core(drill=short(cycles=30), rule={"kind": "streak", "clean": 3}, name="Long")
        start_ladder(player=local_player(), ladder=long)
        a_routine(in_technique("Long"))
        item = self.today().context["lines"][1].line.item
        self.assertEqual(
            (item.slot.minutes, item.what), (4, "Three clean at 60, then 64. Two fit in today.")
        )  # 2 min 6 s each
        self.play(item.url)
        self.assertFalse(self.today().context["lines"][1].line.is_over)
        self.play(item.url)
        self.assertTrue(self.today().context["lines"][1].line.is_over)

    def test_a_ready_ladder_is_started_by_its_name(self) -> None:
        name = "From 60 to 120 in fours"
        a_routine(in_technique(name))
        item = self.today().context["lines"][1].line.item
        self.assertEqual((item.name, item.what), (name, "Three clean at 60, then 64."))
        with at(self.moment):
            self.assertIn(name, self.client.get("/routine/").context["names"])
        a_routine(in_technique(name))
        self.assertEqual(Ladder.objects.filter(name=name).count(), 1)

    def test_only_takes_of_the_test_count_for_reach(self) -> None:
        a_routine(in_technique("Reach"))
        with at(self.moment):
            play_asked(self.client, "/play/?drill=two-heard-two-silent", clean=True, moment=self.moment)
        line = self.today().context["lines"][1].line
        self.assertEqual(line.spent.takes, 0)
        take = self.play(line.item.url)
        self.assertEqual((take.exercise.name, self.today().context["lines"][1].line.spent.takes), ("Reach", 1))

    def test_a_day_without_practice_says_when_the_next_is(self) -> None:
        self.moment += timedelta(days=2)  # Wednesday
        self.assertContains(self.today(), "Next: tomorrow.")
        self.post("minutes", minutes="10")
        self.assertEqual(len(self.today().context["lines"]), 3)

    def test_the_next_day_says_how_it_stands_to_the_last(self) -> None:
        for _ in range(3):
            self.play(self.today().context["lines"][1].line.item.url)
        self.moment = MONDAY + timedelta(days=1)
        self.assertEqual(self.today().context["lines"][1].line.item.why, "68, one step below yesterday")

    def test_after_a_break_the_first_day_eases_back(self) -> None:
        for _ in range(3):
            self.play(self.today().context["lines"][1].line.item.url)
        self.moment = MONDAY + timedelta(weeks=2)
        page = self.today()
        self.assertContains(page, "13 days away: it eases back")
        self.assertEqual(page.context["today"].minutes, 7)  # two thirds of ten
        self.assertEqual(page.context["lines"][1].line.item.why, "64, 13 days away, so two steps below 2 November")

    def test_a_pause_is_proposed_by_time_played_and_sooner_where_it_is_loud(self) -> None:
        long = "/play/?drill=every-beat&bpm=40&cycles=96"  # nearly ten minutes
        for _ in range(2):
            with at(self.moment):
                take = play_asked(self.client, long, clean=True, moment=self.moment)
            self.moment += timedelta(seconds=take.reading.played_s + 30)
        self.assertIsNone(self.today().context["today"].pause)
        set_delivery(player=local_player(), level=Delivery.Level.FULL)
        page = self.today()
        self.assertContains(page, "19 minutes without a pause, and loud.")
        self.post("rest")
        self.assertIsNone(self.today().context["today"].pause)

    def test_the_band_of_challenge_offers_another_rung(self) -> None:
        for _ in range(12):
            address = self.client.get(self.ladder.get_absolute_url()).context["rungs"][0].url
            self.play(address)
        line = self.today().context["lines"][1].line
        self.assertEqual(line.item.offer, "easy lately, 12 of 12 clean: 68 instead")
        self.assertIn("bpm=68", line.item.offer_url)

    def test_every_name_that_is_none_is_a_time_of_ones_own(self) -> None:
        a_routine(in_technique("Breathe"), in_technique("Quarters"))
        lines = {line.line.item.name: line.line.item for line in self.today().context["lines"]}
        self.assertEqual(lines["Breathe"].url, "")
        self.assertIn("nothing of that name", lines["Breathe"].why)

    def test_nobody_elses(self) -> None:
        other = Player.objects.create(username="other")
        Day.objects.create(player=other, day=date(2026, 11, 2), minutes=1)
        Routine.objects.update(player=other)
        self.assertContains(self.today(), "Nothing planned: play.")


class KeysTests(TestCase):
    def setUp(self) -> None:
        self.whole = start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 1}))
        self.keys = ["C", "F", "B♭", "E♭", "A♭", "D♭"]
        split(player=local_player(), ladder=self.whole, hands=False, keys=self.keys, sections=())
        a_routine(in_technique("Quarters", keys={"all": self.keys, "per_session": 2}))

    def day(self, moment: datetime) -> list[Any]:
        with at(moment):
            page = self.client.get("/today/")
        return [line.line.item for line in page.context["lines"] if line.line.item.slot.key]

    def test_each_key_once_before_any_twice_and_a_missed_day_takes_none_with_it(self) -> None:
        came = []
        for days in (0, 3, 7):  # Monday, Thursday, Monday: Tuesday is missed
            moment = MONDAY + timedelta(days=days)
            for item in self.day(moment):
                came.append(item.slot.key)
                self.assertIn(f"in {item.slot.key}", item.name)
                with at(moment):
                    play_asked(self.client, item.url, clean=True, moment=moment)
        self.assertEqual(sorted(came), sorted(self.keys))
        self.assertEqual([item.slot.key for item in self.day(MONDAY + timedelta(days=8))], came[:2])

    def test_the_plan_of_a_day_does_not_change_while_it_is_played(self) -> None:
        first = [item.slot.key for item in self.day(MONDAY)]
        with at(MONDAY):
            play_asked(self.client, self.day(MONDAY)[0].url, clean=True, moment=MONDAY)
        self.assertEqual([item.slot.key for item in self.day(MONDAY + timedelta(minutes=3))], first)


class WeeksTests(TestCase):
    def setUp(self) -> None:
        a_routine({"name": "Every beat", "block": "warm-up", "minutes": 2})

    def test_days_are_chosen_before_the_week_and_the_goal_with_them(self) -> None:
        with at(MONDAY):
            page = self.client.get("/weeks/")
            on = [day.date.isoformat() for week in page.context["weeks"][:2] for day in week.days if day.is_on]
            self.assertEqual(on[:3], ["2026-11-02", "2026-11-03", "2026-11-05"])
            words = {"monday": "2026-11-09", "day": ["2026-11-11", "2026-11-13", "2026-12-24"], "goal": "Softer"}
            self.client.post("/weeks/choose/", words)
            page = self.client.get("/weeks/")
        week = page.context["weeks"][1]
        self.assertEqual([day.date.day for day in week.days if day.is_on], [11, 13])
        self.assertContains(page, "Softer")
        with at(MONDAY):
            self.client.post("/weeks/choose/", {"monday": "2026-11-09", "routine": "1", "goal": ""})
        self.assertIsNone(Week.objects.get().days)
        for wrong in ("2026-11-10", "x", ""):
            self.assertEqual(self.client.post("/weeks/choose/", {"monday": wrong}).status_code, 404)

    def test_the_core_plans_the_same_days(self) -> None:
        with at(MONDAY):
            page = self.client.get("/weeks/")
        slots = plan(Routine.objects.get().core, start=MONDAY.date(), days=28)
        shown = [slot for week in page.context["weeks"] for day in week.days for slot in day.slots]
        self.assertEqual([slot.date for slot in shown], [slot.date for slot in slots])

    def test_overnight_checks_stand_on_the_day_they_are_due(self) -> None:
        rule = {"kind": "edge", "clean": 3, "nights": 2}
        one = start_ladder(player=local_player(), ladder=ladder_core(rule=rule))
        with at(MONDAY):
            address = self.client.get(one.get_absolute_url()).context["standing"].url
            play_asked(self.client, address, clean=False, moment=MONDAY)
            page = self.client.get("/weeks/")
        due = {day.date.day: day.due for week in page.context["weeks"] for day in week.days if day.due}
        self.assertEqual(list(due), [4])
        self.assertIn("60 was the edge", due[4][0])
