"""Exercises split by hand, key and section; their players' words; attempts from elsewhere: through the real pages."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from giusto.practice.ladder import ladder_of
from studio.accounts.models import local_player
from studio.ladders.actions import start_ladder
from studio.ladders.models import Ladder
from studio.ladders.parts import following, parts_of
from studio.takes.models import Take
from studio.takes.reading import read_take
from tests.studio.ladders.climbing import at, ladder, play_asked, short

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
