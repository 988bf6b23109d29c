"""What pads are called: by General MIDI on the channel of percussion, by the player's own names before that."""

from __future__ import annotations

from django.test import TestCase
from django.urls import reverse

from giusto.simulation.player import SimulatedPlayer, simulate
from studio.accounts.models import local_player
from studio.hearing.models import Ear, ear_of
from studio.hearing.pads import names_of, pad_name, written
from studio.takes.models import Take
from tests.drills import planned
from tests.studio.playing import begin_body, notes_body, post

HEARD = {"by": "midi", "channel": "0", "keeps_sound": "no", "counts_in": "yes", "counts_by": "drill", "pads": "{}"}
HEARD |= {"sound": "wood", "bleed_db": "-25", "noise_db": "-60", "delay_ms": "38"}


class NamesTests(TestCase):
    def test_keys_notes_drums_and_a_second_instrument(self) -> None:
        ear = Ear(pad_names={"40": "left stick"})
        for source, called in (
            ("f", "the F key"),
            ("note:60", "note 60"),
            ("drum:42", "closed hat"),
            ("drum:99", "pad 99"),
            ("drum:40", "left stick"),
            ("drum:38/2", "snare, instrument 2"),
            ("microphone", "other sounds"),
            ("Frame drum", "Frame drum"),
        ):
            self.assertEqual(pad_name(ear, source), called)

    def test_as_they_are_written(self) -> None:
        self.assertEqual(names_of(" 38 left stick,40 right stick , "), {"38": "left stick", "40": "right stick"})
        self.assertEqual(written({"38": "left stick", "40": "right stick"}), "38 left stick, 40 right stick")
        for wrong in ("snare", "128 too high", "38", ", ".join(f"{n} pad" for n in range(30))):
            with self.assertRaises(ValueError):
                names_of(wrong)

    def test_chosen_on_the_page_kept_and_refused_in_words(self) -> None:
        page = self.client.post(reverse("hearing:heard"), HEARD | {"called": "38 left, 40 right"}, follow=True)
        self.assertContains(page, 'value="38 left, 40 right"')
        self.client.post(reverse("hearing:heard"), HEARD)  # a page of before has no such word
        self.assertEqual(ear_of(local_player()).pad_names, {"38": "left", "40": "right"})
        page = self.client.post(reverse("hearing:heard"), HEARD | {"called": "left 38"})
        self.assertContains(page, "“left 38” is no note and its name", status_code=422)


class ReadingTests(TestCase):
    def test_two_pads_are_told_apart_on_the_reading(self) -> None:
        Ear.objects.update_or_create(player=local_player(), defaults={"pad_names": {"38": "left", "40": "right"}})
        path, plan = "/takes/1d0aee62-6f0f-4ef5-b8a2-0a54f2c0c3aa/", planned(cycles=8, accent="first")
        onsets_s = simulate(plan, SimulatedPlayer(hand_ms=4.0), seed=6).onsets_s
        body = begin_body(plan.drill.plain(), input="midi", hearing={"by": "midi", "device": "pads"})
        self.assertEqual(post(self.client, f"{path}begin/", body).status_code, 200)
        batch = notes_body(onsets_s)
        for number, note in enumerate(batch["notes"]):
            note |= {"source": ("note:38", "note:40")[number % 2], "strength": 0.5}
        post(self.client, f"{path}batches/0/", batch)
        post(self.client, f"{path}end/", {"how": "complete", "batches": 1})
        page = self.client.get(Take.objects.get().get_absolute_url())
        for words in ("Spread of left", "Spread of right", "against right", "Your accents"):
            self.assertContains(page, words)
