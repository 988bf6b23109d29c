"""Instruments of a player: learned from what the page hears, kept, used in the next take, forgotten."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.test import TestCase
from django.urls import reverse

from giusto.drill import validate
from giusto.hearing.level import Gate
from giusto.hearing.timbre import learned
from giusto.schedule import schedule
from giusto.simulation.instrument import strike
from giusto.simulation.player import simulate
from studio.accounts.models import Player, local_player
from studio.archive.reading import read_archive
from studio.hearing import instruments
from studio.hearing.instruments import let_in
from studio.hearing.models import Ear, Instrument
from studio.hearing.plan import ear_plan
from studio.takes.models import Take
from tests.giusto.hearing.test_timbre import RATE_HZ as LEARNED_HZ
from tests.giusto.hearing.test_timbre import played
from tests.studio.playing import ZERO_AUDIO_S
from tests.studio.takes.test_sound import DRILL, HAND, RATE_HZ, SoundTestCase, pieces_of


def learn(client: Any, sound: str, name: str, strokes: int = 10) -> Any:
    """Send what the page heard of an instrument."""
    samples, _ = played([sound] * strokes, seed=5)
    content = np.round(32767 * samples.read(0, samples.frames)).astype("<i2").tobytes()
    body = {"sound": SimpleUploadedFile("sound", content), "rate": LEARNED_HZ, "frame": 0, "name": name}
    return client.post(reverse("hearing:learn"), body)


class InstrumentTests(TestCase):
    def test_learned_kept_under_its_name_and_forgotten(self) -> None:
        answer = learn(self.client, "skin", "Frame drum")
        self.assertEqual(answer.json(), {"name": "Frame drum", "strokes": 10})
        learn(self.client, "wood", "frame DRUM")  # the same name again: in its place
        kept = Instrument.objects.get()
        self.assertEqual(kept.name, "frame DRUM")
        Ear.objects.update_or_create(player=local_player(), defaults={"by": "microphone"})
        self.assertContains(self.client.get(reverse("hearing:heard")), "frame DRUM")
        self.client.post(reverse("hearing:forget-instrument", args=[kept.pk]))
        self.assertEqual(Instrument.objects.count(), 0)

    def test_too_few_strokes_no_name_and_too_many_instruments(self) -> None:
        self.assertIn("3 strokes stand clear", learn(self.client, "wood", "Block", strokes=3).json()["error"])
        self.assertIn("Give it a name", learn(self.client, "wood", "").json()["error"])
        self.assertIn("name", learn(self.client, "wood", "x" * 13).json()["error"])
        one = learned(played(["wood"] * 10, seed=5)[0], "x")
        for number in range(instruments.MOST):
            Instrument.objects.create(player=local_player(), name=str(number), shapes=one.shapes.tolist())
        self.assertIn("allowed are no more", learn(self.client, "wood", "Block").json()["error"])

    def test_the_softest_instrument_is_heard_and_the_fastest(self) -> None:
        """After a level check with a loud one; without a check nothing is left out, and an old row asks for nothing."""
        self.assertIsNone(ear_plan(local_player())["threshold_db"])
        strict = Gate(-20.0, 0.2)
        self.assertEqual(let_in(local_player(), strict), strict)
        learn(self.client, "skin", "Drum")
        self.assertIsNone(ear_plan(local_player())["threshold_db"])
        drum = Instrument.objects.get()
        own = Gate(drum.softest_db or 0.0, drum.closest_s or 0.0)
        self.assertLess(own.threshold_db, -20.0)
        self.assertEqual(let_in(local_player(), strict), own)
        self.assertEqual(let_in(local_player(), Gate(-60.0, 0.02)), Gate(-60.0, 0.02))
        Ear.objects.create(player=local_player(), by="microphone", threshold_db=-20.0, refractory_s=0.2)
        plan = ear_plan(Player.objects.get(pk=local_player().pk))
        self.assertEqual((plan["threshold_db"], plan["refractory_s"]), (own.threshold_db, own.refractory_s))
        Instrument.objects.update(softest_db=None)
        self.assertEqual(let_in(local_player(), strict), strict)

    def test_it_goes_along_in_the_archive(self) -> None:
        learn(self.client, "skin", "Drum")
        before = Instrument.objects.values_list("shapes", "softest_db", "closest_s").get()
        archive = self.client.get(reverse("archive:take-out")).getvalue()
        Player.objects.all().delete()
        read_archive(local_player(), io.BytesIO(archive))
        self.assertEqual(Instrument.objects.values_list("shapes", "softest_db", "closest_s").get(), before)


class TakeTests(SoundTestCase):
    def test_two_instruments_of_a_take_are_told_apart_on_its_reading(self) -> None:
        learn(self.client, "skin", "Drum")
        learn(self.client, "wood", "Block")
        plan, rng = schedule(validate(DRILL)), np.random.default_rng(2)
        onsets_s = simulate(plan, HAND, seed=4).onsets_s
        sound = 1e-3 * rng.standard_normal(round((float(onsets_s[-1]) + 3) * RATE_HZ))
        for number, at_s in enumerate(onsets_s.tolist()):
            stroke = rng.uniform(0.2, 0.5) * strike(("skin", "wood")[number % 2], rng, rate_hz=RATE_HZ)
            at = round((1 + at_s) * RATE_HZ)
            sound[at : at + stroke.size] += stroke[: sound.size - at]
        self.send_sound(pieces_of(sound, round((ZERO_AUDIO_S - 1) * RATE_HZ)))
        take = Take.objects.get()
        self.assertEqual(set(take.reading.sources), {"Drum", "Block"})
        page = self.client.get(take.get_absolute_url())
        self.assertContains(page, "Spread of Drum")
        self.assertContains(page, "Spread of Block")
        call_command("reread", "--all", verbosity=0)  # the sound is gone; what was played on is kept with the notes
        self.assertEqual(set(Take.objects.get().reading.sources), {"Drum", "Block"})
