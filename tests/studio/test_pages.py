"""The pages, without a browser: what they say, refuse, keep and never send."""

import io
import json
import re
import zipfile

import numpy as np
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse

from giusto.drill import parse
from giusto.onset_csv import parse_onsets
from giusto.reading import analyse
from giusto.schedule import schedule
from giusto.simulate import Player as Hand
from giusto.voice import click_samples
from studio.drills.sentence import CLICK_WORDS
from studio.drills.shelf import shelf
from studio.takes.models import Reading, Take
from tests.drills import fixed, plain
from tests.studio.takes import begin_body, play, post


class SetTheClickTests(TestCase):
    def test_every_built_in_drill_can_be_shown_and_played(self) -> None:
        self.assertEqual(len(shelf()), 75)
        for slug, built_in in shelf().items():
            with self.subTest(slug):
                page = self.client.get(reverse("drills:set"), {"drill": slug})
                self.assertContains(page, built_in.name)
                self.assertEqual(self.client.get(reverse("takes:play"), {"drill": slug}).status_code, 200)

    def test_words_change_the_sheet(self) -> None:
        words = {"drill": "two-heard-two-silent", "bpm": "80", "grid": "4", "cycles": "8"}
        page = self.client.get(reverse("drills:set"), words)
        self.assertContains(page, "2 silences of 6.8 s.")
        self.assertContains(page, "144 sixteenths to play")

    def test_every_word_of_the_sentence(self) -> None:
        words = {"drill": "every-beat", "beats": "5", "on": "offbeats", "drop": "fixed", "heard": "1", "silent": "2"}
        page = self.client.get(reverse("takes:play"), {**words, "cycles": "6"})
        found = re.search(r'<script id="plan" type="application/json">(.*?)</script>', page.content.decode(), re.DOTALL)
        assert found
        drill = json.loads(found[1])["drill"]
        self.assertEqual(drill["cycle"]["beats"], 5)
        self.assertEqual(drill["clicks"]["on"], ["1+1/2", "2+1/2", "3+1/2", "4+1/2", "5+1/2"])
        self.assertEqual(drill["clicks"]["silence"], {"kind": "fixed", "heard": 1, "silent": 2})
        self.assertEqual(drill["name"], "The offbeats, 1 cycle with it and 2 alone")

    def test_a_built_in_drill_keeps_its_name_at_another_tempo(self) -> None:
        page = self.client.get(reverse("takes:play"), {"drill": "two-and-four", "bpm": "70", "grid": "4"})
        self.assertContains(page, "Two and four")

    def test_every_word_has_a_name_for_screen_readers(self) -> None:
        text = self.client.get(reverse("drills:set")).content.decode()
        for tag in re.findall(r"<(?:input|select)[^>]*>", text):
            self.assertTrue('type="hidden"' in tag or "aria-label=" in tag or 'id="id_keep_' in tag, tag)

    def test_each_place_of_the_click_can_be_said(self) -> None:
        for word in CLICK_WORDS:
            page = self.client.get(reverse("drills:set"), {"on": word, "places": "1, 2+1/3"})
            self.assertEqual(page.status_code, 200, word)

    def test_htmx_gets_only_the_part_that_changes(self) -> None:
        fragment = self.client.get(reverse("drills:set"), {"cycles": "4"}, headers={"HX-Request": "true"})
        self.assertNotContains(fragment, "<html")
        self.assertContains(fragment, "1 silence of 5.6 s.")

    def test_bad_words_are_refused_in_place(self) -> None:
        for words, message in (
            ({"bpm": "5"}, "greater than or equal to 10"),
            ({"bpm": "fast"}, "Enter a number"),
            ({"bpm": "NaN"}, "Enter a number"),
            ({"cycles": "0"}, "greater than or equal to 1"),
            ({"cycles": "2001"}, "less than or equal to 2000"),
            ({"grid": "9"}, "valid choice"),
            ({"by": "nobody"}, "valid choice"),
            ({"beats": "65"}, "less than or equal to 64"),
            (
                {"beats": "3", "on": "two-four"},
                "clicks.on[1]: is &quot;4&quot;, allowed are places in a cycle of 3 beats",
            ),
            ({"silent": "0"}, "greater than or equal to 1"),
        ):
            with self.subTest(words):
                page = self.client.get(reverse("drills:set"), words)
                self.assertContains(page, message, status_code=422)
                answer = self.client.get(reverse("takes:play"), words)
                self.assertRedirects(
                    answer,
                    f"{reverse('drills:set')}?{'&'.join(f'{k}={v}' for k, v in words.items())}",
                    fetch_redirect_response=False,
                )


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
            for stretch in plan["stretches"]:
                self.assertIn(round(stretch["from_s"], 9), times)
                self.assertFalse(any(start < stretch["from_s"] < end for start, end in plan["silences"]))

    def test_stretches_say_where_one_is(self) -> None:
        said = [
            (s["from_s"], s["word"], s["cycles"], s["aside"])
            for s in self.plan(drill="two-heard-two-silent")["stretches"]
        ]
        self.assertEqual(said[0], (0.0, "Ready", ["", "4", "beats, then play"], ""))
        self.assertEqual(said[1], (2.5, "Click", ["cycles", "1–2", "of 16"], "then 5 s alone"))
        self.assertEqual(said[2], (6.875, "Alone", ["cycles", "3–4", "of 16"], "for 5 s"))
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


class ReadingTests(TestCase):
    def test_verdict_figures_and_ranges(self) -> None:
        take = play(self.client, player=Hand(bias_percent=-2.5))
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "You dragged in every silence.")
        self.assertContains(page, "136 of 136 notes caught")
        self.assertContains(page, "the same again")

    def test_unreadable_silences_say_why(self) -> None:
        take = play(self.client, player=Hand(missed=0.7), seed=3)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "notes caught, and half are needed")
        self.assertContains(page, "cannot tell")

    def test_holds_from_4_to_64_cycles_and_1_to_12_beats(self) -> None:
        for beats, cycles, bpm in ((1, 64, 60), (12, 4, 180), (12, 64, 240), (3, 9, 60), (11, 6, 168)):
            with self.subTest(beats=beats, cycles=cycles):
                drill = plain(beats=beats, cycles=cycles, bpm=bpm, silence=fixed(1, 1), grid=1)
                page = self.client.get(play(self.client, drill=drill).get_absolute_url())
                self.assertEqual(page.status_code, 200)
                self.assertNotContains(page, "nan")
                self.assertEqual(page.content.count(b'class="picture '), 3)

    def test_still_arriving(self) -> None:
        take = play(self.client)
        Take.objects.update(ended_how="")
        self.assertContains(self.client.get(take.get_absolute_url()), "still arriving", status_code=409)

    def test_latest(self) -> None:
        self.assertContains(self.client.get(reverse("readings:latest")), "Nothing hung yet")
        take = play(self.client)
        self.assertRedirects(self.client.get(reverse("readings:latest")), take.get_absolute_url())

    def test_note(self) -> None:
        take = play(self.client)
        path = reverse("takes:note", args=[take.pk])
        self.client.post(path, {"note": "<b>calm</b>"})
        self.assertContains(self.client.get(take.get_absolute_url()), "&lt;b&gt;calm&lt;/b&gt;")
        answer = self.client.post(path, {"note": "x" * 2001}, follow=True)
        self.assertContains(answer, "The note was not kept")
        take.refresh_from_db()
        self.assertEqual(take.note, "<b>calm</b>")


class LogTests(TestCase):
    def test_newest_first_with_what_was_played(self) -> None:
        self.assertContains(self.client.get(reverse("takes:log")), "Nothing here yet.")
        play(self.client, drill=plain(name="Older", bpm=80))
        play(self.client, drill=plain(name="Newer", bpm=120))
        Take.objects.filter(drill_name="Older").update(started_at="2026-01-01T00:00:00Z")
        text = self.client.get(reverse("takes:log")).content.decode()
        self.assertLess(text.index("Newer"), text.index("Older"))
        self.assertIn("2 takes", text)

    def test_delete_with_undo(self) -> None:
        take = play(self.client)
        page = self.client.post(reverse("takes:delete", args=[take.pk]), follow=True)
        self.assertContains(page, "The take is deleted.")
        self.assertEqual(self.client.get(take.get_absolute_url()).status_code, 404)
        self.client.post(reverse("takes:restore", args=[take.pk]))
        self.assertEqual(self.client.get(take.get_absolute_url()).status_code, 200)

    def test_bounded_queries(self) -> None:
        for seed in range(3):
            play(self.client, seed=seed)
        with self.assertNumQueries(5):  # player, count, page, silences, demo
            self.client.get(reverse("takes:log"))

    def test_download_is_what_the_core_reads(self) -> None:
        take = play(self.client, seed=7)
        answer = self.client.get(reverse("takes:download", args=[take.pk]))
        self.assertIn("attachment", answer["Content-Disposition"])
        with zipfile.ZipFile(io.BytesIO(answer.content)) as packed:
            self.assertEqual(sorted(packed.namelist()), ["drill.json", "reading.json", "take.csv"])
            plan = schedule(parse(packed.read("drill.json")))
            onsets = parse_onsets(packed.read("take.csv"))
            reading = json.loads(packed.read("reading.json"))
        found = json.loads(json.dumps(analyse(plan, onsets).reading.plain()))
        for ours, theirs in zip(found["silences"], reading["silences"], strict=True):
            self.assertEqual(ours["outcome"], theirs["outcome"])
            for name in ("return_ms", "drift_ms", "tempo_bpm", "ci95_ms", "lean_ci95_percent"):
                # The file has 7 decimals of a second; the last digit of a figure may turn.
                np.testing.assert_allclose(ours[name], theirs[name], rtol=0, atol=0.002)


class DemoTests(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        call_command("demo", stdout=io.StringIO())

    def test_eight_weeks_from_rushing_to_holding(self) -> None:
        takes = Take.objects.order_by("started_at")
        self.assertGreater(takes.count(), 50)
        span = takes.last().started_at - takes.first().started_at  # type: ignore[union-attr]
        self.assertTrue(52 <= span.days <= 56)
        self.assertEqual(set(takes.values_list("input", "is_demo")), {("simulated", True)})
        fixed_only = takes.filter(drill_name="Two heard, two silent")
        early, late = fixed_only[:8], fixed_only[fixed_only.count() - 8 :]

        def held(some) -> float:  # type: ignore[no-untyped-def]
            outcomes = [s.outcome for take in some for s in take.silences.all()]
            return outcomes.count("held") / len(outcomes)

        self.assertGreater(held(late), held(early) + 0.3)

    def test_every_page_of_the_log_and_every_reading_opens(self) -> None:
        for page in (1, 2, 3, 99, "x"):
            self.assertEqual(self.client.get(reverse("takes:log"), {"page": page}).status_code, 200)
        for take in Take.objects.order_by("drill_name", "started_at")[::9]:
            self.assertContains(self.client.get(take.get_absolute_url()), "simulated player")

    def test_a_demo_drill_is_played_again_by_hand(self) -> None:
        take = Take.objects.filter(drill_name="Two and four").first()
        assert take
        page = self.client.get(reverse("takes:play"), {"again": take.pk})
        self.assertContains(page, '"input": "keys"')
        Take.objects.filter(pk=take.pk).update(is_demo=False)
        page = self.client.get(reverse("takes:play"), {"again": take.pk})
        self.assertContains(page, '"input": "simulated"')

    def test_put_away_and_bring_back(self) -> None:
        page = self.client.post(reverse("takes:demo"), follow=True)
        self.assertContains(page, "0 takes")
        self.client.post(reverse("takes:demo"), {"back": "1"})
        self.assertNotContains(self.client.get(reverse("takes:log")), "0 takes")

    def test_made_only_where_nobody_has_played(self) -> None:
        before = Take.objects.count()
        call_command("demo", "--if-new", stdout=io.StringIO())
        self.assertEqual(Take.objects.count(), before)


class RereadTests(TestCase):
    def test_readings_of_an_older_core_are_computed_anew(self) -> None:
        take = play(self.client)
        spec = take.reading.spec
        Reading.objects.update(core_version="0.0.1", spec={})
        take.silences.all().delete()
        out = io.StringIO()
        call_command("reread", stdout=out)
        take.reading.refresh_from_db()
        self.assertEqual(take.reading.spec, json.loads(json.dumps(spec)))
        self.assertEqual(take.silences.count(), 4)
        self.assertIn("1 takes read", out.getvalue())
        call_command("reread", stdout=out)
        self.assertIn("0 takes read", out.getvalue())


class SafetyTests(TestCase):
    def test_nothing_may_be_fetched_from_elsewhere(self) -> None:
        page = self.client.get(reverse("drills:set"))
        policy = page["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)
        self.assertNotIn("http", policy)
        self.assertEqual(page["Cross-Origin-Embedder-Policy"], "require-corp")
        self.assertEqual(page["Cross-Origin-Opener-Policy"], "same-origin")
        text = page.content.decode()
        self.assertEqual(re.findall(r'(?:src|href)="(?:https?:)?//', text), [])
        self.assertEqual(re.findall(r"<script(?![^>]*src=)(?![^>]*json)|<style| style=| on\w+=\"", text), [])

    def test_other_machines_are_refused(self) -> None:
        for address in ("192.0.2.7", ""):
            answer = self.client.get(reverse("drills:set"), REMOTE_ADDR=address)
            self.assertContains(answer, "Not from here.", status_code=403)
        self.assertEqual(self.client.get(reverse("drills:set"), REMOTE_ADDR="::1").status_code, 200)
        self.assertEqual(self.client.get(reverse("drills:set"), headers={"Host": "evil.example"}).status_code, 400)

    def test_errors_have_pages_without_tracebacks(self) -> None:
        missing = self.client.get("/nowhere/")
        self.assertContains(missing, "Nothing hangs here.", status_code=404)
        self.client.raise_request_exception = False
        take = play(self.client)
        Reading.objects.update(spec={"broken": True})
        broken = self.client.get(take.get_absolute_url())
        self.assertContains(broken, "That went wrong.", status_code=500)
        self.assertNotContains(broken, "Traceback", status_code=500)

    def test_alive(self) -> None:
        self.assertEqual(self.client.get("/alive/").json(), {"alive": True})

    def test_first_view_is_small(self) -> None:
        """The bar: 250 kB with fonts, own script 40 kB; the page as it is sent, all else unpacked."""
        from django.contrib.staticfiles import finders

        def size(*names: str) -> int:
            return sum(len(open(finders.find(name), "rb").read()) for name in names)

        own = size(
            *(f"js/{n}.js" for n in ("main", "outbox", "store", "play", "page", "capture", "clocks", "sound", "set"))
        )
        fonts = size(
            *(
                f"fonts/{n}.woff2"
                for n in (
                    "brygada-1918-latin-wght-normal",
                    "brygada-1918-latin-wght-italic",
                    "source-sans-3-latin-wght-normal",
                )
            )
        )
        page = len(self.client.get(reverse("drills:set"), headers={"Accept-Encoding": "gzip"}).content)
        htmx = size("django_htmx/htmx-2.min.js")
        self.assertLess(own, 40_000)
        self.assertLess(page + fonts + own + htmx + size("giusto.css"), 250_000)


class SendingStateTests(TestCase):
    def test_a_take_in_the_making_is_not_in_the_log(self) -> None:
        post(self.client, "/takes/6f3f9c1e-6f0f-4f6b-9a76-1f4c4c8f0a11/begin/", begin_body())
        self.assertContains(self.client.get(reverse("takes:log")), "0 takes")


class ClickTests(TestCase):
    def test_the_browser_gets_the_cores_own_sounds(self) -> None:
        for kind in ("accent", "click", "count", "sub"):
            answer = self.client.get(f"/set/sounds/wood/{kind}/48000/")
            sound = np.frombuffer(answer.content, dtype="<f4")
            self.assertTrue(np.array_equal(sound, click_samples("wood", kind, rate_hz=48_000)))
        for path in ("bell/click/48000", "wood/boom/48000", "wood/click/8000"):
            self.assertEqual(self.client.get(f"/set/sounds/{path}/").status_code, 404)

    def test_the_click_as_a_file(self) -> None:
        words = {"drill": "two-and-four", "bpm": "120", "cycles": "4"}
        for form, start in (("wav", b"RIFF"), ("flac", b"fLaC"), ("mid", b"MThd")):
            answer = self.client.get(f"/set/click.{form}", words)
            self.assertIn(f'filename="two-and-four.{form}"', answer["Content-Disposition"])
            self.assertEqual(b"".join(answer.streaming_content)[:4], start)  # type: ignore[attr-defined]

    def test_what_cannot_be_sent(self) -> None:
        self.assertEqual(self.client.get("/set/click.mp3").status_code, 404)
        self.assertEqual(self.client.get("/set/click.wav", {"bpm": "5"}).status_code, 302)
        long = self.client.get("/set/click.wav", {"bpm": "20", "cycles": "2000"})
        self.assertContains(long, "./giusto render writes it", status_code=422)
