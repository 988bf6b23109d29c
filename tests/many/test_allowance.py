"""What a player may have of a studio's disk: seen on their page, and kept to."""

from __future__ import annotations

import io
from typing import Any
from uuid import uuid4

import numpy as np
import soundfile
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import override_settings
from django.urls import reverse

from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.instrument import LEAD_S, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.recordings.models import Upload
from studio.takes.allowance import allowance_of
from studio.takes.models import KeptSound, SoundPiece, Take
from tests.committed import CommittedTestCase
from tests.drills import plain
from tests.many.people import client_of, person
from tests.studio.playing import ZERO_AUDIO_S, begin_body, post
from tests.studio.takes.test_sound import RATE_HZ, pieces_of

DRILL = plain(cycles=4)


def wav() -> SimpleUploadedFile:
    """Return a recording of a drill's notes."""
    plan = schedule(validate(DRILL))
    onsets_s = simulate(plan, SimulatedPlayer(hand_ms=4.0), seed=2).onsets_s
    buffer = io.BytesIO()
    soundfile.write(buffer, recording(plan, onsets_s, Room("wood", None, -60.0), seed=2), RATE_HZ, format="WAV")
    return SimpleUploadedFile("take.wav", buffer.getvalue())


class AllowanceTests(CommittedTestCase):
    def setUp(self) -> None:
        self.player = person("tavi")
        self.client = client_of(self.player, raises=True)

    def heard(self) -> Take:
        """Play a take by microphone whose sound shall be kept, and let the worker hear it."""
        plan = schedule(validate(DRILL))
        onsets_s = simulate(plan, SimulatedPlayer(hand_ms=4.0), seed=2).onsets_s
        samples = recording(plan, onsets_s, Room("wood", None, -60.0), seed=2)
        pieces = pieces_of(np.asarray(samples), round((ZERO_AUDIO_S - LEAD_S) * RATE_HZ))
        path = f"/takes/{uuid4()}/"
        device: dict[str, Any] = {"browser": "test", "sample_rate_hz": RATE_HZ, "voice": "wood"}
        hearing = {"by": "microphone", "device": "desk", "keep": True}
        post(self.client, f"{path}begin/", begin_body(DRILL, input="microphone", device=device, hearing=hearing))
        batches = [pieces[at : at + 10] for at in range(0, len(pieces), 10)]
        for number, some in enumerate(batches):
            body = {"notes": [], "pairs": [], "sound": some}
            self.assertEqual(post(self.client, f"{path}batches/{number}/", body).status_code, 200)
        post(self.client, f"{path}end/", {"how": "complete", "batches": len(batches)})
        call_command("work", once=True)
        return Take.objects.latest("started_at")

    def test_what_is_kept_and_may_be_stands_on_ones_own_page(self) -> None:
        self.assertContains(self.client.get(reverse("accounts:you")), "of 4,000 MB")
        found = allowance_of(self.player)
        assert found is not None
        self.assertEqual(found.has, 0)
        self.heard()
        found = allowance_of(self.player)
        assert found is not None
        self.assertEqual(found.has, KeptSound.objects.get().bytes)

    @override_settings(SOUND_A_PLAYER=1000)
    def test_beyond_it_a_take_is_read_and_its_sound_is_not_kept(self) -> None:
        self.heard()
        self.assertEqual(KeptSound.objects.count(), 1)  # the last that began within it
        Take.objects.update(started_at="2026-11-01T10:00:00Z")
        take = self.heard()
        self.assertEqual((KeptSound.objects.count(), SoundPiece.objects.count()), (1, 0))
        self.assertIn("the sound was not kept: your kept sounds have the 0 MB", " ".join(take.hearing.remarks))
        self.assertTrue(take.reading.onsets_s)

    @override_settings(RECORDINGS_A_PLAYER=2)
    def test_more_recordings_than_may_wait_are_refused_in_a_sentence(self) -> None:
        address = reverse("recordings:drop")
        for _ in range(2):
            self.assertEqual(self.client.post(address, {"file": wav()}).status_code, 302)
        answer = self.client.post(address, {"file": wav()})
        self.assertContains(answer, "2 recordings of yours wait to be heard", status_code=422)
        Upload.objects.all().delete()
        self.assertEqual(self.client.post(address, {"file": wav()}).status_code, 302)
        for upload in Upload.objects.all():
            upload.file.delete()
