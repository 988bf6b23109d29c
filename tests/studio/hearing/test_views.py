"""By what a player is heard: the choice, the level, strokes, delays; each refused clearly."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.utils import timezone

from giusto.arrays import FloatArray
from giusto.click.voice import click_samples
from giusto.hearing.delay import calibration_clicks
from giusto.simulation.instrument import strike
from studio.accounts.models import local_player
from studio.hearing.models import BY, Delay, Ear, ear_of
from studio.hearing.plan import ear_plan, tapped_clicks_s

RATE_HZ = 48_000
WORDS = {
    "by": "keys",
    "microphone": "",
    "port": "",
    "channel": "0",
    "keeps_sound": "no",
    "counts_in": "yes",
    "counts_by": "drill",
    "pads": "{}",
    "sound": "skin",
    "bleed_db": "-25",
    "noise_db": "-60",
    "delay_ms": "38",
}


def sound_file(samples: FloatArray) -> SimpleUploadedFile:
    """Return samples as the page sends them."""
    return SimpleUploadedFile("sound", np.round(32767 * np.clip(samples, -1, 1)).astype("<i2").tobytes())


def strokes_at(times_s: list[float], seconds: float = 5.0) -> FloatArray:
    """Return wood struck at these times in a quiet room."""
    generator = np.random.default_rng(1)
    found = 1e-3 * generator.standard_normal(round(seconds * RATE_HZ))
    for at_s in times_s:
        stroke = 0.4 * strike("wood", generator, rate_hz=RATE_HZ)
        at = round(at_s * RATE_HZ)
        found[at : at + stroke.size] += stroke[: found.size - at]
    return found


class ChoiceTests(TestCase):
    def post(self, **changes: Any) -> Any:
        return self.client.post("/heard/", WORDS | changes)

    def test_each_way_can_be_chosen(self) -> None:
        self.assertContains(self.client.get("/heard/"), "How you are heard")
        for by in BY:
            self.assertEqual(self.post(by=by).status_code, 302, by)
            self.assertEqual(ear_of(local_player()).by, by)
            self.assertContains(self.client.get("/heard/"), BY[by])
            self.assertContains(self.client.get("/play/?drill=two-heard-two-silent"), BY[by])

    def test_pads_are_notes_pedals_and_keys(self) -> None:
        chosen = {"again": "note:36", "stop": "pedal:64", "harder": "key:PageDown"}
        self.post(pads=json.dumps(chosen))
        self.assertEqual(Ear.objects.get().pads, chosen)
        for wrong, said in (
            ({"again": "note:36", "stop": "note:36"}, "One pad can’t stand for two things."),
            ({"louder": "note:1"}, "Allowed are again, easier, harder, stop."),
            ({"again": "<b>"}, "What is chosen for again is no note, pedal or key."),
            ([1], "Allowed are again"),
        ):
            self.assertContains(self.post(pads=json.dumps(wrong)), said, status_code=422)
        self.assertContains(self.post(pads="{"), "valid JSON", status_code=422)
        self.assertEqual(Ear.objects.get().pads, chosen)

    def test_what_is_no_choice_is_refused(self) -> None:
        for field, value in (("by", "telepathy"), ("channel", "17"), ("delay_ms", "9"), ("sound", "glass")):
            self.assertEqual(self.post(**{field: value}).status_code, 422, field)

    def test_the_way_back_is_to_a_page_of_ours(self) -> None:
        came = self.client.get("/heard/", headers={"Referer": "http://testserver/play/?drill=two-and-four"})
        self.assertContains(came, "Back to the drill")
        for wrong in ("http://elsewhere/play/?x", "http://testserver/log/"):
            self.assertNotContains(self.client.get("/heard/", headers={"Referer": wrong}), "Back to the drill")
        self.assertNotContains(self.client.get("/heard/?back=https://elsewhere/"), "Back to the drill")


class ListenTests(TestCase):
    def listen(self, samples: FloatArray, **changes: Any) -> Any:
        body = {"sound": sound_file(samples), "rate": RATE_HZ, "frame": 96_000}
        return self.client.post("/heard/listen/", {**body, **changes})

    def test_the_level_is_told_and_its_gate_kept(self) -> None:
        told = self.listen(strokes_at([0.5, 1.3, 2.2])).json()
        self.assertEqual((told["code"], told["strokes"], told["counted"]), ("good", 3, None))
        self.assertEqual(Ear.objects.get().threshold_db, told["threshold_db"])

    def test_four_even_strokes_count_in(self) -> None:
        told = self.listen(strokes_at([2.5, 3.0, 3.5, 4.0])).json()
        self.assertAlmostEqual(told["counted"]["last_s"], 2.0 + 4.0, delta=0.002)  # from frame 96,000 on
        self.assertEqual(told["counted"]["bpm"], 120.0)
        for strokes in ([2.5, 3.0, 3.7, 4.0], [1.0, 1.5, 2.0, 2.5]):  # uneven; after a rest that nobody heard
            self.assertIsNone(self.listen(strokes_at(strokes)).json()["counted"])

    def test_what_is_no_sound_is_refused(self) -> None:
        half = SimpleUploadedFile("sound", b"abc")
        for changes, said in (({"sound": half}, "whole samples"), ({"rate": 5}, "rate"), ({"frame": -1}, "frame")):
            answer = self.listen(np.zeros(100), **changes)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(said, answer.json()["error"])

    def test_strokes_by_their_times(self) -> None:
        counted = self.client.get("/heard/strokes/", {"ms": "[3000, 3500, 4000, 4500]"}).json()["counted"]
        self.assertEqual((counted["last_s"], counted["beat_s"]), (4.5, 0.5))
        late = {"ms": "[3000, 3500, 4000, 4500]", "since": "[1500]"}
        self.assertIsNone(self.client.get("/heard/strokes/", late).json()["counted"])
        self.assertIsNone(self.client.get("/heard/strokes/", {"ms": "[1000, 1500, 2000]"}).json()["counted"])
        for wrong in ("", "[", '["a"]', "[2, 1]", "[[1]]", "{}", "[" * 3000):
            answer = self.client.get("/heard/strokes/", {"ms": wrong})
            self.assertIn(answer.status_code, (200, 422), wrong)
            if answer.status_code == 200:
                self.assertIsNone(answer.json()["counted"])

    def test_strokes_that_begin_nothing_today(self) -> None:
        Ear.objects.create(player=local_player(), by="stand-in-midi")
        there = "/play/?drill=two-heard-two-silent"
        self.assertContains(self.client.get(there), "four even strokes: the take begins")
        self.client.post(f"/heard/still/?back={there}", {"still": "yes"})
        self.assertContains(self.client.get(there), "Strokes begin nothing today")
        self.assertFalse(ear_plan(local_player())["counts_in"])
        Ear.objects.update(still_on=timezone.localdate() - timedelta(days=1))
        self.assertTrue(ear_plan(local_player())["counts_in"])  # of that day alone
        self.client.post("/heard/still/", {"still": "no"})
        self.assertIsNone(Ear.objects.get().still_on)

    def test_strokes_of_the_stand_in(self) -> None:
        answer = self.client.get("/heard/stroke/wood/3/48000/")
        samples = np.frombuffer(answer.content, dtype="<f4")
        self.assertAlmostEqual(float(np.max(np.abs(samples))), 1.0, places=6)
        for wrong in ("glass/0/48000", "wood/99/48000", "wood/0/44000"):
            self.assertEqual(self.client.get(f"/heard/stroke/{wrong}/").status_code, 404)


class DelayTests(TestCase):
    def trip(self, delay_s: float, **changes: Any) -> Any:
        sent_s = 0.6 + calibration_clicks()
        found = np.zeros(round((sent_s[-1] + 1.2) * RATE_HZ))
        click = 0.2 * click_samples("wood", "click", rate_hz=RATE_HZ).astype(np.float64)
        for at in np.round((sent_s + delay_s) * RATE_HZ).astype(int).tolist():
            found[at : at + click.size] += click
        sent = (500_000 + np.round(sent_s * RATE_HZ)).astype(int).tolist()
        body = {"sound": sound_file(found), "rate": RATE_HZ, "frame": 500_000, "sent": json.dumps(sent)}
        return self.client.post("/heard/trip/", {**body, "by": "microphone", "device": "desk", **changes})

    def test_the_round_trip_is_kept_newest_only_and_forgotten(self) -> None:
        for delay_s in (0.05, 0.0312):
            answer = self.trip(delay_s)
            self.assertEqual(answer.status_code, 200, answer.content)
        delay = Delay.objects.get()
        self.assertAlmostEqual(delay.delay_ms, 31.2, delta=0.05)
        self.assertContains(self.client.get("/heard/"), "31.2 ms")
        self.client.post(f"/heard/delays/{delay.pk}/forget/")
        self.assertEqual(Delay.objects.count(), 0)

    def test_what_cannot_be_measured_is_said(self) -> None:
        silent = self.trip(0.0, sound=sound_file(np.zeros(12 * RATE_HZ)))
        self.assertEqual(silent.status_code, 422)
        self.assertEqual(silent.json()["error"], "The clicks are not heard in the microphone.")
        for changes in ({"sent": "[]"}, {"sent": "[2,1]"}, {"sent": "x"}, {"by": "telepathy"}):
            self.assertEqual(self.trip(0.03, **changes).status_code, 422, changes)
        self.assertEqual(Delay.objects.count(), 0)

    def test_taps_are_device_and_habit(self) -> None:
        clicks_s = 3.0 + np.array(tapped_clicks_s())
        taps_ms = 1000 * (clicks_s + 0.052 - 1.5)  # the page's clock is 1.5 s behind
        body = {
            "taps": json.dumps(taps_ms.tolist()),
            "pairs": json.dumps([[2.0, 500.0], [20.0, 18_500.0]]),
            "clicks": json.dumps(clicks_s.tolist()),
            "by": "keys",
        }
        answer = self.client.post("/heard/taps/", body)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertAlmostEqual(Delay.objects.get().delay_ms, 52.0, delta=0.01)
        few = self.client.post("/heard/taps/", body | {"taps": json.dumps(taps_ms[:4].tolist())})
        self.assertIn("4 of 4 taps came with a click", few.json()["error"])
        self.assertEqual(self.client.post("/heard/taps/", body | {"pairs": "[[1]"}).status_code, 422)
