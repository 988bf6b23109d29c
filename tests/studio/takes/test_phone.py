"""A phone is the ear of the desk: its sound lies on its own clock, joined by the click or by the server's time."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from uuid import uuid4

import numpy as np
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from giusto.simulation.instrument import LEAD_S, Room, recording
from studio.accounts.models import Player, local_player
from studio.hearing.models import Ear
from studio.takes.models import SoundPiece, Take
from tests.studio.playing import begin_body, play, post
from tests.studio.takes.test_sound import DRILL, RATE_HZ, SoundTestCase, pieces_of

ZERO_MS = 1_796_000_000_000.0  # when the drill began, by the server
PHONE_ZERO_S = 731.25  # by the phone's audio clock
DESK_HZ = 48_000
FEW = 20  # pieces at once


class PhoneTestCase(SoundTestCase):
    def begin(self, half_ms: float = 4.0) -> None:
        """Begin a take that a phone hears."""
        device = {"browser": "desk", "sample_rate_hz": DESK_HZ, "voice": "wood"}
        device |= {"zero_server_ms": ZERO_MS, "zero_half_ms": half_ms}
        body = begin_body(DRILL, input="phone", device=device, hearing={"by": "phone", "device": ""})
        self.assertEqual(post(self.client, f"{self.path}begin/", body).status_code, 200)

    def send_phone(self, pieces: list[dict[str, Any]], *, off_ms: float = 0.0, over: bool = False) -> Any:
        """Send sound, with a pair of the phone's clock and the server's that is off by so much."""
        clock = {"rate_hz": RATE_HZ, "audio_s": PHONE_ZERO_S + 9.0, "server_ms": ZERO_MS + 9000.0 + off_ms}
        body = {**clock, "half_ms": 6.0, "sound": pieces, "over": over}
        return post(self.client, f"{self.path}phone/", body)

    def heard(self, room: Room, *, off_ms: float = 0.0) -> Take:
        """Return a take that a phone heard, read once its last sound was there."""
        samples = recording(self.plan, self.onsets_s, room, seed=4)
        pieces = pieces_of(samples, round((PHONE_ZERO_S - LEAD_S) * RATE_HZ))
        self.begin()
        third = len(pieces) // 3
        for some in (pieces[third : 2 * third], pieces[:third], pieces[2 * third : -FEW]):
            for at in range(0, len(some), FEW):
                self.assertEqual(self.send_phone(some[at : at + FEW], off_ms=off_ms).status_code, 200)
        ended = post(self.client, f"{self.path}end/", {"how": "complete", "batches": 0})
        self.assertEqual((ended.status_code, ended.json()["kept"]), (200, True))
        call_command("work", once=True)
        self.assertFalse(hasattr(Take.objects.get(), "reading"))  # its last sound is still to come
        self.assertEqual(self.send_phone(pieces[-FEW:], off_ms=off_ms, over=True).status_code, 200)
        call_command("work", once=True)
        return Take.objects.get()


class PhoneTests(PhoneTestCase):
    def test_where_it_hears_the_click_the_click_joins_the_clocks(self) -> None:
        """Network times off by 40 ms change nothing: the notes come out as they were played."""
        take = self.heard(Room("skin", -25.0, -60.0, 43.0), off_ms=40.0)
        self.assertEqual((take.hearing.source.by, take.hearing.phone.rate_hz), ("bleed", RATE_HZ))
        found = np.array(take.reading.onsets_s)
        near = np.array([np.min(np.abs(found - at)) for at in self.onsets_s])
        self.assertGreater(float(np.mean(near < 0.005)), 0.95)
        self.assertEqual(SoundPiece.objects.count(), 0)
        self.assertContains(self.client.get(take.get_absolute_url()), "a phone beside")

    def test_with_headphones_the_servers_time_joins_them_and_the_range_is_told(self) -> None:
        """Off by 7 ms: the place is off by as much, and within the range that is told; the silences are not."""
        take = self.heard(Room("wood", None, -60.0), off_ms=7.0)
        source = take.hearing.source
        self.assertEqual(source.by, "clock")
        self.assertAlmostEqual((source.zero_ci95_ms[1] - source.zero_ci95_ms[0]) / 2, 10.0, delta=0.1)
        off_ms = [
            1000 * (np.array(take.reading.onsets_s) - at)[np.argmin(np.abs(np.array(take.reading.onsets_s) - at))]
            for at in self.onsets_s
        ]
        self.assertAlmostEqual(float(np.median(off_ms)), 7.0, delta=1.5)
        self.assertLess(float(np.std(off_ms)), 3.0)

    def test_the_closest_pair_of_clocks_counts(self) -> None:
        self.begin()
        self.send_phone([], off_ms=30.0)
        first = Take.objects.get().hearing.phone
        clock = {"rate_hz": RATE_HZ, "audio_s": PHONE_ZERO_S, "server_ms": ZERO_MS, "half_ms": 1.0, "sound": []}
        post(self.client, f"{self.path}phone/", clock)
        better = Take.objects.get().hearing.phone
        self.assertLess(better.half_s, first.half_s)
        self.assertAlmostEqual(better.zero_s, PHONE_ZERO_S, places=6)
        post(self.client, f"{self.path}phone/", clock | {"half_ms": 50.0, "audio_s": 3.0})
        self.assertEqual(Take.objects.get().hearing.phone, better)

    def test_a_take_that_no_phone_heard_is_read_as_that(self) -> None:
        self.begin()
        post(self.client, f"{self.path}end/", {"how": "complete", "batches": 0})
        self.assertEqual(self.send_phone([], over=True).status_code, 200)
        self.assertContains(self.client.get(Take.objects.get().get_absolute_url()), "Too few notes to read.")

    def test_another_take_a_strangers_and_a_message_that_lies(self) -> None:
        take = play(self.client)
        answer = post(
            self.client,
            f"/takes/{take.pk}/phone/",
            {"rate_hz": RATE_HZ, "audio_s": 1, "server_ms": 1} | {"half_ms": 1, "sound": []},
        )
        self.assertEqual((answer.status_code, answer.json()["error"]), (422, "this take is heard by no phone"))
        self.assertEqual(post(self.client, f"/takes/{uuid4()}/phone/", {}).status_code, 404)
        self.begin()
        for wrong in ({"rate_hz": 3}, {"half_ms": -1}, {"sound": "loud"}, {"audio_s": float("inf")}):
            body = {"rate_hz": RATE_HZ, "audio_s": 1.0, "server_ms": 1.0, "half_ms": 1.0, "sound": []} | wrong
            self.assertEqual(post(self.client, f"{self.path}phone/", body).status_code, 422)


class NowTests(TestCase):
    def test_which_take_is_played_and_whether_a_phone_listens(self) -> None:
        address = reverse("takes:phone-now")
        before = timezone.now().timestamp() * 1000
        told = self.client.get(address).json()
        self.assertEqual((told["take"], told["listens"]), (None, False))
        self.assertLess(abs(told["now_ms"] - before), 5000)
        self.client.post(address)
        self.assertTrue(self.client.get(address).json()["listens"])
        path = f"/takes/{uuid4()}/"
        device = {"browser": "desk", "sample_rate_hz": DESK_HZ, "zero_server_ms": ZERO_MS, "zero_half_ms": 1.0}
        now = timezone.now().isoformat()
        body = begin_body(DRILL, input="phone", device=device, hearing={"by": "phone"}, started_at=now)
        self.assertEqual(post(self.client, f"{path}begin/", body).status_code, 200)
        self.assertEqual(self.client.get(address).json()["take"], str(Take.objects.get().pk))
        Take.objects.update(started_at=timezone.now() - timedelta(hours=3))
        self.assertIsNone(self.client.get(address).json()["take"])
        Ear.objects.update(phone_at=timezone.now() - timedelta(minutes=1))
        self.assertFalse(self.client.get(address).json()["listens"])

    def test_the_page_of_the_phone_and_the_words_for_it(self) -> None:
        self.assertContains(self.client.get(reverse("takes:phone")), "The ear of the desk")
        Ear.objects.update_or_create(player=local_player(), defaults={"by": "phone"})
        self.assertContains(self.client.get(reverse("hearing:heard")), "testserver/ear/")
        self.assertNotEqual(Player.objects.count(), 0)
