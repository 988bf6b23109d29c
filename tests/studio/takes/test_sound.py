"""Sound as a browser sends it: kept once, heard once, forgotten unless asked; and one player heard in four ways."""

from __future__ import annotations

import base64
import io
from typing import Any
from unittest import mock
from uuid import uuid4

import numpy as np
import soundfile
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import Client, override_settings
from django.utils import timezone
from django_tasks.base import TaskResultStatus
from django_tasks_db.models import DBTaskResult

from giusto.arrays import FloatArray
from giusto.drill import validate
from giusto.schedule import schedule
from giusto.simulation.instrument import LEAD_S, Room, recording
from giusto.simulation.player import SimulatedPlayer, simulate
from studio.accounts.models import local_player
from studio.hearing.models import Delay
from studio.takes.models import KeptSound, SoundPiece, Take
from studio.takes.pieces import spooled
from studio.takes.reading import read_take
from studio.takes.sources import microphone
from tests.committed import CommittedTestCase
from tests.drills import plain
from tests.studio.playing import ZERO_AUDIO_S, begin_body, notes_body, post, send

RATE_HZ = 44_100
DRILL = plain(cycles=8)
HAND = SimulatedPlayer(bias_percent=-1.4, clock_percent=0.8, hand_ms=5.0, place_ms=-10.0)


def pieces_of(samples: FloatArray, first_frame: int, size: int = 4096) -> list[dict[str, Any]]:
    """Return sound in pieces as the recorder hands them on."""
    whole = np.round(32767 * np.clip(samples, -1, 1)).astype("<i2")
    return [
        {"frame": first_frame + at, "samples": base64.b64encode(whole[at : at + size].tobytes()).decode()}
        for at in range(0, whole.size, size)
    ]


def heard_body(**hearing: Any) -> dict[str, Any]:
    """Return the message that begins a take through the microphone."""
    device = {"browser": "test", "sample_rate_hz": RATE_HZ, "voice": "wood"}
    heard = {"by": "microphone", "device": "desk", **hearing}
    return begin_body(DRILL, input="microphone", device=device, hearing=heard)


def calibrated(delay_ms: float) -> None:
    """Keep a delay of this microphone in this browser."""
    spread = {"delay_ms": delay_ms, "low_ms": delay_ms - 0.1, "high_ms": delay_ms + 0.1}
    whose = {"player": local_player(), "by": "microphone", "device": "desk", "browser": "test"}
    Delay.objects.create(**whose, **spread, count=20, measured_at=timezone.now())


class SoundTestCase(CommittedTestCase):
    def setUp(self) -> None:
        self.plan = schedule(validate(DRILL))
        self.onsets_s = simulate(self.plan, HAND, seed=4).onsets_s
        self.path = f"/takes/{uuid4()}/"

    def sound(self, room: Room) -> list[dict[str, Any]]:
        samples = recording(self.plan, self.onsets_s, room, seed=4)
        return pieces_of(samples, round((ZERO_AUDIO_S - LEAD_S) * RATE_HZ))

    def send_sound(
        self, pieces: list[dict[str, Any]], *, twice: bool = False, heard: bool = True, **hearing: Any
    ) -> Take:
        """Send a take's sound, five pieces a batch, in the wrong order where it is sent twice."""
        self.assertEqual(post(self.client, f"{self.path}begin/", heard_body(**hearing)).status_code, 200)
        batches = [pieces[at : at + 5] for at in range(0, len(pieces), 5)]
        numbered = list(enumerate(batches))
        for number, some in [*numbered[::-1], *numbered] if twice else numbered:
            body = {"notes": [], "pairs": [], "sound": some}
            self.assertEqual(post(self.client, f"{self.path}batches/{number}/", body).status_code, 200)
        ended = post(self.client, f"{self.path}end/", {"how": "complete", "batches": len(batches)})
        self.assertEqual(ended.status_code, 200, ended.content)
        if heard:
            call_command("work", once=True)
        return Take.objects.get()


class SoundTests(SoundTestCase):
    def test_sent_twice_and_backwards_it_is_heard_once_and_forgotten(self) -> None:
        take = self.send_sound(self.sound(Room("skin", -25.0, -60.0, 43.0)), twice=True)
        self.assertEqual((SoundPiece.objects.count(), KeptSound.objects.count()), (0, 0))
        self.assertEqual((take.hearing.source.by, take.reading.sources[0]), ("bleed", "microphone"))
        self.assertAlmostEqual(take.hearing.round_trip_ms, 43.0, delta=0.3)
        found = np.array(take.reading.onsets_s)
        near = np.array([np.min(np.abs(found - at)) for at in self.onsets_s])
        self.assertGreater(np.mean(near < 0.005), 0.97)
        again = post(self.client, f"{self.path}end/", {"how": "complete", "batches": 3})
        self.assertEqual(again.status_code, 200)
        call_command("reread", "--all", verbosity=0)  # the notes are there, though the sound is not
        self.assertEqual(len(Take.objects.get().reading.onsets_s), found.size)

    def test_a_lost_piece_is_silence_and_moves_nothing(self) -> None:
        pieces = self.sound(Room("wood", None, -60.0))
        take = self.send_sound(pieces[:60] + pieces[66:])
        found = np.array(take.reading.onsets_s)
        later = self.onsets_s[self.onsets_s > 8.0]
        np.testing.assert_allclose([np.min(np.abs(found - at)) for at in later], 0, rtol=0, atol=0.003)

    def test_what_comes_again_after_it_was_heard_is_not_kept(self) -> None:
        """The sound was to be forgotten: a batch that comes again is answered, and leaves nothing behind."""
        pieces = self.sound(Room("wood", None, -60.0))
        self.send_sound(pieces)
        again = post(self.client, f"{self.path}batches/0/", {"notes": [], "pairs": [], "sound": pieces[:5]})
        self.assertEqual((again.status_code, again.json()["new"]), (200, False))
        later = post(self.client, f"{self.path}batches/99/", {"notes": [], "pairs": [], "sound": pieces[5:9]})
        self.assertEqual((later.status_code, later.json()["code"]), (409, "ended"))
        self.assertEqual(SoundPiece.objects.count(), 0)

    def test_a_gap_of_hours_is_no_file_of_hours(self) -> None:
        """A machine that slept, or a message that lies: what came before the gap is heard, and that is said."""
        pieces = self.sound(Room("wood", None, -60.0))
        far = {**pieces[-1], "frame": pieces[-1]["frame"] + 3 * 3600 * RATE_HZ}
        take = self.send_sound([*pieces[:-1], far], heard=False)
        with spooled(take) as found:
            self.assertLess(soundfile.info(found.path).duration, 40)
            self.assertIn("s of sound are missing after", found.remarks[0])
        with spooled(take, from_s=2.0, to_s=4.0) as found:
            self.assertAlmostEqual(soundfile.info(found.path).duration, 2.0, delta=0.2)
        call_command("work", once=True)
        take = Take.objects.get()
        self.assertIn("what came later was left out", " ".join(take.hearing.remarks))
        self.assertContains(self.client.get(take.get_absolute_url()), "what came later was left out")

    def test_kept_if_asked_played_in_part_and_deleted_with_the_take(self) -> None:
        take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 20.0)), keep=True)
        kept = KeptSound.objects.get()
        self.assertEqual(kept.bytes, kept.file.size)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "Forget the sound now")
        part = self.client.get(f"{self.path}sound/?from=3.0&to=5.0")
        samples, rate_hz = soundfile.read(io.BytesIO(part.content))
        self.assertEqual((rate_hz, samples.size), (RATE_HZ, 4 * RATE_HZ))  # a second before and after
        stroke_s = self.onsets_s[np.searchsorted(self.onsets_s, 3.0)]
        at = round((stroke_s - 2.0) * RATE_HZ)
        self.assertGreater(np.max(np.abs(samples[at : at + 400])), 3 * np.std(samples[at - 900 : at - 200]))
        beside, _ = soundfile.read(
            io.BytesIO(self.client.get(f"{self.path}sound/?from=3.0&to=5.0&click=beside").content)
        )
        self.assertEqual(beside.size, samples.size)
        self.assertGreater(np.max(np.abs(beside - samples)), 0.01)
        storage, name = kept.file.storage, kept.file.name
        Take.objects.update(deleted_at=timezone.now())
        self.assertEqual(self.client.get(f"{self.path}sound/").status_code, 404)
        self.client.post("/log/deleted/")
        self.assertEqual((Take.objects.count(), storage.exists(name)), (0, False))

    def test_the_sound_alone_can_be_forgotten(self) -> None:
        take = self.send_sound(self.sound(Room("wood", -25.0)), keep=True)
        kept = KeptSound.objects.get()
        self.client.post(f"{self.path}sound/delete/")
        self.assertEqual((KeptSound.objects.count(), kept.file.storage.exists(kept.file.name)), (0, False))
        self.assertTrue(Take.objects.get(pk=take.pk).reading.onsets_s)

    def test_headphones_and_a_delay_that_was_measured(self) -> None:
        calibrated(43.0)
        take = self.send_sound(self.sound(Room("wood", None, -60.0, 43.0)))
        self.assertEqual(take.hearing.source.by, "clock")
        self.assertAlmostEqual(float(np.median(np.array(take.reading.onsets_s) - self.onsets_s)), 0.0, delta=0.0015)
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "43.0 ms from loudspeaker to microphone are taken off")

    def test_keys_after_a_lost_microphone_do_not_get_its_delay(self) -> None:
        calibrated(43.0)
        post(self.client, f"{self.path}begin/", heard_body())
        post(self.client, f"{self.path}batches/0/", {**notes_body(self.onsets_s), "sound": []})
        post(self.client, f"{self.path}end/", {"how": "stopped", "batches": 1})
        np.testing.assert_allclose(Take.objects.get().reading.onsets_s, self.onsets_s, rtol=0, atol=1e-6)

    def test_a_delay_that_has_moved_is_told(self) -> None:
        calibrated(30.0)
        take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 43.0)))
        self.assertIn("was 43.0 ms in this take, and 30.0 ms when it was calibrated", take.hearing.remarks[0])

    def test_counted_in_by_strokes_before_the_sound_of_its_page_began(self) -> None:
        """Time zero lies before frame 0: what was not heard then is missing, and nothing else is moved."""
        samples = recording(self.plan, self.onsets_s, Room("skin", -25.0, -60.0, 20.0), seed=4)
        begin = {**heard_body(), "zero_audio_s": -3.0}
        self.assertEqual(post(self.client, f"{self.path}begin/", begin).status_code, 200)
        pieces = pieces_of(samples[round((LEAD_S + 3.0) * RATE_HZ) :], 0)
        for number, at in enumerate(range(0, len(pieces), 60)):
            body = {"notes": [], "pairs": [], "sound": pieces[at : at + 60]}
            self.assertEqual(post(self.client, f"{self.path}batches/{number}/", body).status_code, 200)
        post(self.client, f"{self.path}end/", {"how": "complete", "batches": -(-len(pieces) // 60)})
        call_command("work", once=True)
        found = np.array(Take.objects.get().reading.onsets_s)
        later = self.onsets_s[self.onsets_s > 3.2]
        near = np.array([np.min(np.abs(found - at)) for at in later])
        self.assertGreater(np.mean(near < 0.005), 0.95)

    def test_silences_are_told_while_it_is_played(self) -> None:
        pieces = self.sound(Room("skin", -25.0, -60.0, 20.0))
        post(self.client, f"{self.path}begin/", heard_body())
        end_s = float(self.plan.seconds(self.plan.silences[1].end_tick)) + LEAD_S + 1.0
        so_far = [one for one in pieces if one["frame"] < (ZERO_AUDIO_S - LEAD_S + end_s) * RATE_HZ]
        for number, at in enumerate(range(0, len(so_far), 60)):
            body = {"notes": [], "pairs": [], "sound": so_far[at : at + 60]}
            self.assertEqual(post(self.client, f"{self.path}batches/{number}/", body).status_code, 200)
        self.assertEqual(self.client.get(f"{self.path}silences/2/").status_code, 204)  # nobody asked for it yet
        self.assertEqual(self.client.post(f"{self.path}silences/2/").status_code, 202)
        self.assertEqual(self.client.post(f"{self.path}silences/2/").status_code, 202)  # asked twice, heard once
        self.assertEqual(self.client.get(f"{self.path}silences/2/").status_code, 202)
        call_command("work", once=True)
        self.assertEqual(DBTaskResult.objects.count(), 1)
        told = self.client.get(f"{self.path}silences/2/")
        self.assertEqual(told.status_code, 200)
        self.assertContains(told, "late")

    def test_no_request_listens_to_sound(self) -> None:
        """The end of a take puts it in line; its page says so, until the worker has heard it."""
        with mock.patch.object(microphone, "through_microphone", side_effect=AssertionError("in a request")):
            take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 20.0)), heard=False)
            self.assertContains(self.client.get(take.get_absolute_url()), "This take is being read.", status_code=202)
        call_command("work", once=True)
        self.assertGreater(len(Take.objects.get().reading.onsets_s), 40)
        self.assertEqual(self.client.get(take.get_absolute_url()).status_code, 200)

    def test_a_worker_that_died_is_followed_by_another(self) -> None:
        take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 20.0)), heard=False)
        DBTaskResult.objects.update(status=TaskResultStatus.RUNNING)  # who ran it is dead, and holds no lock
        call_command("work", once=True)
        self.assertGreater(len(Take.objects.get(pk=take.pk).reading.onsets_s), 40)

    def test_reading_writes_nothing_of_the_take(self) -> None:
        take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 20.0)))
        before = (Take.objects.values().get(), list(take.batches.values()))
        read_take(take.pk)
        self.assertEqual((Take.objects.values().get(), list(take.batches.values())), before)

    def test_words_that_counted_and_were_heard_are_said(self) -> None:
        body = heard_body()
        body["device"]["counted"] = True
        with mock.patch(f"{__name__}.heard_body", return_value=body):
            take = self.send_sound(self.sound(Room("wood", -25.0, -60.0, 20.0)))
        self.assertIn("the voice that counts", " ".join(take.hearing.remarks))

    def test_nothing_heard_is_said_and_kept(self) -> None:
        take = self.send_sound(pieces_of(np.zeros(6 * RATE_HZ), round(ZERO_AUDIO_S * RATE_HZ)))
        self.assertEqual(take.reading.onsets_s, [])
        self.assertContains(self.client.get(take.get_absolute_url()), "Too few notes to read.")

    def test_broken_sound_is_refused_in_one_line(self) -> None:
        post(self.client, f"{self.path}begin/", heard_body())
        for sound, said in (
            ([{"frame": 1, "samples": "AAA"}], "sound"),
            ([{"frame": -1, "samples": "AAAA"}], "sound[0].frame"),
            ([{"frame": 1, "samples": base64.b64encode(b"abc").decode()}], "half a sample"),
            ([{"frame": 1}], "samples and flac, or neither"),
            ("loud", "sound"),
        ):
            answer = post(self.client, f"{self.path}batches/0/", {"notes": [], "pairs": [], "sound": sound})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.json()["error"])
        wrong = heard_body(threshold_db=5)
        self.assertIn("threshold_db", post(self.client, f"/takes/{uuid4()}/begin/", wrong).json()["error"])
        self.assertEqual(SoundPiece.objects.count(), 0)


class FourWaysTests(CommittedTestCase):
    def test_tapped_midi_microphone_and_a_phone_agree_within_their_ranges(self) -> None:
        """The same simulated player by keys, MIDI, loudspeaker and microphone, and a phone across the room."""
        plan = schedule(validate(DRILL))
        onsets_s = simulate(plan, HAND, seed=4).onsets_s
        takes = {"keys": send(self.client, DRILL, onsets_s), "midi": self.by_midi(onsets_s)}
        tests = SoundTests()
        tests.client, tests.plan, tests.onsets_s = self.client, plan, onsets_s
        tests.path = f"/takes/{uuid4()}/"
        pieces = tests.sound(Room("skin", -25.0, -60.0, 43.0))
        post(self.client, f"{tests.path}begin/", heard_body())
        for number, at in enumerate(range(0, len(pieces), 60)):
            post(
                self.client,
                f"{tests.path}batches/{number}/",
                {"notes": [], "pairs": [], "sound": pieces[at : at + 60]},
            )
        post(self.client, f"{tests.path}end/", {"how": "complete", "batches": -(-len(pieces) // 60)})
        call_command("work", once=True)
        takes["microphone"] = Take.objects.get(pk=tests.path.split("/")[2])
        takes["phone"] = self.by_phone(recording(plan, onsets_s, Room("skin", -22.0, -52.0, 60.0, 90.0), seed=4))
        readings = {way: take.reading.found for way, take in takes.items()}
        tapped = readings["keys"]
        assert tapped
        for way, found in readings.items():
            assert found, way
            for one, other in zip(found.silences, tapped.silences, strict=True):
                self.assertEqual(one.outcome, other.outcome, way)
                assert one.ci95_ms
                assert other.ci95_ms
                self.assertAlmostEqual(one.drift_ms or 0, other.drift_ms or 0, delta=3.0, msg=way)
                self.assertTrue(one.ci95_ms[0] <= (other.drift_ms or 0) <= one.ci95_ms[1], way)
            self.assertAlmostEqual(found.heard.mean_error_ms or 0, tapped.heard.mean_error_ms or 0, delta=1.5, msg=way)

    def by_midi(self, onsets_s: FloatArray) -> Take:
        """Send the notes as a MIDI instrument gives them: two to the chord."""
        take_id = uuid4()
        body = begin_body(DRILL, input="midi", hearing={"by": "midi", "device": "pads"})
        self.assertEqual(post(self.client, f"/takes/{take_id}/begin/", body).status_code, 200)
        batch = notes_body(onsets_s)
        chords = [{**note, "source": "midi", "strength": 0.5} for note in batch["notes"]]
        batch["notes"] = chords + [{**note, "at_ms": note["at_ms"] + 8, "strength": 0.7} for note in chords]
        post(self.client, f"/takes/{take_id}/batches/0/", batch)
        post(self.client, f"/takes/{take_id}/end/", {"how": "complete", "batches": 1})
        take = Take.objects.get(pk=take_id)
        self.assertEqual((len(take.reading.onsets_s or []), take.reading.strengths[0]), (onsets_s.size, 0.7))
        return take

    def by_phone(self, samples: FloatArray) -> Take:
        """Drop what a phone recorded, and let the worker hear it."""
        buffer = io.BytesIO()
        soundfile.write(buffer, samples, RATE_HZ, format="WAV", subtype="PCM_16")
        client = Client()
        address = "/recording/?drill=two-heard-two-silent&bpm=96&cycles=8"
        answer = client.post(address, {"file": SimpleUploadedFile("phone.wav", buffer.getvalue())})
        self.assertEqual(answer.status_code, 302)
        call_command("work", once=True)
        return Take.objects.get(input="recording")


@override_settings(SOUND_IN_STORAGE=True)
class InStorageTests(SoundTestCase):
    """The sound in the storage, as on many hosts: all of it, and no byte in the database."""

    def test_the_database_holds_no_sample_and_the_storage_nothing_that_is_over(self) -> None:
        take = self.send_sound(self.sound(Room("wood", None, -60.0)), twice=True, heard=False)
        sizes = [len(bytes(one)) for one in SoundPiece.objects.values_list("samples", flat=True)]
        self.assertEqual((sum(sizes), len(sizes) > 10), (0, True))
        names = list(SoundPiece.objects.values_list("file", flat=True))
        self.assertTrue(all(default_storage.exists(name) for name in names))
        _, files = default_storage.listdir(f"pieces/{take.pk}")
        self.assertEqual(len(files), len(names))  # sent twice, kept once
        call_command("work", once=True)
        self.assertEqual(SoundPiece.objects.count(), 0)
        self.assertFalse(any(default_storage.exists(name) for name in names))
        self.assertEqual(len(Take.objects.get().reading.onsets_s), self.onsets_s.size)
