"""A recording dropped on the page: heard, kept as note records, read like any other take; refused in one sentence."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from giusto.drill import validate
from giusto.reading import analyse
from giusto.schedule import schedule
from giusto.simulation.instrument import RATE_HZ, Room, recording
from giusto.simulation.player import Player, simulate
from studio.takes.models import Take
from studio.takes.recordings import MOST_S
from tests.giusto.hearing.test_recording import midi

ADDRESS = "/recording/?drill=two-heard-two-silent&bpm=96&cycles=12"
HAND = Player(bias_percent=-1.4, clock_percent=0.8, hand_ms=5.0, place_ms=-10.0)


def wav(samples: np.ndarray, form: str = "WAV") -> bytes:
    """Return samples as a file."""
    buffer = io.BytesIO()
    soundfile.write(buffer, samples, RATE_HZ, format=form, subtype="PCM_16")
    return buffer.getvalue()


class RecordingTests(TestCase):
    def setUp(self) -> None:
        page = self.client.get(ADDRESS)
        self.assertContains(page, "A phone is enough")
        self.drill = page.context["drill"]
        self.plan = schedule(validate(self.drill.plain()))
        self.onsets_s = simulate(self.plan, HAND, seed=4).onsets_s

    def drop(self, content: bytes, name: str = "phone.wav") -> Any:
        return self.client.post(ADDRESS, {"file": SimpleUploadedFile(name, content)}, follow=True)

    def test_a_phone_like_recording_with_bleed_reads_as_the_notes_do(self) -> None:
        samples = recording(self.plan, self.onsets_s, Room("skin", -25.0, -55.0, 60.0, 90.0), seed=4)
        page = self.drop(wav(samples))
        self.assertEqual(page.status_code, 200)
        take = Take.objects.get()
        self.assertEqual((take.input, take.device["by"]), ("recording", "bleed"))
        self.assertAlmostEqual(take.device["clock_ppm"], 90, delta=5)
        found, direct = take.reading.found, analyse(self.plan, self.onsets_s).reading
        assert found
        self.assertEqual([one.outcome for one in found.silences], [one.outcome for one in direct.silences])
        for one, other in zip(found.silences, direct.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0.0, other.drift_ms or 0.0, delta=3.0)
        assert take.strengths
        self.assertTrue(all(0 <= strength <= 1 for strength in take.strengths if strength is not None))

    def test_without_bleed_the_reading_says_what_it_cannot_know(self) -> None:
        page = self.drop(wav(recording(self.plan, self.onsets_s, Room("wood"), seed=4), "FLAC"), "take.flac")
        self.assertContains(page, "he click is not heard in the recording")
        self.assertEqual(Take.objects.get().device["by"], "notes")

    def test_a_midi_performance(self) -> None:
        self.drop(midi(self.onsets_s + 3.0), "take.mid")
        take = Take.objects.get()
        self.assertEqual(take.device["kind"], "midi")
        found, direct = take.reading.found, analyse(self.plan, self.onsets_s).reading
        assert found
        for one, other in zip(found.silences, direct.silences, strict=True):
            self.assertAlmostEqual(one.drift_ms or 0.0, other.drift_ms or 0.0, delta=3.0)

    def test_what_cannot_be_a_take_is_one_sentence_and_leaves_nothing(self) -> None:
        whole = wav(recording(self.plan, self.onsets_s, Room("wood"), seed=4))
        for content, name, said in (
            (b"", "a.wav", "The submitted file is empty"),
            (b"hello", "a.wav", "allowed are WAV and FLAC"),
            (whole[:30], "a.wav", "can’t be read|can&#x27;t be read|is empty"),
            (whole, "a.mid", "The MIDI file can&#x27;t be read"),
            (whole, "a.mp3", "Allowed are .wav"),
            (wav(np.zeros(RATE_HZ)), "a.wav", "The recording has 0 notes"),
            (wav(np.zeros((MOST_S + 5) * RATE_HZ)), "a.wav", f"allowed are {MOST_S} here"),
        ):
            page = self.drop(content, name)
            self.assertEqual(page.status_code, 422, (name, len(content)))
            self.assertRegex(page.content.decode(), said)
        self.assertEqual(self.client.post(ADDRESS, {}).status_code, 422)
        self.assertEqual(Take.objects.count(), 0)

    def test_a_wrong_sentence_leads_back_to_it(self) -> None:
        answer = self.client.get("/recording/?drill=two-heard-two-silent&bpm=5000")
        self.assertIn("/set/", answer["Location"])
