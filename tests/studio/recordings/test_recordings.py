"""A recording dropped on the page: heard, kept as note records, read like any other take; refused in one sentence."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command

from giusto.drill import validate
from giusto.reading import analyse
from giusto.schedule import schedule
from giusto.simulation.coders import coded
from giusto.simulation.instrument import RATE_HZ, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.accounts.models import Player
from studio.recordings.models import Upload
from studio.takes.models import Take
from tests.committed import CommittedTestCase
from tests.giusto.hearing.test_recording import midi

ADDRESS = "/recording/?drill=two-heard-two-silent&bpm=96&cycles=12"
HAND = SimulatedPlayer(bias_percent=-1.4, clock_percent=0.8, hand_ms=5.0, place_ms=-10.0)


def wav(samples: np.ndarray, form: str = "WAV") -> bytes:
    """Return samples as a file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, RATE_HZ, format=form, subtype="PCM_16")
    return buffer.getvalue()


class RecordingTests(CommittedTestCase):
    def setUp(self) -> None:
        page = self.client.get(ADDRESS)
        self.assertContains(page, "A phone is enough")
        self.drill = page.context["drill"]
        self.plan = schedule(validate(self.drill.plain()))
        self.onsets_s = simulate(self.plan, HAND, seed=4).onsets_s

    def drop(self, content: bytes, name: str = "phone.wav", **words: str) -> Any:
        """Drop a file, let the worker hear what waits, and look at the page it was led to."""
        file = SimpleUploadedFile(name, content)
        answer = self.client.post(ADDRESS, {"file": file, **words})
        if answer.status_code != 302:
            return answer
        call_command("work", once=True)
        return self.client.get(answer["Location"], follow=True)

    def test_a_phone_like_recording_with_bleed_reads_as_the_notes_do(self) -> None:
        samples = recording(self.plan, self.onsets_s, Room("skin", -25.0, -55.0, 60.0, 90.0), seed=4)
        page = self.drop(wav(samples))
        self.assertEqual(page.status_code, 200)
        take = Take.objects.get()
        self.assertEqual((take.input, take.hearing.source.by), ("recording", "bleed"))
        self.assertAlmostEqual(take.hearing.source.clock_ppm, 90, delta=5)
        found, direct = take.reading.found, analyse(self.plan, self.onsets_s).reading
        assert found
        self.assertEqual([one.outcome for one in found.silences], [one.outcome for one in direct.silences])
        for one, other in zip(found.silences, direct.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0.0, other.drift_ms or 0.0, delta=3.0)
        assert take.reading.strengths
        self.assertTrue(all(0 <= strength <= 1 for strength in take.reading.strengths if strength is not None))

    def test_without_bleed_the_reading_says_what_it_cannot_know(self) -> None:
        page = self.drop(wav(recording(self.plan, self.onsets_s, Room("wood"), seed=4), "FLAC"), "take.flac")
        self.assertContains(page, "he click is not heard in the recording")
        self.assertEqual(Take.objects.get().hearing.source.by, "notes")

    def test_a_midi_performance(self) -> None:
        self.drop(midi(self.onsets_s + 3.0), "take.mid")
        take = Take.objects.get()
        self.assertEqual(take.hearing.source.kind, "midi")
        found, direct = take.reading.found, analyse(self.plan, self.onsets_s).reading
        assert found
        for one, other in zip(found.silences, direct.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0.0, other.drift_ms or 0.0, delta=3.0)

    def test_what_cannot_be_a_take_is_one_sentence_and_leaves_nothing(self) -> None:
        whole = wav(recording(self.plan, self.onsets_s, Room("wood"), seed=4))
        for content, name, status, said in (
            (b"", "a.wav", 422, "The submitted file is empty"),
            (b"hello", "a.wav", 422, "no list of onsets"),
            (b"\x00\x01hello", "a.wav", 200, "allowed are .wav, .flac"),
            (whole[:30], "a.wav", 200, "can’t be read|can&#x27;t be read|is empty"),
            (b"MThd" + whole[4:], "a.wav", 200, "The MIDI file can&#x27;t be read"),
            (b"time_s\r\n", "a.csv", 200, "no onsets|no line"),
            (wav(np.zeros(RATE_HZ)), "a.wav", 200, "The recording has 0 notes"),
        ):
            page = self.drop(content, name)
            self.assertEqual(page.status_code, status, (name, len(content)))
            self.assertRegex(page.content.decode(), said)
        self.assertEqual(self.client.post(ADDRESS, {}).status_code, 422)
        self.assertEqual(Take.objects.count(), 0)
        self.assertFalse([one for one in Upload.objects.all() if one.file or one.is_under_way])

    def test_a_wrong_sentence_leads_back_to_it(self) -> None:
        answer = self.client.get("/recording/?drill=two-heard-two-silent&bpm=5000")
        self.assertIn("/set/", answer["Location"])


class WhichTests(CommittedTestCase):
    """A recording dropped without a word on its drill: it is asked which one, and nothing is guessed."""

    def drop(self, content: bytes) -> Any:
        """Drop a file on the page of none, and let the worker look at it."""
        answer = self.client.post("/recording/", {"file": SimpleUploadedFile("memo.m4a", content)})
        self.assertEqual(answer.status_code, 302)
        call_command("work", once=True)
        return self.client.get(answer["Location"])

    def test_one_that_was_taken_away_is_found_asked_about_and_read(self) -> None:
        self.client.get("/set/click.mid?drill=two-heard-two-silent&bpm=120&cycles=8")
        self.client.get("/set/click.mid?drill=two-heard-two-silent&bpm=96&cycles=12")
        self.client.get("/set/click.mid?drill=quarters-100&cycles=12")
        drill = self.client.get(ADDRESS).context["drill"]
        plan = schedule(validate(drill.plain()))
        samples = recording(plan, simulate(plan, HAND, seed=4).onsets_s, Room("skin", -25.0, -55.0, 60.0, 90.0), seed=4)
        page = self.drop(coded(samples, "m4a"))
        upload = Upload.objects.get()
        self.assertTrue(upload.is_asking)
        told = upload.among[0]["told"]
        self.assertContains(page, f"{told['found']} of its {told['asked']} clicks are heard where it has them")
        self.assertContains(page, "taken away lately")
        self.assertEqual(Take.objects.count(), 0)
        for _ in range(2):  # said twice, it is heard once
            self.client.post(f"/recording/{upload.pk}/choose/0/")
        call_command("work", once=True)
        take = Take.objects.get()
        self.assertEqual((take.tempo_bpm, take.cycles, take.hearing.source.by), (96, 12, "bleed"))
        self.assertRedirects(self.client.get(upload.get_absolute_url()), take.get_absolute_url())

    def test_of_none_that_is_known_the_player_says_so_or_cancels(self) -> None:
        page = self.drop(wav(np.zeros(RATE_HZ)))
        self.assertContains(page, "There is none yet that it could be of")
        upload = Upload.objects.get()
        self.assertEqual(self.client.post(f"/recording/{upload.pk}/choose/0/").status_code, 404)
        self.client.post(f"/recording/{upload.pk}/cancel/")
        upload.refresh_from_db()
        self.assertEqual((upload.state, upload.file.name), (Upload.State.CANCELLED, ""))

    def test_only_its_own_player_is_asked(self) -> None:
        self.drop(wav(np.zeros(RATE_HZ)))
        Upload.objects.update(player=Player.objects.create(username="other"))
        upload = Upload.objects.get()
        self.assertEqual(self.client.post(f"/recording/{upload.pk}/choose/0/").status_code, 404)
