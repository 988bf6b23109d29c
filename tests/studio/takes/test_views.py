"""Play, the log, what is saved."""

import io
import json
import re
import zipfile

import numpy as np
from django.test import TestCase
from django.urls import reverse

from giusto.drill import parse, validate
from giusto.notes.csv_file import parse_notes
from giusto.reading import analyse
from giusto.schedule import schedule
from giusto.simulation.player import SimulatedPlayer as Hand
from studio.drills.actions import delete_drill, keep_drill
from studio.drills.shelf import shelf
from studio.takes.models import Take
from tests.drills import plain
from tests.studio.playing import begin_body, play, post


class PlayTests(TestCase):
    def plan(self, **words: str) -> dict:
        page = self.client.get(reverse("takes:play"), words)
        found = re.search(r'<script id="plan" type="application/json">(.*?)</script>', page.content.decode(), re.S)
        assert found
        return json.loads(found[1])

    def test_plan_holds_the_cores_schedule(self) -> None:
        plan = self.plan(drill="two-heard-two-silent", cycles="8")
        self.assertEqual(plan["clicks"][4], [2.5, "click"])
        self.assertEqual(plan["silences"], [[6.875, 12.5], [16.875, 22.5]])

    def test_page_changes_only_at_clicks_that_sound(self) -> None:
        for slug in shelf():
            plan = self.plan(drill=slug)
            times = {time for time, _ in plan["clicks"]}
            for stretch in plan["stretches"] if times else ():  # without a click it does not change at all
                self.assertIn(round(stretch["from_s"], 9), times)
                self.assertFalse(any(start < stretch["from_s"] < end for start, end in plan["silences"]))

    def test_stretches_say_where_one_is(self) -> None:
        said = [
            (s["from_s"], s["word"], s["cycles"], s["aside"])
            for s in self.plan(drill="two-heard-two-silent")["stretches"]
        ]
        self.assertEqual(said[0], (0.0, "Ready", ["", "4", "beats, then play"], ""))
        self.assertEqual(said[1], (2.5, "Click", ["bars", "1–2", "of 16"], "then 5 s alone"))
        self.assertEqual(said[2], (6.875, "Alone", ["bars", "3–4", "of 16"], "for 5 s"))
        self.assertEqual(said[3][0], 12.5)

    def test_simulated_player(self) -> None:
        plan = self.plan(drill="two-heard-two-silent", by="simulated", lean="2.5", skill="practised")
        self.assertEqual(plan["simulated"]["player"]["bias_percent"], 2.5)
        self.assertEqual(len(plan["notes_s"]), 136)

    def test_again_plays_the_same_drill(self) -> None:
        take = play(self.client, drill=plain(bpm=77, grid=3))
        self.assertEqual(self.plan(again=str(take.pk))["drill"], take.drill)
        self.assertEqual(self.client.get(reverse("takes:play"), {"again": "x"}).status_code, 404)


class FreePartTests(TestCase):
    def test_an_improvised_take_is_read_too(self) -> None:
        take = play(self.client, drill=plain(play="free"), player=Hand(bias_percent=-2.5))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You dragged in every silence.")
        self.assertContains(page, "0 missed")


class LogTests(TestCase):
    def test_newest_first_with_what_was_played(self) -> None:
        self.assertContains(self.client.get(reverse("log:page")), "Every take hangs here")
        play(self.client, drill=plain(name="Older", bpm=80))
        play(self.client, drill=plain(name="Newer", bpm=120))
        Take.objects.filter(drill_name="Older").update(started_at="2026-01-01T00:00:00Z")
        text = self.client.get(reverse("log:page")).content.decode()
        self.assertLess(text.index("Newer"), text.index("Older"))
        self.assertIn("Two takes", text)

    def test_delete_with_undo(self) -> None:
        take = play(self.client)
        page = self.client.post(reverse("takes:delete", args=[take.pk]), follow=True)
        self.assertContains(page, "The take is deleted.")
        self.assertEqual(self.client.get(take.get_absolute_url()).status_code, 404)
        self.client.post(reverse("takes:restore", args=[take.pk]))
        self.assertEqual(self.client.get(take.get_absolute_url()).status_code, 200)

    def test_what_was_deleted_is_listed_until_it_is_emptied(self) -> None:
        one, other = play(self.client, drill=plain(name="One")), play(self.client, drill=plain(name="Other"))
        kept = play(self.client, drill=plain(name="Kept"))
        drill = keep_drill(player=kept.player, drill=validate(plain()), name="Mine", family="dropped")
        delete_drill(player=kept.player, own=drill)
        for take in (one, other):
            self.client.post(reverse("takes:delete", args=[take.pk]))
        page = self.client.get(reverse("log:deleted"))
        for name in ("One", "Other", "Mine"):
            self.assertContains(page, f">{name}<")
        self.assertNotContains(page, ">Kept<")
        self.client.post(reverse("takes:restore", args=[one.pk]), {"list": "1"})
        self.assertNotContains(self.client.get(reverse("log:deleted")), ">One<")
        self.assertContains(self.client.post(reverse("log:deleted"), follow=True), "Forgotten for good: 2.")
        self.assertEqual({take.drill_name for take in Take.objects.all()}, {"One", "Kept"})
        self.assertContains(self.client.get(reverse("log:deleted")), "Nothing is deleted.")

    def test_bounded_queries(self) -> None:
        for seed in range(3):
            play(self.client, seed=seed)
        with self.assertNumQueries(
            8
        ):  # player, exercises to look for, count, which, rows, silences, minutes, left ones
            self.client.get(reverse("log:page"))

    def test_download_is_what_the_core_reads(self) -> None:
        take = play(self.client, seed=7)
        answer = self.client.get(reverse("takes:download", args=[take.pk]))
        self.assertIn("attachment", answer["Content-Disposition"])
        with zipfile.ZipFile(io.BytesIO(answer.content)) as packed:
            self.assertEqual(sorted(packed.namelist()), ["about.txt", "drill.json", "reading.json", "take.csv"])
            plan = schedule(parse(packed.read("drill.json")))
            notes = parse_notes(packed.read("take.csv"))
            reading = json.loads(packed.read("reading.json"))
        found = json.loads(json.dumps(analyse(plan, notes).reading.plain()))
        for ours, theirs in zip(found["silences"], reading["silences"], strict=True):
            self.assertEqual(ours["outcome"], theirs["outcome"])
            for name in ("return_ms", "drift_ms", "tempo_bpm", "ci95_ms", "lean_ci95_percent"):
                # The file has 7 decimals of a second; the last digit of a figure may turn.
                np.testing.assert_allclose(ours[name], theirs[name], rtol=0, atol=0.002)


class SendingStateTests(TestCase):
    def test_a_take_in_the_making_is_not_in_the_log(self) -> None:
        post(self.client, "/takes/6f3f9c1e-6f0f-4f6b-9a76-1f4c4c8f0a11/begin/", begin_body())
        self.assertContains(self.client.get(reverse("log:page")), "No takes")
