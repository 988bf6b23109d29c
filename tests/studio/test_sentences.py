"""Sentences that pages once said wrongly, each with the take, or the day, of which it was said.

Numbers are those of a list of forty-four that a newcomer and a percussionist wrote down in an hour; those that are not
here have their test with the rule: 1, 5, 6, 25 and 26 in ``test_one_answer`` and ``progress``, 7 to 10, 20, 21, 24 in
``plans``, 17b and 38 in the ladder's rules, 31 in ``test_clean``.
"""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from html import unescape
from typing import Any

import numpy as np
from django.template.loader import render_to_string
from django.test import TestCase

from giusto.drill import validate
from giusto.practice.finding import Finding
from giusto.schedule import Schedule, schedule
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.shelf import ready
from studio.takes.models import Take
from tests.drills import fixed, plain
from tests.studio.ladders.climbing import at, ladder_core, play_asked
from tests.studio.plans.test_today import a_routine, in_technique
from tests.studio.playing import play, send

MONDAY = datetime(2026, 11, 2, 18, tzinfo=UTC)
FREE = {
    "giusto": "free/1",
    "name": "Freely",
    "tempo": {"bpm": 104},
    "cycle": {"beats": 4},
    "clicks": {"on": []},
    "part": {"grid": 1},
    "cycles": 34,
    "close": 0,
}


def notes_of(plan: Schedule, *, scatter_ms: float = 0.0, place_ms: float = 0.0, seed: int = 1) -> Any:
    """Return the asked notes of a plan as a machine would play them, with some scatter about a place."""
    rng = np.random.default_rng(seed)
    asked_s = plan.seconds(plan.notes.tick)
    return asked_s + (place_ms + scatter_ms * rng.standard_normal(asked_s.size)) / 1000


class SentenceTests(TestCase):
    def text(self, path: str) -> str:
        """Return what a page says, without its marks."""
        page = self.client.get(path, follow=True).content.decode()
        page = re.sub(r"<(script|style|svg)\b.*?</\1>", " ", page, flags=re.S)
        return re.sub(r"\s+", " ", unescape(re.sub(r"<[^>]+>", " ", page)))

    def read(self, drill: dict[str, Any], onsets_s: Any) -> tuple[Take, str]:
        """Play a take and return it with what its page says."""
        take = send(self.client, drill, onsets_s)
        return take, self.text(take.get_absolute_url())

    def test_02_03_04_reach_names_no_cause_that_was_not_measured(self) -> None:
        hand = SimulatedPlayer(clock_percent=0.5, hand_ms=4.0)
        for seed in range(4):
            play(self.client, player=hand, seed=seed + 1, started_at=f"2026-11-25T10:{seed:02}:00Z")
            heard = plain(silence=None, cycles=4)
            play(self.client, drill=heard, player=hand, seed=seed + 9, started_at=f"2026-11-25T11:{seed:02}:00Z")
        said = self.text("/reach/?bpm=96")
        for never in ("larger than the beat", "lost count", "no click", "/160"):
            self.assertNotIn(never, said)
        self.assertIn("held three in four", said.replace("three times in four", "held three in four"))

    def test_11_a_rung_with_one_silent_cycle_is_not_called_two_silent(self) -> None:
        core = next(one.ladder for one in ready().values() if one.name.startswith("One, two, three"))
        ladder = start_ladder(player=local_player(), ladder=core)
        with at(MONDAY):
            address = self.client.get(ladder.get_absolute_url()).context["standing"].url
            self.assertNotIn("Two bars alone", self.text(address))
            take = play_asked(self.client, address, clean=True, moment=MONDAY)
            self.assertEqual(take.silent_cycles, 1)
            for path in (take.get_absolute_url(), "/log/"):
                self.assertNotIn("Two bars alone", self.text(path))

    def test_12_13_a_piece_whose_tempo_nobody_found_yet(self) -> None:
        from studio.pieces.words import _first  # the words of a stretch that was not begun

        class Stretch:
            kind = "chunk"

        class Standing:
            stretch = Stretch()

        self.assertEqual(_first(Standing(), None), "A good bit slower than the goal.")  # type: ignore[arg-type]
        self.assertIn("than 66, where it goes now", _first(Standing(), 66.0))  # type: ignore[arg-type]

    def test_14_15_free_playing_is_asked_for_no_return(self) -> None:
        plan = schedule(validate(FREE))
        body_s = float(plan.seconds(plan.body_tick))
        beats = np.arange(44) * 60 / 104
        scattered = body_s + 1.0 + beats + 0.004 * np.random.default_rng(4).standard_normal(44)
        _, said = self.read(FREE, scattered)
        for never in ("Through to the return", "You stopped", "Only a return", "could be caught", "± 0.0"):
            self.assertNotIn(never, said)
        self.assertIn("You held 10", said)

    def test_16_pure_scatter_leans_nowhere(self) -> None:
        drill = plain(silence=None, cycles=12)
        plan = schedule(validate(drill))
        said = [self.read(drill, notes_of(plan, scatter_ms=5.0, seed=seed))[1] for seed in range(5)]
        self.assertFalse([one for one in said if "The stretch after" in one])

    def test_17_a_ladder_that_was_started_is_not_to_be_started(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core())
        self.assertNotIn("Begin an exercise", self.text("/work/"))
        Ladder.objects.all().delete()
        self.assertIn("Begin an exercise", self.text("/work/"))

    def test_18_returns_of_nothing_are_not_too_close_to_call(self) -> None:
        drill = plain(bpm=60, silence=fixed(2, 1), cycles=12, grid=4)
        plan = schedule(validate(drill))
        _, said = self.read(drill, notes_of(plan, scatter_ms=3.0))
        self.assertIn("You held all four silences.", said)
        for never in ("oo close to call", "5 % line", "lie across the line"):
            self.assertNotIn(never, said)
        drill = plain(bpm=160, silence=fixed(2, 1), cycles=12, grid=1)  # read so loosely that none is surely held
        loose = SimulatedPlayer(clock_percent=1.5, hand_ms=20.0)
        _, said = self.read(drill, simulate(schedule(validate(drill)), loose, seed=3).onsets_s)
        self.assertNotIn("oo close to call", said)
        self.assertRegex(said, r"Held, so far as your notes can tell|Your notes can’t tell if you held")

    def test_19_what_is_held_is_not_halved(self) -> None:
        drill = plain(silence=fixed(2, 2), cycles=8, bpm=60, grid=4)
        plan = schedule(validate(drill))
        dragging = SimulatedPlayer(bias_percent=-3.0, clock_percent=0.4, hand_ms=3.0)
        send(self.client, drill, simulate(plan, dragging, seed=3).onsets_s, started_at="2026-11-25T09:00:00Z")
        _, said = self.read(drill, notes_of(plan, scatter_ms=2.0))
        self.assertIn("You held both silences.", said)
        for never in ("Half the way alone", "Halve the silence"):
            self.assertNotIn(never, said)

    def test_19_what_was_not_the_drill_is_not_halved_either(self) -> None:
        rng = np.random.default_rng(7)
        plan = schedule(validate(plain()))
        _, said = self.read(plain(), np.sort(rng.uniform(1.0, float(plan.seconds(plan.end_tick)), len(plan.notes))))
        self.assertNotIn("Halve the silence", said)
        self.assertNotIn("led back", said)

    def test_22_23_each_way_and_each_key_once(self) -> None:
        for bias, cycles, grid in ((0.0, 8, 2), (-2.5, 16, 2), (0.0, 16, 4), (2.5, 4, 1)):
            hand = SimulatedPlayer(bias_percent=bias, clock_percent=0.5, hand_ms=4.0)
            take = play(self.client, drill=plain(cycles=cycles, grid=grid), player=hand, seed=cycles)
            page = self.client.get(take.get_absolute_url())
            steps = [page.context["next"].proposed, *(one.choice for one in page.context["next"].neighbours)]
            self.assertEqual(len({one.key for one in page.context["next"].neighbours}), len(steps) - 1)
            self.assertEqual(len({str(one.drill.plain()) for one in steps}), len(steps))
            keys = re.findall(r'data-key="([^"]+)"', page.content.decode())
            single = [key for some in keys for key in some.split()]
            self.assertEqual(sorted(set(single)), sorted(single))

    def test_28_a_place_has_one_notation(self) -> None:
        hand = SimulatedPlayer(place_ms=-33.0, clock_percent=0.4, hand_ms=4.0)
        for seed in range(8):
            at_ = f"2026-11-0{2 + seed // 2}T18:{seed:02}:00Z"
            take = play(self.client, drill=plain(silence=None), player=hand, seed=seed + 1, started_at=at_)
        a_routine(in_technique("Reach"))
        with at(MONDAY + timedelta(days=3, hours=2)):
            pages = {path: self.text(path) for path in ("/log/", take.get_absolute_url())}
        for path, said in pages.items():
            with self.subTest(path):
                self.assertRegex(said, r"3\d\xa0?\s?ms early")
                self.assertNotRegex(said, r"3\d\s?ms before|−3\d")

    def test_29_one_thing_has_one_name(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core(name="Scale in eighths"))
        with at(MONDAY):
            a_routine(in_technique("Scale through the keys", ladder="Scale in eighths"))
            for path in ("/today/", "/weeks/", "/work/", "/routine/"):
                said = self.text(path)
                self.assertIn("Scale in eighths", said)
                self.assertNotIn("Scale through the keys", said)

    def test_32_where_nothing_returned_no_return_counts(self) -> None:
        drill = plain(silence=None, cycles=8)
        _, said = self.read(drill, notes_of(schedule(validate(drill)), scatter_ms=4.0, place_ms=-25.0))
        self.assertNotIn("a return counts as held", said)
        self.assertRegex(said, r"A little early, and even\. 2[456]\s?ms early")
        _, said = self.read(drill, notes_of(schedule(validate(drill)), scatter_ms=4.0, place_ms=-112.0))
        self.assertRegex(said, r"(?<!little )Early, and even\. 11\d\s?ms early")
        _, said = self.read(drill, notes_of(schedule(validate(drill)), scatter_ms=24.0, place_ms=-40.0))
        self.assertNotIn("even", said.partition("ms of that place")[0])

    def test_33_what_one_clean_take_opens_has_its_name(self) -> None:
        start_ladder(player=local_player(), ladder=ladder_core(rule={"kind": "streak", "clean": 1}))
        with at(MONDAY):
            a_routine(in_technique("Quarters"))
            self.assertIn("Quarters One clean at 60, then 64.", self.text("/today/"))

    def test_34_to_43_words_that_nobody_understood(self) -> None:
        for seed in range(4):
            at_ = f"2026-11-0{seed + 2}T18:00:00Z"
            play(self.client, player=SimulatedPlayer(bias_percent=-1.0), seed=seed + 1, started_at=at_)
        start_ladder(player=local_player(), ladder=ladder_core())
        take = Take.objects.latest("started_at")
        with at(MONDAY + timedelta(days=3)):
            pages = ["/progress/", "/log/", "/reach/", Ladder.objects.get().get_absolute_url(), "/work/"]
            said = " ".join(self.text(path) for path in (*pages, take.get_absolute_url()))
        for never in (
            "those too close to call are left out",
            "What a click takes back",
            "of the gap",
            "% of a slot, ",
            "against your place",
            "held up to nothing",
            " points",
            "cannot tell",
            "note and click as one for not asked",
            "In even",
        ):
            self.assertNotIn(never, said)

    def test_what_was_not_played_yet_is_asked_again_however_often(self) -> None:
        """Four takes of another part: no shorter silence, no longer one, and no time where none can be read."""
        asked_s = notes_of(schedule(validate(plain())), scatter_ms=4)
        for every, said_time in ((2, True), (4, False)):
            for turn in range(4):
                _, said = self.read(plain(), asked_s[::every] + turn * 1e-4)
            self.assertEqual("Your time is read all the same" in said, said_time)
            self.assertIn("Next: the same", said)
            self.assertNotIn("Halve the silence", said)

    def test_chance_is_said_once_and_asks_for_no_other_drill(self) -> None:
        asked_s = notes_of(schedule(validate(plain())))
        for seed in range(4):
            onsets_s = np.sort(np.random.default_rng(seed).uniform(asked_s[0], asked_s[-1], 140))
            _, said = self.read(plain(), onsets_s)
        self.assertIn("This was not the drill.", said)
        self.assertEqual(said.split("Each silence, note")[0].count("no better than chance"), 1)
        self.assertIn("Next: the same", said)

    def test_who_stopped_played_no_few_notes(self) -> None:
        plan = schedule(validate(plain()))
        asked_s = notes_of(plan, scatter_ms=4)
        _, said = self.read(plain(), asked_s[asked_s < float(plan.seconds(plan.silences[0].start_tick)) + 2])
        self.assertIn("You stopped in the first silence.", said)
        self.assertNotIn("could be caught", said)

    def test_31_a_place_off_the_click_stands_out(self) -> None:
        """111 ms before each click, by keys whose delay nobody measured."""
        drill = plain(bpm=60, silence=None, cycles=16)
        _, said = self.read(drill, notes_of(schedule(validate(drill)), scatter_ms=4, place_ms=-111))
        self.assertIn("Early, and even.", said)
        self.assertNotIn("Nothing stands out", said)
        self.assertIn("the delay of this device shows once it is measured", said)

    def test_no_range_is_nothing(self) -> None:
        plan = schedule(validate(FREE))
        steps_s = 60 / 104 * (1 + np.linspace(0, 0.044, 136))
        _, said = self.read(FREE, float(plan.seconds(plan.body_tick)) + 1 + np.cumsum(steps_s))
        self.assertIn("give or take", said)
        self.assertIn("Nothing else stands out", said)
        self.assertNotRegex(said, r"give or take (How sure[^.]*\. How it is measured )?0\.0")

    def test_a_crushed_figure_is_the_verdict_where_all_else_is_held(self) -> None:
        """A dotted figure whose last part is crushed by 42 ms: the headline says so."""
        drill = plain(
            bpm=92, silence=None, cycles=12, grid=4, play=["1", "1+3/4", "2", "2+3/4", "3", "3+3/4", "4", "4+3/4"]
        )
        plan = schedule(validate(drill))
        onsets_s = notes_of(plan, scatter_ms=4.0)
        late = np.arange(onsets_s.size) % 2 == 1
        _, said = self.read(drill, onsets_s - np.where(late, 0.042, 0.0))
        self.assertNotIn("no silence to read", said)
        self.assertRegex(said, r"crushed")

    def test_a_step_of_forty_ms_is_no_drag(self) -> None:
        drill = plain(bpm=92, silence=fixed(2, 2), cycles=8)
        plan = schedule(validate(drill))
        onsets_s = notes_of(plan, scatter_ms=3.0)
        tick = plan.notes.tick
        alone = np.zeros(tick.size, dtype=bool)
        for silence in plan.silences:
            alone |= (tick > silence.start_tick) & (tick < silence.end_tick)
        _, said = self.read(drill, onsets_s + np.where(alone, 0.04, 0.0))
        self.assertNotIn("You dragged", said)
        self.assertNotIn("too far apart", said)

    def test_a_range_that_holds_nothing_says_so(self) -> None:
        """Between 0.3 % slower and 1.0 % faster: that the notes are short is no more than likely."""
        for told, sure in (
            (Finding("narrow", 0.35, (-0.3, 1.0), 4, slot_ms=1.1), False),
            (Finding("wide", -0.5, (-0.7, -0.3), 4, slot_ms=-1.5), True),
        ):
            said = render_to_string(f"readings/findings/{told.code}.html", {"f": told, "next": {"notes": "eighths"}})
            self.assertEqual("perhaps" in said, not sure)

    def test_who_does_not_follow_the_click_is_told_that_first(self) -> None:
        """A steady 92.8 against 96 all through, hands even to 3 ms."""
        drill = plain(silence=None, cycles=16)
        plan = schedule(validate(drill))
        onsets_s = notes_of(plan, scatter_ms=3.0) * 96 / 92.8
        _, said = self.read(drill, onsets_s)
        self.assertIn("You kept a tempo of your own.", said)
        self.assertNotIn("Even hands first", said)

    def test_who_begins_elsewhere_in_the_bar_is_told_that_first(self) -> None:
        """A figure a beat late all through: not *held*, not twice the notes, and the same drill is asked again."""
        drill = plain(bpm=96, grid=2, play=["1", "2+1/2", "4"], cycles=16)
        plan = schedule(validate(drill))
        notes_s = notes_of(plan, scatter_ms=4.0) + plan.beat_s
        take, said = self.read(drill, notes_s[:-3])
        self.assertIn("You began elsewhere in the bar.", said)
        self.assertIn("all of it lies one beat later than it is written", said)
        for never in ("You held", "twice the notes", "Halve the silence"):
            self.assertNotIn(never, said)
        self.assertIn("begun elsewhere in the bar", self.text("/log/"))
        self.assertEqual(take.reading.verdict, "beat-off")
