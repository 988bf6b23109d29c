"""Exercises split by hand, key and section; their players' words; attempts from elsewhere: through the real pages."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from giusto.drill.json_file import MAX_BYTES
from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.ladders.actions import ClimbError, start_ladder
from studio.ladders.models import Ladder
from studio.ladders.parts import following, parts_of, record, split
from studio.ladders.standing import LadderStanding
from studio.takes.models import Take
from studio.takes.reading import read_take
from tests.studio.ladders.climbing import at, ladder, play_asked, short
from tests.studio.ladders.placed import MONDAY, SHORT, standing, tried

SIX = datetime(2026, 11, 2, 17, tzinfo=UTC)
HEADER = "at,rung,clean,minutes\n"


class SplitTests(TestCase):
    def setUp(self) -> None:
        self.whole = start_ladder(player=local_player(), ladder=ladder_of(ladder(rule={"kind": "streak", "clean": 1})))

    def split(self, **words: str) -> str:
        answer = self.client.post(f"/climb/{self.whole.pk}/split/", words, follow=True)
        return answer.content.decode()

    def test_by_hands_and_keys_each_part_climbs_alone(self) -> None:
        self.assertIn("6 new parts", self.split(hands="on", keys="C, F"))
        self.assertIn("0 new parts", self.split(hands="on", keys="C, F"))
        parts = Ladder.objects.filter(exercise__whole=self.whole.exercise)
        self.assertEqual(parts.count(), 6)
        self.assertEqual({part.spec["rule"]["clean"] for part in parts}, {1})
        left = parts.get(exercise__hand="left", exercise__music_key="F")
        asked = self.client.get(left.get_absolute_url()).context["standing"].url
        play_asked(self.client, asked, clean=True, moment=timezone.now())
        page = self.client.get(self.whole.get_absolute_url())
        lines = {line.standing.ladder.pk: line for _, some in page.context["record"].groups for line in some}
        self.assertEqual([lines[left.pk].secure, lines[left.pk].takes], ["60", 1])
        self.assertEqual({line.secure for pk, line in lines.items() if pk != left.pk}, {""})
        self.assertContains(page, "never compared")

    def test_twelve_keys_come_round_one_a_day(self) -> None:
        self.split(keys="all")
        came = []
        for day in range(12):
            moment = SIX + timedelta(days=day)
            with at(moment):
                parts = parts_of(local_player(), [self.whole.exercise_id], moment)[self.whole.exercise_id]
                one = following(parts)
                assert one is not None
                came.append(one.ladder.exercise.music_key)
                play_asked(self.client, one.url, clean=True, moment=moment)
        self.assertEqual(len(set(came)), 12)

    def test_the_list_shows_the_whole_and_what_its_next_part_asks(self) -> None:
        self.split(hands="on")
        page = self.client.get("/work/")
        lines = [line for group in page.context["work"].groups for line in group.lines]
        self.assertEqual([line.page for line in lines], [self.whole.get_absolute_url()])
        self.assertContains(page, "One clean at 60, left hand")
        self.assertContains(page, "3 parts")

    def test_what_splits_nothing_or_too_much_is_refused(self) -> None:
        for words, said in (
            ({}, "Say by what it is split"),
            ({"keys": "all", "hands": "on", "sections": "a, b, c"}, "That makes 108 parts, allowed are 72"),
            ({"keys": "x" * 30}, "A key has at most 20 characters"),
        ):
            self.assertIn(said, self.split(**words))
        self.split(hands="on")
        part = Ladder.objects.get(exercise__hand="left")
        answer = self.client.post(f"/climb/{part.pk}/split/", {"hands": "on"}, follow=True)
        self.assertContains(answer, "is a part itself")
        self.assertEqual(Ladder.objects.count(), 4)

    def test_what_is_meant_for_next_time_stands_where_it_is_read(self) -> None:
        words = {"next_time": "Softer left hand", "note": "Stick height!"}
        self.client.post(f"/climb/{self.whole.pk}/words/", words)
        self.assertContains(self.client.get(self.whole.get_absolute_url()), "You wrote: “Softer left hand”")


class ElsewhereTests(TestCase):
    def setUp(self) -> None:
        self.ladder = start_ladder(player=local_player(), ladder=ladder_of(ladder()))

    def bring(self, text: str) -> str:
        file = SimpleUploadedFile("kept.csv", text.encode())
        answer = self.client.post(f"/climb/{self.ladder.pk}/attempts/", {"file": file}, follow=True)
        return answer.content.decode()

    def test_attempts_count_and_go_out_as_they_came_in(self) -> None:
        rows = [f"2026-10-0{day}T18:00:00+02:00,1,1,2.5" for day in (1, 2, 3)]
        text = HEADER + "".join(f"{row}\n" for row in rows)
        self.assertIn("3 attempts brought in", self.bring(text))
        self.assertIn("0 attempts brought in", self.bring(text))
        page = self.client.get(self.ladder.get_absolute_url())
        self.assertEqual(page.context["step"].secure, 1)
        out = self.client.get(f"/climb/{self.ladder.pk}/attempts.csv").content.decode().splitlines()
        self.assertEqual(out, [f"{HEADER.strip()},off", *(f"{row},0" for row in rows)])

    def test_a_file_that_is_too_large_is_refused_however_good_its_lines(self) -> None:
        line = "2026-10-01T18:00:00+02:00,1,1,2.5\n"
        said = self.bring(HEADER + line * (MAX_BYTES // len(line) + 1))
        self.assertIn("Nothing was brought in: the file is larger than 1,000,000 bytes.", said)

    def test_a_bad_line_brings_in_nothing(self) -> None:
        said = self.bring(f"{HEADER}2026-10-01T18:00:00+02:00,1,1,2\n2026-10-02T18:00:00+02:00,9,1,2\n")
        self.assertIn("line 3: rung is &quot;9&quot;, allowed is 1 to 6", said)
        self.assertEqual(self.ladder.others.count(), 0)


class PlacesTests(TestCase):
    def test_a_place_of_a_long_cycle_that_leans_is_told_by_its_beat(self) -> None:
        """Cycles of eight beats; the notes from beat 5 to 8 come 25 ms early."""
        drill = short(beats=8, cycles=6)
        made = start_ladder(player=local_player(), ladder=ladder_of(ladder(drill=drill)))
        address = self.client.get(made.get_absolute_url()).context["standing"].url
        self.assertContains(self.client.get(f"{made.get_absolute_url()}places/"), "shows after three takes")
        for day in range(4):
            play_asked(self.client, address, clean=True, moment=SIX + timedelta(days=day))
        for take in Take.objects.all():
            for batch in take.batches.all():
                first_ms = batch.notes[0]["at_ms"]
                for note in batch.notes:
                    beat = round((note["at_ms"] - first_ms) / 1000) % 8
                    note["at_ms"] -= 25.0 if beat >= 4 else 0.0
                batch.save()
            read_take(take.pk)
        page = self.client.get(f"{made.get_absolute_url()}places/")
        leaning = {row.name: row.side for row in page.context["picture"].rows if row.side}
        self.assertEqual(leaning, {"1": "late", "5": "early"})
        self.assertContains(page, "into bar 1, beat 5")


class RecordTests(TestCase):
    """Parts whose takes are written down."""

    def parts(self) -> list[LadderStanding]:
        """Return the left hand, with three takes the last not clean, and the right, with none."""
        left = standing(
            SHORT, [tried(1), tried(3, minute=5), tried(4, minute=9, clean=False)], rung=3, secure=2, done=False
        )
        right = standing(SHORT, [], rung=1, secure=0, done=True)
        left.ladder.exercise.hand, right.ladder.exercise.hand = "left", "right"
        left.ladder.exercise.section = "bars 5–8"
        return [left, right]

    def test_what_each_reached_and_holds_and_when_it_was_played_last(self) -> None:
        parts = self.parts()
        found = record(parts, MONDAY.date() + timedelta(days=1))
        (_, lines), *none = found.groups
        self.assertEqual(none, [])
        self.assertEqual([line.reached for line in lines], ["68", ""])  # the highest that was clean
        self.assertEqual([line.secure for line in lines], ["64", ""])
        self.assertEqual([line.takes for line in lines], [3, 0])
        self.assertEqual([line.last for line in lines], ["yesterday", ""])
        over_days = standing(SHORT, [tried(1), tried(1, day=4)], rung=1, secure=0, done=False)
        (_, (line,)), *_ = record([over_days], MONDAY.date() + timedelta(days=5)).groups
        self.assertEqual(line.last, "yesterday")
        self.assertEqual([line.name for line in lines], ["left hand, bars 5–8", "right hand"])
        self.assertEqual((found.parts, found.done), (2, 1))
        self.assertIs(found.following, lines[0])

    def test_where_all_are_climbed_none_comes_next(self) -> None:
        found = record([standing(SHORT, [tried(6)], done=True)], MONDAY.date())
        self.assertIsNone(found.following)
        self.assertEqual(found.done, 1)

    def test_a_part_that_was_played_longest_ago_comes_first_of_alike_ones(self) -> None:
        early, late = (standing(SHORT, [tried(1), tried(1, day=day)], rung=1, secure=0, done=False) for day in (1, 3))
        self.assertIs(following([late, early]), early)

    def test_its_name_leaves_room_for_what_makes_it_a_part(self) -> None:
        whole = start_ladder(player=local_player(), ladder=ladder_of(ladder(name="x" * 120)))
        split(player=local_player(), ladder=whole, hands=True, keys=[], sections=[])
        names = list(Ladder.objects.filter(exercise__whole=whole.exercise).values_list("name", flat=True))
        self.assertEqual(len(names), 3)
        for name in names:
            self.assertRegex(name, r"^x+, (left hand|right hand|hands together|together|both hands)$")
            self.assertEqual(len(name), 118)

    def test_a_part_is_not_split_again(self) -> None:
        whole = start_ladder(player=local_player(), ladder=ladder_of(ladder()))
        self.assertEqual(split(player=local_player(), ladder=whole, hands=True, keys=["C"], sections=["a", "b"]), 6)
        self.assertEqual(
            split(player=local_player(), ladder=whole, hands=True, keys=["C", "F"], sections=["a", "b"]), 6
        )
        part = Ladder.objects.filter(exercise__whole=whole.exercise)[0]
        with self.assertRaisesRegex(ClimbError, "is a part itself"):
            split(player=local_player(), ladder=part, hands=True, keys=[], sections=[])
