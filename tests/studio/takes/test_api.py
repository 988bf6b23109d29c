"""What the browser sends: kept once, refused clearly, never lost."""

import io
import json
import zipfile
from contextlib import nullcontext
from datetime import timedelta
from unittest import mock
from uuid import uuid4

import numpy as np
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from giusto.errors import GiustoError
from studio.accounts.models import Player
from studio.takes.models import Batch, Reading, Silence, Take
from tests.drills import plain, planned
from tests.studio.playing import begin_body, notes_body, play, post


class SendingTests(TestCase):
    def setUp(self) -> None:
        self.path = f"/takes/{uuid4()}/"
        plan = planned()
        self.asked_s = plan.seconds(plan.notes.tick)

    def test_a_whole_take(self) -> None:
        take = play(self.client)
        self.assertEqual((take.ended_how, take.batch_count, take.input), ("complete", 2, "keys"))
        self.assertEqual((take.drill_name, take.tempo_bpm, take.beats, take.cycles), ("Two bars alone", 96, 4, 16))
        self.assertEqual(take.silences.count(), 4)
        self.assertEqual(take.reading.spec["giusto"], "reading/1")
        row, spec = take.silences.first(), take.reading.spec["silences"][0]
        assert row is not None
        self.assertEqual((row.drift_ms, row.outcome), (spec["drift_ms"], spec["outcome"]))
        self.assertEqual([row.drift_low_ms, row.drift_high_ms], spec["ci95_ms"])
        self.assertEqual(len(take.reading.onsets_s), 136)

    def test_stamps_come_out_as_drill_time(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s + 0.0123))
        post(self.client, f"{self.path}end/", {"how": "complete", "batches": 1})
        matches = Take.objects.get().reading.spec["matches"]
        self.assertEqual({match["error_ms"] for match in matches}, {12.3})

    def test_sending_twice_changes_nothing(self) -> None:
        for _ in range(2):
            self.assertEqual(post(self.client, f"{self.path}begin/", begin_body()).status_code, 200)
        first = post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s))
        again = post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s[:3]))
        self.assertEqual((first.json()["new"], again.json()["new"]), (True, False))
        for _ in range(2):
            ended = post(self.client, f"{self.path}end/", {"how": "complete", "batches": 1})
            self.assertEqual(ended.json()["reading"], f"{self.path}")
        self.assertEqual((Take.objects.count(), Batch.objects.count(), Silence.objects.count()), (1, 1, 4))
        self.assertEqual(len(Batch.objects.get().notes), 136)

    def test_a_take_does_not_end_before_its_batches_are_here(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/1/", notes_body(self.asked_s))
        early = post(self.client, f"{self.path}end/", {"how": "complete", "batches": 3})
        self.assertEqual((early.status_code, early.json()["missing"]), (409, [0, 2]))
        self.assertEqual(Take.objects.get().ended_how, "")

    def test_the_part_that_a_closing_tab_kept_and_the_whole(self) -> None:
        """In either order all notes are there; other notes under a known number are refused, not dropped."""
        for order in ([3, 5], [5, 3]):
            take_id = uuid4()
            post(self.client, f"/takes/{take_id}/begin/", begin_body())
            for size in order:
                answer = post(self.client, f"/takes/{take_id}/batches/0/", notes_body(range(1, size + 1)))
                self.assertEqual(answer.status_code, 200)
            self.assertEqual(len(Take.objects.get(pk=take_id).batches.get().notes), 5)
        other = post(self.client, f"/takes/{take_id}/batches/0/", notes_body([7.5]))
        self.assertEqual((other.status_code, other.json()["code"]), (422, "taken"))

    def test_an_end_that_names_too_few_batches_forgets_none(self) -> None:
        take_id = uuid4()
        post(self.client, f"/takes/{take_id}/begin/", begin_body())
        for number in (0, 1):
            post(self.client, f"/takes/{take_id}/batches/{number}/", notes_body([number + 0.5, number + 1.0]))
        post(self.client, f"/takes/{take_id}/end/", {"how": "stopped", "batches": 1})
        take = Take.objects.get(pk=take_id)
        self.assertEqual((take.batch_count, len(take.reading.onsets_s or [])), (2, 4))

    def test_a_clock_that_cannot_be_right_is_ours(self) -> None:
        for told in ("0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00", "4026-01-01T00:00:00Z"):
            with self.subTest(told):
                take_id = uuid4()
                answer = post(self.client, f"/takes/{take_id}/begin/", begin_body(started_at=told))
                self.assertEqual(answer.status_code, 200)
                off = abs(Take.objects.get(pk=take_id).started_at - timezone.now())
                self.assertLess(off.total_seconds(), 60)

    def test_a_take_whose_browser_never_comes_back(self) -> None:
        """Its notes are offered in the log once nothing has come for a quarter of an hour, and not before."""
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s[:40]))
        self.assertNotContains(self.client.get(reverse("log:page")), "End and read")
        Batch.objects.update(received_at=timezone.now() - timedelta(minutes=20))
        self.assertContains(self.client.get(reverse("log:page")), "1 take left while it was played")
        self.client.post(reverse("log:left"))
        take = Take.objects.get()
        self.assertEqual((take.ended_how, len(take.reading.onsets_s or [])), ("broken", 40))
        self.assertNotContains(self.client.get(reverse("log:page")), "End and read")

    def test_raw_material_is_kept(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        body = notes_body(self.asked_s[:5])
        post(self.client, f"{self.path}batches/0/", body)
        kept = Batch.objects.get()
        self.assertEqual((kept.notes, kept.pairs), (body["notes"], body["pairs"]))
        take = Take.objects.get()
        self.assertEqual((take.drill, take.device.browser, take.zero_audio_s), (plain(), "test", 2.0))

    def test_what_an_earlier_version_kept_in_its_browser_is_taken(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        old = {"stamps_ms": [5000.0, 5300.0], "sources": ["j", "f"], "pairs": [[1.0, 2500.0], [2.0, 3500.0]]}
        self.assertEqual(post(self.client, f"{self.path}batches/0/", old).status_code, 200)
        self.assertEqual(Batch.objects.get().notes[1], {"at_ms": 5300.0, "source": "f"})

    def test_strength_and_source_stay_with_their_notes(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        body = notes_body(self.asked_s)
        body["notes"][1] |= {"strength": 0.25, "source": "pad"}
        body["notes"].reverse()  # as they may arrive
        post(self.client, f"{self.path}batches/0/", body)
        post(self.client, f"{self.path}end/", {"how": "complete", "batches": 1})
        take = Take.objects.get()
        self.assertEqual(
            (take.reading.strengths[:3], take.reading.sources[:3]), ([None, 0.25, None], ["space", "pad", "space"])
        )
        with zipfile.ZipFile(io.BytesIO(self.client.get(f"{self.path}download/").content)) as packed:
            self.assertEqual(packed.read("take.csv").decode().splitlines()[2].split(",")[1:], ["0.25", "pad"])

    def test_a_take_ends_whatever_reading_it_comes_to(self) -> None:
        for part, error, code in (
            ("analyse", RuntimeError("no"), "failed"),
            ("analyse", GiustoError("nothing to work with", code="x"), "x"),
            ("material_of", FloatingPointError("no"), "failed"),
        ):
            with self.subTest(part, code=code), mock.patch(f"studio.takes.reading.{part}", side_effect=error):
                path = f"/takes/{uuid4()}/"
                post(self.client, f"{path}begin/", begin_body())
                post(self.client, f"{path}batches/0/", notes_body(self.asked_s))
                with self.assertLogs("studio.takes.reading") if code == "failed" else nullcontext():
                    ended = post(self.client, f"{path}end/", {"how": "complete", "batches": 1})
                self.assertEqual(ended.status_code, 200)
                take = Take.objects.get(pk=path.split("/")[2])
                self.assertEqual((take.ended_how, take.reading.refusal_code), ("complete", code))
                page = self.client.get(path)
                self.assertContains(page, "This take can’t be read.")
                self.assertNotContains(page, "Traceback")
                with zipfile.ZipFile(io.BytesIO(self.client.get(f"{path}download/").content)) as packed:
                    self.assertEqual(len(packed.read("take.csv").splitlines()), 137)  # the notes are there all the same
        self.client.post(f"{path}read/")  # and once it can be, it is read
        self.assertContains(self.client.get(path), "You held all four silences.")

    def test_no_page_writes_a_reading(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s))
        self.assertEqual(self.client.get(f"{self.path}silence/1/").status_code, 404)
        Take.objects.update(ended_how="complete", batch_count=1)  # ended, and the server went away before it read
        self.assertContains(self.client.get(self.path), "This take is being read.", status_code=202)
        self.assertEqual(self.client.get(f"{self.path}silence/1/").status_code, 404)
        self.assertEqual(Reading.objects.count(), 0)
        call_command("reread", stdout=io.StringIO())
        self.assertEqual(self.client.get(self.path).status_code, 200)

    def test_a_take_without_notes_is_not_kept(self) -> None:
        """It leads back to its drill; sent once more, it says the same, and it is in no list."""
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", {**notes_body([]), "notes": []})
        for _ in range(2):
            answer = post(self.client, f"{self.path}end/", {"how": "stopped", "batches": 1}).json()
            self.assertFalse(answer["kept"])
        self.assertContains(self.client.get(answer["reading"]), "Nothing was played, so nothing is kept.")
        self.assertContains(self.client.get(reverse("log:page")), "Every take hangs here")
        self.assertContains(self.client.get(reverse("log:deleted")), "Nothing is deleted.")

    def test_a_single_note_is_read_as_such(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s[:1]))
        post(self.client, f"{self.path}end/", {"how": "stopped", "batches": 1})
        self.assertEqual(Take.objects.get().reading.refusal_code, "")
        self.assertContains(self.client.get(self.path), "Too few notes to read.")

    def test_a_take_without_a_clock_says_so_and_keeps_its_notes(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", {**notes_body(self.asked_s), "pairs": []})
        self.assertEqual(post(self.client, f"{self.path}end/", {"how": "complete", "batches": 1}).status_code, 200)
        self.assertContains(self.client.get(self.path), "Clock pairs must be at least 2")
        self.assertEqual(len(Batch.objects.get().notes), 136)

    def test_last_silence_of_a_take_under_way(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}batches/0/", notes_body(self.asked_s[:36]))
        shown = self.client.get(f"{self.path}silences/1/")
        self.assertContains(shown, "held")
        self.assertContains(shown, "96 became 96.0")
        self.assertEqual(self.client.get(f"{self.path}silences/9/").status_code, 204)

    def test_simulated_takes_are_marked(self) -> None:
        by = {"seed": 3, "player": {"bias_percent": 1.0}}
        body = begin_body(input="simulated", simulated=by)
        self.assertEqual(post(self.client, f"{self.path}begin/", body).status_code, 200)
        self.assertEqual(Take.objects.get().simulated, by)


class BadMessageTests(TestCase):
    def setUp(self) -> None:
        self.path = f"/takes/{uuid4()}/"

    def assert_refused(self, what: str, body: object, message: str) -> None:
        answer = post(self.client, f"{self.path}{what}", body)
        self.assertEqual(answer.status_code, 422, answer.content[:300])
        self.assertIn(message, answer.json()["error"])

    def test_begin(self) -> None:
        cases = (
            ("{", "the body must be JSON"),
            ([], "allowed is an object"),
            ({}, "drill: is missing"),
            (begin_body(plain(bpm=1000)), "tempo.bpm: is 1000, allowed is at most 400"),
            (begin_body(input="telepathy"), "input: is"),
            (begin_body(input="simulated"), "simulated must be given"),
            (begin_body(input="simulated", simulated={"seed": 1, "player": {"speed": 1}}), "unknown figures"),
            (begin_body(input="simulated", simulated={"seed": 1, "player": {"alpha": 7}}), "alpha is 7"),
            (begin_body(zero_audio_s=-61), "zero_audio_s: is -61"),
            (begin_body(started_at="yesterday"), "started_at"),
            (begin_body(mood="good"), "mood: is not a field"),
            (begin_body(plain(name="a\x00b")), "name: is"),
            (begin_body(plain(name="\ud800")), "name: is"),
            (begin_body(device={"browser": "\x00"}), "device.browser"),
            (begin_body(device={"browser": "\ud800"}), "device.browser"),
        )
        for body, message in cases:
            with self.subTest(message):
                self.assert_refused("begin/", body, message)
        self.assertEqual(Take.objects.count(), 0)

    def test_batches(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        good = notes_body([2.5, 2.8])
        cases = (
            ({**good, "notes": [{"source": "j"}]}, "notes[0].at_ms: is missing"),
            ({**good, "notes": [{"at_ms": "a", "source": "j"}]}, "notes[0].at_ms: is"),
            ({**good, "notes": [{"at_ms": -5, "source": "j"}]}, "allowed is at least 0"),
            ({**good, "notes": [{"at_ms": 5, "source": "j", "strength": 2}]}, "notes[0].strength: is 2"),
            ({**good, "notes": [{"at_ms": 5, "source": "j", "pitch": 2}]}, "notes[0].pitch: is not a field"),
            ({**good, "pairs": [[1.0]]}, "pairs[0]"),
            ({**good, "notes": [{"at_ms": 1, "source": "j"}] * 5001}, "a list of at most 5000"),
            ({**good, "notes": [{"at_ms": 1, "source": "\x00"}]}, "notes[0].source: is"),
            ('{"notes": [{"at_ms": NaN, "source": "j"}], "pairs": []}', "notes[0].at_ms"),
            ({"stamps_ms": [1.0], "sources": [], "pairs": []}, "notes: is missing"),
        )
        for body, message in cases:
            with self.subTest(message):
                self.assert_refused("batches/0/", body, message)
        self.assertEqual(Batch.objects.count(), 0)

    def test_a_batch_beyond_the_end_is_refused(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        post(self.client, f"{self.path}end/", {"how": "stopped", "batches": 0})
        answer = post(self.client, f"{self.path}batches/0/", notes_body([2.5]))
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "ended"))
        self.assertIn("the take has ended with 0 batches", answer.json()["error"])

    def test_what_is_acknowledged_is_in_the_reading(self) -> None:
        """Ended with a gap among its batches: what would fill it later is refused, and kept by the browser."""
        post(self.client, f"{self.path}begin/", begin_body())
        for number in (0, 1, 3):
            post(self.client, f"{self.path}batches/{number}/", notes_body(2.5 + number + 0.1 * np.arange(8)))
        ended = post(self.client, f"{self.path}end/", {"how": "stopped", "batches": 2})
        self.assertEqual(ended.status_code, 200)
        late = post(self.client, f"{self.path}batches/2/", notes_body([4.9]))
        self.assertEqual((late.status_code, late.json()["code"]), (409, "ended"))
        other = post(self.client, f"{self.path}batches/1/", notes_body([4.9]))
        self.assertEqual(other.status_code, 422)  # other notes under a number that is taken
        same = post(self.client, f"{self.path}batches/1/", notes_body(3.5 + 0.1 * np.arange(8)))
        self.assertEqual(same.status_code, 200)
        take = Take.objects.get()
        kept = sum(len(batch.notes) for batch in take.batches.all())
        self.assertEqual((take.batch_count, kept, len(take.reading.onsets_s or [])), (4, 24, 24))

    def test_what_a_browser_says_of_itself_has_a_shape(self) -> None:
        for device, said in (
            ({"sample_rate_hz": "fast"}, "device.sample_rate_hz"),
            ({"sample_rate_hz": -1}, "device.sample_rate_hz"),
            ({"browser": 3}, "device.browser"),
            ({"browser": "a\x00"}, "device.browser"),
            ({f"field{n}": n for n in range(30)}, "more than 20 fields"),
            ({"more": [1]}, "device"),
            ("x", "device"),
        ):
            with self.subTest(device):
                self.assert_refused("begin/", begin_body(device=device), said)
        for text in ("NaN", "Infinity", "1e999"):
            body = json.dumps(begin_body(device={"sample_rate_hz": 1.5})).replace("1.5", text)
            self.assert_refused("begin/", body, "device.sample_rate_hz")

    def test_a_batch_number_out_of_range_is_refused(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        self.assert_refused("batches/99999999999999999999/", notes_body([2.5]), "allowed is at most 1000000")

    def test_end(self) -> None:
        post(self.client, f"{self.path}begin/", begin_body())
        self.assert_refused("end/", {"how": "bored", "batches": 0}, "how: is")
        self.assert_refused("end/", {"how": "stopped", "batches": -1}, "batches: is -1")

    def test_unknown_take(self) -> None:
        self.assertEqual(post(self.client, f"{self.path}batches/0/", notes_body([1.0])).status_code, 404)

    def test_anothers_take_is_closed(self) -> None:
        other = Player.objects.create(username="other")
        take = play(self.client)
        Take.objects.update(player=other)
        path = f"/takes/{take.pk}/"
        self.assertEqual(post(self.client, f"{path}begin/", begin_body()).status_code, 403)
        self.assertEqual(post(self.client, f"{path}batches/5/", notes_body([1.0])).status_code, 404)
        for page in ("", "download/", "silences/1/"):
            self.assertEqual(self.client.get(f"{path}{page}").status_code, 404)

    def test_posts_need_the_pages_token(self) -> None:
        from django.test import Client

        strict = Client(enforce_csrf_checks=True)
        answer = post(strict, f"{self.path}begin/", begin_body())
        self.assertEqual(answer.status_code, 403)
        self.assertIn("Load it again", answer.json()["error"])
